// What is told to the graphics card: boxes as many as there are, programs when they are needed, uniforms where they differ.
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { Camera, webMercator } from '@flintwright/core/internal';
import { fanOffset, uncrowded, viewBox } from '../../src/clusters/cluster-placing.js';
import { boxFloats, BoxList } from '../../src/gl/boxes.js';
import { Device } from '../../src/gl/device.js';

/** A canvas whose WebGL notes what it is told, and answers that all went well. */
function noting() {
  const told: [string, ...unknown[]][] = [];
  const gl = new Proxy({} as Record<string, unknown>, {
    get(_, name: string) {
      if (name === name.toUpperCase()) return name;
      return (...args: unknown[]) => {
        told.push([name, ...args]);
        if (name === 'createProgram' || name === 'createShader') return { made: told.length };
        if (name === 'getUniformLocation') return args[1];
        return name === 'getShaderParameter' || name === 'getProgramParameter';
      };
    },
  });
  const device = new Device({ getContext: () => gl } as unknown as HTMLCanvasElement);
  const names = (...wanted: string[]) => told.filter(([name]) => wanted.includes(name));
  return { device, told, names };
}

describe('programs', () => {
  const shaders = { vertex: 'v', fragment: 'f' };

  test('are compiled when they are first used, once', () => {
    const { device, names } = noting();
    const program = device.program(shaders);
    expect(names('createProgram', 'compileShader', 'linkProgram')).toEqual([]);
    const { program: made } = program;
    expect(program.program).toBe(made);
    program.at('u_matrix');
    expect(names('createProgram')).toHaveLength(1);
    expect(names('compileShader')).toHaveLength(2);
    device.dropProgram(program);
    expect(names('deleteProgram')).toEqual([['deleteProgram', made]]);
    device.dropProgram(program);
    expect(names('deleteProgram')).toHaveLength(1);
  });

  test('that were never used are dropped without a word', () => {
    const { device, names } = noting();
    device.dropProgram(device.program(shaders));
    expect(names('createProgram', 'deleteProgram')).toEqual([]);
  });

  test('are told a uniform where it differs, each its own', () => {
    const { device, names } = noting();
    const [one, other] = [device.program(shaders), device.program(shaders)];
    one.float('u_opacity', 0.5);
    one.float('u_opacity', 0.5);
    other.float('u_opacity', 0.5);
    one.float('u_opacity', 0.25);
    one.float('u_opacity', 0.5);
    expect(names('uniform1f')).toEqual([0.5, 0.5, 0.25, 0.5].map((v) => ['uniform1f', 'u_opacity', v]));
    one.int('u_rows', 0);
    one.int('u_rows', 0);
    expect(names('uniform1i')).toEqual([['uniform1i', 'u_rows', 0]]);
    one.pair('u_viewport', 800, 600);
    one.pair('u_viewport', 800, 600);
    one.pair('u_viewport', 800, 601);
    one.pair('u_viewport', 801, 601);
    one.pair('u_viewport', 801, 601);
    expect(names('uniform2f').map(([, , ...pair]) => pair)).toEqual([
      [800, 600],
      [800, 601],
      [801, 601],
    ]);
  });

  test('whatever is asked of two of them by turns, each holds what it was told last', () => {
    const step = fc.record({
      which: fc.integer({ min: 0, max: 1 }),
      name: fc.constantFrom('a', 'b'),
      value: fc.integer({ min: 0, max: 3 }),
    });
    fc.assert(
      fc.property(fc.array(step, { maxLength: 40 }), (steps) => {
        const { device, told } = noting();
        const programs = [device.program(shaders), device.program(shaders)];
        const [held, wanted] = [new Map<string, unknown>(), new Map<string, unknown>()];
        for (const { which, name, value } of steps) {
          const before = told.length;
          programs[which].float(name, value);
          for (const [call, , given] of told.slice(before))
            if (call === 'uniform1f') held.set(`${which}${name}`, given);
          wanted.set(`${which}${name}`, value);
        }
        expect(held).toEqual(wanted);
      }),
    );
  });
});

describe('boxes', () => {
  const put = (list: BoxList, n: number) =>
    list.put([n, n + 1, 2, 3], [0, 0, 1, 1], [n, n, n, 1], [1, 1, 1, 1], [4, 5, 6]);
  const box = (list: BoxList, i: number) => [...list.floats.subarray(i * boxFloats, (i + 1) * boxFloats)];

  test('are kept however many there are, and their room is used again', () => {
    const list = new BoxList(1);
    for (let n = 0; n < 5000; n++) put(list, n);
    expect(list.count).toBe(5000);
    for (const n of [0, 1, 255, 4999])
      expect(box(list, n)).toEqual([n, n + 1, 2, 3, 0, 0, 1, 1, n, n, n, 1, 1, 1, 1, 1, 4, 5, 6, 0]);
    const { floats } = list;
    list.clear();
    expect(list.count).toBe(0);
    put(list, 7);
    expect(list.floats).toBe(floats);
    expect(box(list, 0)[0]).toBe(7);
  });

  test('of a pattern are moved, and their colors thinned', () => {
    const [pattern, list] = [new BoxList(1), new BoxList(1)];
    put(pattern, 1);
    put(pattern, 2);
    list.putAll(pattern, 100, 200, 1);
    list.putAll(pattern, -1, 0, 0.5);
    expect(list.count).toBe(4);
    expect(box(list, 1).slice(0, 12)).toEqual([102, 203, 2, 3, 0, 0, 1, 1, 2, 2, 2, 1]);
    expect(box(list, 3).slice(0, 16)).toEqual([1, 3, 2, 3, 0, 0, 1, 1, 1, 1, 1, 0.5, 0.5, 0.5, 0.5, 0.5]);
    // The pattern stays as it was.
    expect(box(pattern, 1).slice(0, 2)).toEqual([2, 3]);
  });
});

describe('clusters on the screen', () => {
  test('members of one place fan out in rings, none on another', () => {
    for (const total of [1, 2, 6, 7, 18, 19, 40]) {
      const spots = Array.from({ length: total }, (_, i) => fanOffset(i, total));
      for (const [i, [x, y]] of spots.entries()) {
        // A ring is a multiple of 26 pixels off.
        expect(Math.hypot(x, y) / 26).toBeCloseTo(Math.round(Math.hypot(x, y) / 26), 9);
        for (const [u, v] of spots.slice(0, i)) expect(Math.hypot(x - u, y - v)).toBeGreaterThan(20);
      }
    }
  });

  test('of two that would lie on each other the greater stays', () => {
    const node = fc.record({
      x: fc.integer({ min: 0, max: 300 }),
      y: fc.integer({ min: 0, max: 300 }),
      size: fc.integer({ min: 20, max: 60 }),
    });
    fc.assert(
      fc.property(fc.array(node, { maxLength: 30 }), (nodes) => {
        // Greater ones come last.
        const placed = nodes.toSorted((a, b) => a.size - b.size);
        const kept = uncrowded(placed);
        const covers = (a: (typeof nodes)[0], b: (typeof nodes)[0]) =>
          Math.hypot(a.x - b.x, a.y - b.y) < (a.size + b.size) * 0.4;
        for (const [i, one] of kept.entries())
          for (const other of kept.slice(0, i)) expect(covers(one, other)).toBe(false);
        // Whoever is left out lies under one that stays, and that is no lesser.
        for (const out of placed.filter((one) => !kept.includes(one)))
          expect(kept.some((one) => covers(one, out) && one.size >= out.size)).toBe(true);
        expect(kept).toEqual(placed.filter((one) => kept.includes(one)));
      }),
    );
  });

  test.each([
    [0, 0, 4, 0, 0],
    [-31.2, 44.6, 12, 30, 50],
    [179.9, -12, 8, 0, 0],
    [10, 60, 3, 90, 20],
  ])('what they are asked for holds the view from %d, %d at zoom %d', (lon, lat, zoom, bearing, tilt) => {
    const size = { width: 900, height: 600 };
    const camera = new Camera({ center: [lon, lat], zoom, bearing, tilt }, webMercator, size);
    const [west, south, east, north] = viewBox(camera);
    for (let x = 0; x <= 900; x += 90)
      for (let y = 0; y <= 600; y += 60) {
        const place = camera.unproject(x, y);
        if (!place) continue;
        const span = (((east - west) % 360) + 360) % 360 || 360;
        const off = (((place[0] - west) % 360) + 360) % 360;
        expect(off).toBeLessThanOrEqual(span + 1e-9);
        expect(place[1]).toBeGreaterThanOrEqual(south);
        expect(place[1]).toBeLessThanOrEqual(Math.max(north, 85));
      }
  });
});
