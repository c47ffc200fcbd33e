// Gestures without a browser: events as plain objects, frames that the test lets pass, and a map that does nothing but keep its view.
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import type { View, ViewChange, ViewLimits } from '@flintwright/core';
import { Camera, changeView, defaultLimits, webMercator } from '@flintwright/core/internal';
import { Inertia } from '../../src/input/inertia.js';
import { Keys } from '../../src/input/keys.js';
import { Pinch, spreadOf } from '../../src/input/pinch.js';
import { PointerGestures } from '../../src/input/pointer-gestures.js';
import { Wheel } from '../../src/input/wheel.js';

const size = { width: 800, height: 600 };
const canvas = {
  getBoundingClientRect: () => ({ left: 0, top: 0 }),
  setPointerCapture: () => {},
} as unknown as HTMLCanvasElement;

/** A map for gestures: it keeps its view, within its limits, and notes what it is told. */
function madeMap({ limits = defaultLimits, ...more }: { limits?: ViewLimits; [key: string]: unknown } = {}) {
  const told: string[] = [];
  let view: View = { center: [0, 0], zoom: 5, bearing: 0, tilt: 0 };
  let goal: View | undefined;
  const context = {
    canvas,
    reducedMotion: false,
    get state() {
      return { view, limits };
    },
    get camera() {
      return new Camera(view, webMercator, size);
    },
  };
  const tools = {
    context,
    wholeLevels: false,
    shared: false,
    hint: (kind: string) => told.push(`hint ${kind}`),
    steer: (change: ViewChange) => {
      view = changeView(view, change, limits);
      goal = undefined;
    },
    glide: (change: ViewChange, duration: number) => {
      goal = changeView(goal ?? view, change, limits);
      told.push(`glide ${duration}`);
    },
    goal: () => goal ?? view,
    home: () => told.push('home'),
    press: ([x, y]: [number, number]) => told.push(`press ${x} ${y}`),
    more: (type: string, [x, y]: [number, number]) => {
      told.push(`${type} ${x} ${y}`);
      return true;
    },
    hover: (point: unknown) => told.push(point ? `hover ${String(point)}` : 'hover none'),
    grab: () => undefined,
    ...more,
  };
  return { tools: tools as never, told, view: () => view, goal: () => goal ?? view };
}

let frames: ((time: number) => void)[] = [];
let time = 0;
/** Lets frames pass, sixteen milliseconds each, as long as any is asked for. */
function pass(most = 400): number {
  let count = 0;
  while (frames.length && count < most) {
    time += 16;
    count++;
    for (const frame of frames.splice(0)) frame(time);
  }
  return count;
}
const now = performance.now.bind(performance);
beforeEach(() => {
  frames = [];
  time = 1000;
  performance.now = () => time;
  Object.assign(globalThis, {
    requestAnimationFrame: (frame: (time: number) => void) => frames.push(frame),
    cancelAnimationFrame: () => (frames = []),
  });
});
afterEach(() => {
  performance.now = now;
});

describe('the wheel', () => {
  const turn = (deltaY: number, more: object = {}) => {
    const event = {
      deltaY,
      deltaMode: 0,
      clientX: 400,
      clientY: 300,
      ctrlKey: false,
      metaKey: false,
      prevented: false,
      ...more,
    };
    return Object.assign(event, { preventDefault: () => (event.prevented = true) });
  };

  test('glides by a level for 320 pixels, and comes to rest', () => {
    const map = madeMap();
    new Wheel(map.tools).turn(turn(-160) as never);
    expect(pass()).toBeLessThan(100);
    expect(map.view().zoom).toBeCloseTo(5.5, 9);
    expect(frames).toEqual([]);
  });

  test('adds up while it glides, and stops at the limits without drifting', () => {
    const map = madeMap({ limits: { ...defaultLimits, zoom: [4, 6] } });
    const wheel = new Wheel(map.tools);
    for (let i = 0; i < 8; i++) {
      wheel.turn(turn(-250, { clientX: 700, clientY: 90 }) as never);
      pass(1);
    }
    pass();
    const reached = map.view();
    expect([reached.zoom, frames]).toEqual([6, []]);
    wheel.turn(turn(-250, { clientX: 700, clientY: 90 }) as never);
    pass();
    expect(map.view().center[0]).toBeCloseTo(reached.center[0], 9);
    expect(map.view().center[1]).toBeCloseTo(reached.center[1], 9);
  });

  test('counts in lines and pages where the browser does, and in finer steps for pinching fingers', () => {
    const after = (deltaY: number, more: object) => {
      const map = madeMap();
      new Wheel(map.tools).turn(turn(deltaY, more) as never);
      pass();
      return map.view().zoom - 5;
    };
    expect(after(-4, { deltaMode: 1 })).toBeCloseTo((4 * 24) / 320, 6);
    expect(after(-1, { deltaMode: 2 })).toBeCloseTo(260 / 320, 6);
    expect(after(-45, { ctrlKey: true })).toBeCloseTo(0.5, 6);
  });

  test('goes from whole level to whole level where the map rests only there, one a notch', () => {
    const map = madeMap({ wholeLevels: true });
    const wheel = new Wheel(map.tools);
    for (let i = 0; i < 3; i++) wheel.turn(turn(-100) as never);
    expect([map.goal().zoom, map.told]).toEqual([6, ['glide 220']]);
  });

  test('is left to the page where it is shared, unless Ctrl or ⌘ is held', () => {
    const map = madeMap({ shared: true });
    const wheel = new Wheel(map.tools);
    const plain = turn(-160);
    wheel.turn(plain as never);
    pass();
    expect([plain.prevented, map.view().zoom, map.told]).toEqual([false, 5, ['hint wheel']]);
    for (const key of ['ctrlKey', 'metaKey']) {
      const held = turn(-40, { [key]: true });
      wheel.turn(held as never);
      pass();
      expect(held.prevented).toBe(true);
    }
    expect(map.view().zoom).toBeGreaterThan(5.3);
  });
});

describe('keys', () => {
  const key = (name: string, more: object = {}) =>
    ({ key: name, target: canvas, preventDefault: () => {}, ...more }) as never;

  test('zoom by whole levels, and presses in quick succession add up', () => {
    const map = madeMap();
    const keys = new Keys(map.tools);
    for (let i = 0; i < 5; i++) expect(keys.press(key('+'))).toBe(true);
    expect([map.goal().zoom, map.view().zoom]).toEqual([10, 5]);
    for (let i = 0; i < 2; i++) keys.press(key('-'));
    expect(map.goal().zoom).toBe(8);
  });

  test('move, turn and tilt; Home and Enter do what they say; others are left alone', () => {
    const map = madeMap();
    const keys = new Keys(map.tools);
    keys.press(key('ArrowRight'));
    expect(map.goal().center[0]).toBeGreaterThan(5);
    keys.press(key('ArrowLeft', { shiftKey: true }));
    keys.press(key('ArrowUp', { shiftKey: true }));
    expect([map.goal().bearing, map.goal().tilt]).toEqual([-20, 12]);
    keys.press(key('Home'));
    keys.press(key('Enter'));
    keys.press(key('ContextMenu'));
    expect(map.told.slice(-3)).toEqual(['home', 'press 400 300', 'contextmenu 400 300']);
    for (const name of ['a', 'Tab', 'constructor']) expect(keys.press(key(name))).toBe(false);
    expect(keys.press(key('+', { ctrlKey: true }))).toBe(false);
    expect(keys.press(key('+', { target: {} }))).toBe(false);
  });
});

describe('two fingers', () => {
  const spread = (ax: number, ay: number, bx: number, by: number) =>
    spreadOf([
      { x: ax, y: ay },
      { x: bx, y: by },
    ]);

  test('apart and together zoom by the ratio of their distance, once it is clear what they mean', () => {
    const map = madeMap();
    const start = spread(300, 300, 500, 300);
    const pinch = new Pinch(map.tools, start);
    pinch.move(start, spread(299, 300, 501, 300));
    expect(map.view().zoom).toBe(5);
    pinch.move(start, spread(200, 300, 600, 300));
    expect(map.view().zoom).toBeCloseTo(6, 9);
    pinch.move(spread(200, 300, 600, 300), spread(350, 300, 450, 300));
    expect(map.view().zoom).toBeCloseTo(4, 9);
  });

  test('round each other turn the map along, also through the half circle', () => {
    const map = madeMap();
    const around = (degrees: number) => {
      const [c, s] = [100 * Math.cos((degrees * Math.PI) / 180), 100 * Math.sin((degrees * Math.PI) / 180)];
      return spread(400 - c, 300 - s, 400 + c, 300 + s);
    };
    const pinch = new Pinch(map.tools, around(0));
    for (let degrees = 0; degrees < 200; degrees += 20) pinch.move(around(degrees), around(degrees + 20));
    expect(map.view().bearing).toBeCloseTo(160, 6);
    expect(map.view().zoom).toBeCloseTo(5, 9);
  });

  test('side by side up tilt, and never zoom from then on', () => {
    const map = madeMap();
    const pinch = new Pinch(map.tools, spread(300, 400, 500, 400));
    pinch.move(spread(300, 400, 500, 400), spread(300, 340, 500, 340));
    expect(map.view().tilt).toBeCloseTo(27, 9);
    pinch.move(spread(300, 340, 500, 340), spread(200, 320, 600, 320));
    expect([map.view().zoom, map.view().tilt]).toEqual([5, 36]);
  });
});

describe('pointers', () => {
  const at = (x: number, y: number, more: object = {}) =>
    ({
      clientX: x,
      clientY: y,
      pointerId: 1,
      button: 0,
      pointerType: 'mouse',
      target: canvas,
      type: 'pointermove',
      timeStamp: time,
      ...more,
    }) as never;

  test('a press that strays a little is a press, two are a double press, the right button is a menu', () => {
    const map = madeMap();
    const pointers = new PointerGestures(map.tools);
    const press = (x: number, y: number, more: object = {}) => {
      pointers.down(at(x, y, more));
      pointers.move(at(x + 3, y + 2, more));
      pointers.up(at(x + 3, y + 2, more));
    };
    press(100, 100);
    time += 100;
    press(102, 101);
    time += 1000;
    press(300, 300, { button: 2 });
    expect(map.told.filter((one) => !one.startsWith('hover'))).toEqual([
      'press 100 100',
      'dblpress 102 101',
      'glide 260',
      'contextmenu 300 300',
    ]);
    expect(map.goal().zoom).toBe(6);
  });

  test('a drag moves the ground along; let go of in motion it glides on, and people who ask for less motion are spared', () => {
    for (const still of [false, true]) {
      const map = madeMap();
      Object.assign((map.tools as { context: object }).context, { reducedMotion: still });
      const pointers = new PointerGestures(map.tools);
      pointers.down(at(400, 300));
      for (let x = 400; x >= 300; x -= 10) {
        time += 8;
        pointers.move(at(x, 300));
      }
      const dragged = map.view().center[0];
      expect(dragged).toBeCloseTo((100 * 360) / (256 * 2 ** 5), 1);
      pointers.up(at(300, 300, { type: 'pointerup' }));
      pass();
      expect(map.view().center[0] > dragged).toBe(!still);
      expect(frames).toEqual([]);
    }
  });

  test('one finger is the page’s where the map shares its scroll; a mouse is not', () => {
    const map = madeMap({ shared: true });
    const pointers = new PointerGestures(map.tools);
    const drag = (more: object) => {
      pointers.down(at(400, 300, more));
      pointers.move(at(300, 300, more));
      pointers.up(at(300, 300, { ...more, type: 'pointercancel' }));
    };
    drag({ pointerType: 'touch' });
    expect([map.view().center[0], map.told]).toEqual([0, ['hint finger']]);
    drag({ pointerType: 'mouse' });
    expect(map.view().center[0]).toBeGreaterThan(0);
  });

  test('with the right button, or Shift, turns and tilts', () => {
    const map = madeMap();
    const pointers = new PointerGestures(map.tools);
    pointers.down(at(400, 300, { shiftKey: true }));
    pointers.move(at(500, 200));
    expect([map.view().bearing, map.view().tilt]).toEqual([40, 35]);
  });
});

test('a slow drag does not glide on, and a new press ends what does', () => {
  const map = madeMap();
  const inertia = new Inertia(map.tools);
  inertia.begin(0, 0);
  time += 60;
  inertia.track(4, 0);
  inertia.release();
  expect(frames).toEqual([]);
  inertia.begin(0, 0);
  time += 10;
  inertia.track(60, 0);
  inertia.release();
  expect(frames).toHaveLength(1);
  inertia.stop();
  expect(frames).toEqual([]);
});
