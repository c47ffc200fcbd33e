// The sheet as it is drawn: symbols, scales, joins, states, restyling and the legend, in a real browser.
import { crc32, deflateSync } from 'node:zlib';
import { describe, expect, test } from '@jest/globals';
import type { Sheet } from 'flintwright';
import { box, collection, faultsOf, line, openMap, pixels, point, settled, useStage } from './harness.ts';

const stage = useStage();
// At zoom 5 a degree is 22.8 pixels; the middle of the page is 400, 300.
const view = { center: [0, 0], zoom: 5 };
const sheet = (features: object[], layer: object, more: object = {}): Sheet =>
  ({
    sheet: 1,
    data: { d: { features: collection(...features) } },
    background: '#ffffff',
    layers: [{ id: 'l', of: 'd', ...layer }],
    ...more,
  }) as Sheet;
const uploads = () => stage.page.evaluate(() => window.flintwright.liveCounts().geometryUploads);
const isNear = (seen: readonly number[], wanted: readonly number[], within = 12) =>
  seen.every((v, i) => Math.abs(v - wanted[i]) <= within);

/** A PNG of one red pixel (W3C PNG 3). */
function redDot(): Buffer {
  const chunk = (type: string, data: Buffer) => {
    const body = Buffer.concat([Buffer.from(type, 'latin1'), data]);
    const [length, check] = [Buffer.alloc(4), Buffer.alloc(4)];
    length.writeUInt32BE(data.length);
    check.writeUInt32BE(crc32(body));
    return Buffer.concat([length, body, check]);
  };
  return Buffer.concat([
    Buffer.from('89504e470d0a1a0a', 'hex'),
    chunk('IHDR', Buffer.from([0, 0, 0, 1, 0, 0, 0, 1, 8, 2, 0, 0, 0])),
    chunk('IDAT', deflateSync(Buffer.from([0, 255, 0, 0]))),
    chunk('IEND', Buffer.alloc(0)),
  ]);
}

describe('symbols', () => {
  test('hatches and icon patterns cover their share and run on from tile to tile', async () => {
    // Two boxes over the corner where four tiles meet.
    await openMap(
      stage,
      sheet([box(-10, -4, 9, { k: 'h' }), box(1, -4, 9, { k: 'i' })], {
        rules: [
          { where: "k = 'h'", fill: { hatch: { color: '#ff0000', angle: 0, gap: 16, width: 8 } } },
          {
            where: "k = 'i'",
            fill: { color: '#0000ff', pattern: { icon: 'square', color: '#00ff00', size: 12, gap: 20 } },
          },
        ],
      }),
      view,
    );
    await settled(stage);
    const column = await pixels(stage, ...Array.from({ length: 128 }, (_, i): [number, number] => [280, 236 + i]));
    const red = column.filter((c) => isNear(c, [255, 0, 0])).length;
    // Lines of 8 in every 16 pixels.
    expect(Math.abs(red - 64)).toBeLessThanOrEqual(6);
    const edges = column.flatMap((c, i) =>
      i && isNear(c, [255, 0, 0]) !== isNear(column[i - 1], [255, 0, 0]) ? [i] : [],
    );
    const gaps = edges.slice(2).map((at, i) => at - edges[i]);
    expect(gaps.every((gap) => Math.abs(gap - 16) <= 1)).toBe(true);
    const field = await pixels(
      stage,
      ...Array.from({ length: 1600 }, (_, i): [number, number] => [470 + (i % 40) * 3, 250 + Math.floor(i / 40) * 3]),
    );
    const green = field.filter((c) => isNear(c, [0, 255, 0], 40)).length / field.length;
    // The square's drawing is 18 of 24 units wide: (12 · 18/24)² of every 20².
    expect(green).toBeGreaterThan(0.14);
    expect(green).toBeLessThan(0.28);
    expect(field.every((c) => c[0] < 90)).toBe(true);
  });

  test('a gradient runs from one end of a whole line to the other, across tiles; marks stand along it', async () => {
    await openMap(
      stage,
      sheet(
        [
          line(
            [
              [-15, 3],
              [15, 3],
            ],
            { k: 'g' },
          ),
          line(
            [
              [-15, -3],
              [15, -3],
            ],
            { k: 'm' },
          ),
        ],
        {
          where: "k = 'g'",
          stroke: {
            width: 20,
            gradient: {
              ramp: [
                [0, '#ff0000'],
                [1, '#0000ff'],
              ],
              space: 'rgb',
            },
          },
        },
        {
          layers: [
            {
              id: 'g',
              of: 'd',
              where: "k = 'g'",
              stroke: {
                width: 20,
                gradient: {
                  ramp: [
                    [0, '#ff0000'],
                    [1, '#0000ff'],
                  ],
                  space: 'rgb',
                },
              },
            },
            {
              id: 'm',
              of: 'd',
              where: "k = 'm'",
              stroke: { color: '#008000', width: 20, marks: { icon: 'square', gap: 60 } },
            },
          ],
        },
      ),
      view,
    );
    await settled(stage);
    const y = 300 - Math.round(3 * 22.76);
    const [left, middle, right] = await pixels(stage, [70, y], [400, y], [730, y]);
    expect([isNear(left, [250, 0, 5], 10), isNear(middle, [128, 0, 127], 8), isNear(right, [5, 0, 250], 10)]).toEqual([
      true,
      true,
      true,
    ]);
    const row = await pixels(stage, ...Array.from({ length: 600 }, (_, i): [number, number] => [100 + i, 600 - y]));
    const inked = row.filter((c) => isNear(c, [0, 128, 0], 40)).length;
    // A square of 15 pixels in every 60.
    expect(Math.abs(inked - 150)).toBeLessThanOrEqual(24);
  });

  test('heat is densest where the points are, and clear where there are none', async () => {
    const points = Array.from({ length: 400 }, (_, i) => point(-6 + (i % 20) * 0.04, Math.floor(i / 20) * 0.04));
    await openMap(
      stage,
      sheet([...points, point(8, 0)], {
        heat: {
          radius: 40,
          opacity: 1,
          ramp: [
            [0, '#ff000000'],
            [0.2, '#00ff00'],
            [1, '#0000ff'],
          ],
        },
      }),
      view,
    );
    await settled(stage);
    const [dense, sparse, none] = await pixels(stage, [272, 292], [582, 300], [400, 500]);
    expect(isNear(dense, [0, 0, 255], 60)).toBe(true);
    expect(sparse[1]).toBeGreaterThan(sparse[2]);
    expect(none).toEqual([255, 255, 255]);
  });

  test('blocks rise from the ground when the map is tilted, and hide what stands behind them', async () => {
    const low = box(-2, 3, 4, { h: 30000, k: 'far' });
    const high = box(-2, -3, 4, { h: 500000, k: 'near' });
    await openMap(
      stage,
      sheet([low, high], {
        extrusion: { height: { is: 'h' }, color: { by: 'k', categories: { far: '#00ff00', near: '#ff0000' } } },
      }),
      { ...view, tilt: 55 },
    );
    await settled(stage);
    const picked = await stage.page.evaluate(() => window.map.toPixel([0, 5]));
    // The tall block in front covers the low one behind it.
    const [seen] = await pixels(stage, [Math.round(picked[0]), Math.round(picked[1])]);
    expect(seen[0]).toBeGreaterThan(120);
    expect(seen[1]).toBeLessThan(60);
  });

  test('pictures lie on the ground with opacity and tint; a missing one is no fault, a broken one is', async () => {
    const { page, base } = stage;
    const picture = redDot();
    await page.route('**/pictures/*/*/*.png', (route) => {
      const [, z, x, y] = /(\d+)\/(\d+)\/(\d+)\.png/.exec(route.request().url())!;
      if (Number(x) % 2) return route.fulfill({ status: 404 });
      if (Number(y) % 2) return route.fulfill({ body: 'no picture', contentType: 'image/png' });
      return Number(z) >= 0 ? route.fulfill({ body: picture, contentType: 'image/png' }) : route.abort();
    });
    await openMap(
      stage,
      {
        sheet: 1,
        data: { p: { images: `${base}/pictures/{z}/{x}/{y}.png`, credit: 'someone' } },
        background: '#ffffff',
        layers: [{ id: 'p', of: 'p', image: { opacity: 0.5, saturation: 0 } }],
      },
      { center: [0, 0], zoom: 1 },
    );
    await settled(stage);
    expect(await faultsOf(stage)).toContainEqual(expect.objectContaining({ code: 'picture.failed' }));
    // The one picture of four that came is drawn half clear; its red has gone grey (0.2126 of white, BT.709).
    const [drawn, missing] = await pixels(stage, [300, 200], [500, 200]);
    expect(isNear(drawn, [155, 155, 155], 3)).toBe(true);
    expect(missing).toEqual([255, 255, 255]);
    expect(await page.locator('.flint-credit').textContent()).toBe('someone');
  });

  test('labels in twelve scripts are all placed, on the side where there is room; emoji keep their colours', async () => {
    const { page, base } = stage;
    await page.goto(`${base}/symbols/?symbol=label`);
    await page.waitForFunction(() => window.map?.settled);
    await settled(stage);
    const texts = await page.evaluate(() => window.map.labelTexts);
    const wanted = [
      'ميناء المدّ القديم ٣',
      'נמל הגאות הישן (3)',
      'पुराना ज्वार बंदरगाह',
      '潮の古い港',
      '오래된 조수 항구',
      '🦪 Oyster quay 🐦',
    ];
    expect(wanted.filter((text) => !texts.includes(text))).toEqual([]);
    // A label that would leave the map on one side goes to the other.
    await openMap(
      stage,
      sheet([point(14.5, 0, { n: 'a long name' })], {
        mark: { size: 8 },
        label: { text: 'n', anchor: ['left', 'right'], offset: [0.5, 0], color: '#000000', size: 20 },
      }),
      view,
    );
    await settled(stage);
    const x = 400 + Math.round(14.5 * 22.76);
    const ink = await pixels(stage, ...Array.from({ length: 50 }, (_, i): [number, number] => [x - 70 + i, 300]));
    expect(ink.some((c) => c[0] < 120)).toBe(true);
  });

  test('an icon that there is none of is named, with the nearest that there is', async () => {
    await openMap(stage, sheet([point(0, 0)], { mark: { icon: 'ancor' } }), view);
    await settled(stage);
    expect(await faultsOf(stage)).toEqual([{ code: 'sheet.icon', hint: expect.stringContaining('"anchor"') }]);
  });
});

describe('scales and joins', () => {
  test('class limits are found in the data; a joined table colours its features; what is missing is seen', async () => {
    const features = Array.from({ length: 5 }, (_, i) => box(-12 + 5 * i, -2, 4, { code: `c${i}` }, i + 1));
    await openMap(
      stage,
      sheet(
        features,
        {
          title: 'Boxes',
          fill: {
            color: { by: 'n', unit: 't', classes: { method: 'quantile', count: 2, values: ['#00ff00', '#0000ff'] } },
          },
        },
        {
          data: {
            d: {
              features: collection(...features),
              join: {
                table: [
                  { key: 'c0', n: 1 },
                  { key: 'c1', n: 2 },
                  { key: 'c2', n: 30 },
                  { key: 'c3', n: 40 },
                  { key: 'x', n: 5 },
                ],
                match: ['code', 'key'],
              },
            },
          },
        },
      ),
      view,
    );
    await settled(stage);
    const seen = await pixels(
      stage,
      ...[0, 1, 2, 3, 4].map((i): [number, number] => [400 + Math.round((-10 + 5 * i) * 22.76), 300]),
    );
    expect(seen).toEqual([
      [0, 255, 0],
      [0, 255, 0],
      [0, 0, 255],
      [0, 0, 255],
      [0x98, 0xa1, 0xa5],
    ]);
    expect(await stage.page.evaluate(() => window.map.joinReport('d'))).toMatchObject({
      matched: 4,
      featuresAlone: ['c4'],
      rowsAlone: ['x'],
    });
    // The limit between 2 and 30 that halves the four numbers; what has no row stands beside the classes.
    const legend = await stage.page.evaluate(() => {
      const { element, entries } = window.map.legend();
      return [element.textContent, entries[0].items.map(({ label }) => label)];
    });
    expect(legend).toEqual(['LegendBoxes, t16no value', ['under 16 t', '16 t and more', 'no value']]);
  });

  test('a join that meets nothing, and classes without numbers, say so', async () => {
    const data = (join: object) => ({ d: { features: collection(box(0, 0, 4, { code: 'a', word: 'x' }, 1)), join } });
    const classes = { fill: { color: { by: 'word', classes: { method: 'equal', count: 3, scheme: 'Blues' } } } };
    await openMap(stage, sheet([], classes, { data: data({ table: [{ key: 'b' }], match: ['code', 'key'] }) }), view);
    await stage.page.waitForFunction(() => window.faults.length > 0);
    expect(await faultsOf(stage)).toEqual([{ code: 'join.none', hint: expect.stringContaining('same keys') }]);
    await openMap(stage, sheet([], classes, { data: data({ table: [{ key: 'a' }], match: ['code', 'kye'] }) }), view);
    await stage.page.waitForFunction(() => window.faults.length > 0);
    expect(await faultsOf(stage)).toEqual([{ code: 'join.column', hint: 'Did you mean "key"?' }]);
    await openMap(stage, sheet([], classes, { data: data({ table: [{ key: 'a' }], match: ['code', 'key'] }) }), view);
    await stage.page.waitForFunction(() => window.faults.length > 0);
    expect(await faultsOf(stage)).toEqual([{ code: 'classes.none', hint: expect.stringContaining('quotes') }]);
  });

  test('filters and values by area hold for whole features, however the tiles cut them', async () => {
    const big = box(-30, -20, 40, { k: 'big' }, 1);
    const small = box(12, -4, 4, { k: 'small' }, 2);
    await openMap(
      stage,
      sheet([big, small], {
        where: 'area() > 1e12',
        fill: {
          color: {
            by: 'area()',
            ramp: [
              [1e12, '#ff0000'],
              [2e12, '#00ff00'],
            ],
          },
        },
      }),
      view,
    );
    await settled(stage);
    const [inside, gone] = await pixels(stage, [300, 300], [400 + Math.round(14 * 22.76), 320]);
    expect(isNear(inside, [0, 255, 0])).toBe(true);
    expect(gone).toEqual([255, 255, 255]);
  });
});

describe('states', () => {
  test('ten thousand polygons: the highlight is always exactly the one beneath, and leaving clears it', async () => {
    const { page } = stage;
    // Features without ids; what tells them apart is where they stand in the data.
    const cells = Array.from({ length: 10000 }, (_, i) =>
      box(-16 + (i % 100) * 0.32, -12 + Math.floor(i / 100) * 0.24, 0.22, { i }),
    );
    await openMap(stage, sheet(cells, { fill: '#cccccc', states: { hover: { fill: { color: '#ff0000' } } } }), view);
    await settled(stage);
    const places = [
      [120, 150],
      [122, 150],
      [333, 222],
      [401, 333],
      [650, 480],
      [398, 301],
    ];
    for (const [x, y] of places) {
      await page.mouse.move(x, y);
      await settled(stage);
      const expected = await page.evaluate(([px, py]) => window.map.pick([px, py])[0]?.properties['i'] ?? null, [x, y]);
      const shot = await page.screenshot();
      const red = await page.evaluate(async (data) => {
        const image = await createImageBitmap(new Blob([Uint8Array.from(atob(data), (c) => c.charCodeAt(0))]));
        const context = new OffscreenCanvas(image.width, image.height).getContext('2d')!;
        context.drawImage(image, 0, 0);
        const { data: all } = context.getImageData(0, 0, image.width, image.height);
        const found = new Set<number>();
        for (let k = 0; k < all.length; k += 4) {
          if (all[k] < 250 || all[k + 1] > 5) continue;
          const at = window.map.pick([(k / 4) % image.width, Math.floor(k / 4 / image.width)], { within: 0 })[0];
          if (at) found.add(at.properties['i'] as number);
        }
        return [...found];
      }, shot.toString('base64'));
      expect(red).toEqual(expected === null ? [] : [expected]);
    }
    // The map moves beneath a pointer that stands still.
    await page.mouse.move(400, 300);
    await page.evaluate(() => window.map.move({ center: [3, 2] }));
    await settled(stage);
    const [under] = await pixels(stage, [400, 300]);
    const there = await page.evaluate(() => window.map.pick([400, 300], { within: 0 }).length);
    expect(isNear(under, [255, 0, 0])).toBe(there > 0);
    await page.mouse.move(400, 300);
    await page.evaluate(() => document.querySelector('canvas')!.dispatchEvent(new PointerEvent('pointerleave')));
    await settled(stage);
    expect(isNear((await pixels(stage, [400, 300]))[0], [255, 0, 0])).toBe(false);
  });

  test('selection: one, several, or none, from the sheet alone; labels and defaults have states too', async () => {
    const { page } = stage;
    const boxes = [box(-9, 1, 8, { n: 'one' }, 1), box(1, -9, 8, { n: 'two' }, 2)];
    const keys = () => page.evaluate(() => window.map.selection.map(({ key }) => key));
    const press = async (x: number, y: number) => {
      await page.mouse.click(x, y);
      await settled(stage);
    };
    await openMap(stage, sheet(boxes, { fill: '#cccccc', select: 'one' }), view);
    await page.evaluate(() => {
      Object.assign(window, { changes: [] });
      window.map.addEventListener('selectionchange', (event) =>
        (window as unknown as { changes: number[] }).changes.push((event as CustomEvent<unknown[]>).detail.length),
      );
    });
    await settled(stage);
    await press(300, 200);
    expect(await keys()).toEqual(['1']);
    // A sheet that says nothing of the state still shows it: an amber rim.
    expect(isNear((await pixels(stage, [195, 200]))[0], [0xd9, 0x8a, 0x2b], 30)).toBe(true);
    await press(500, 400);
    expect(await keys()).toEqual(['2']);
    // Twice in a row would be a double press.
    await page.waitForTimeout(500);
    await press(500, 400);
    expect(await keys()).toEqual([]);
    await press(300, 200);
    await press(600, 100);
    expect(await keys()).toEqual([]);
    expect(await page.evaluate(() => (window as unknown as { changes: number[] }).changes)).toEqual([1, 1, 0, 1, 0]);

    await openMap(
      stage,
      sheet(boxes, {
        fill: '#ffffff',
        label: { text: 'n', size: 30, color: '#0000ff', weight: 800 },
        states: { selected: { label: { color: '#ff0000' } } },
        select: 'several',
      }),
      view,
    );
    await settled(stage);
    await press(300, 215);
    await press(500, 415);
    expect(await keys()).toEqual(['1', '2']);
    const around = await pixels(
      stage,
      ...Array.from({ length: 1200 }, (_, i): [number, number] => [260 + (i % 60), 190 + Math.floor(i / 60)]),
    );
    expect(around.some((c) => isNear(c, [255, 0, 0], 40))).toBe(true);
    expect(around.some((c) => isNear(c, [0, 0, 255], 40))).toBe(false);
    await page.evaluate(() => window.map.select());
    await settled(stage);
    expect(await keys()).toEqual([]);
  });
});

describe('live restyle', () => {
  test('a hundred thousand features from one scale to another: no geometry is built', async () => {
    const { page } = stage;
    await openMap(stage, { sheet: 1, layers: [] }, view);
    await page.evaluate(() => {
      const features = Array.from({ length: 100000 }, (_, i) => ({
        type: 'Feature',
        properties: { v: i % 100 },
        geometry: { type: 'Point', coordinates: [-16 + (i % 400) * 0.08, -12 + Math.floor(i / 400) * 0.096] },
      }));
      window.map.layers.add({
        id: 'many',
        of: { features: { type: 'FeatureCollection', features } },
        mark: {
          size: 3,
          color: {
            by: 'v',
            ramp: [
              [0, '#ffffff'],
              [100, '#000000'],
            ],
          },
        },
      });
    });
    await settled(stage);
    const before = await uploads();
    expect(before).toBeGreaterThan(0);
    await page.evaluate(() =>
      window.map.layers.change('many', {
        mark: { size: 3, color: { by: 'v', classes: { breaks: [50], values: ['#ff0000', '#ff0000'] } } },
      }),
    );
    await settled(stage);
    expect(await uploads()).toBe(before);
    const some = await pixels(stage, ...Array.from({ length: 40 }, (_, i): [number, number] => [380 + i, 300]));
    expect(some.some((c) => isNear(c, [255, 0, 0]))).toBe(true);
  });

  test('another sheet fades in; overlays and view stay; people who want less motion get it at once', async () => {
    const { page } = stage;
    const red = sheet([box(-9, -9, 18, {}, 1)], { fill: '#ff0000' });
    const blue = sheet([box(-9, -9, 18, {}, 1)], { fill: '#0000ff' });
    await openMap(stage, red, view);
    await settled(stage);
    const seen = await page.evaluate(async (next: unknown) => {
      const canvas = document.querySelector('canvas')!;
      const read = () => {
        const copy = new OffscreenCanvas(canvas.width, canvas.height).getContext('2d')!;
        copy.drawImage(canvas, 0, 0);
        return [...copy.getImageData(400, 300, 1, 1).data];
      };
      const out: number[][] = [];
      window.map.setSheet(next as Sheet, { duration: 2000 });
      for (let i = 0; i < 8; i++) {
        await new Promise((resolve) => requestAnimationFrame(resolve));
        out.push(read());
      }
      await window.map.settled();
      return out;
    }, blue as unknown);
    // On the way both colours are there; in the end only the new one.
    expect(seen.some(([r, , b]) => r > 20 && b > 20)).toBe(true);
    expect((await pixels(stage, [400, 300]))[0]).toEqual([0, 0, 255]);
    const named = { ...blue, palette: { sea: '#0000ff' }, layers: [{ ...blue.layers[0], fill: '@sea' }] };
    await page.evaluate((next: unknown) => {
      window.map.setSheet(next as Sheet, { duration: 0 });
      window.map.setPalette({ sea: '#00ff00' }, { duration: 50 });
    }, named as unknown);
    await settled(stage);
    expect((await pixels(stage, [400, 300]))[0]).toEqual([0, 255, 0]);
    await page.emulateMedia({ reducedMotion: 'reduce' });
    await page.evaluate((next: unknown) => window.map.setSheet(next as Sheet, { duration: 5000 }), red as unknown);
    await settled(stage);
    expect((await pixels(stage, [400, 300]))[0]).toEqual([255, 0, 0]);
  });
});

describe('the oyster beds', () => {
  test('coloured by table, kind and given colour, with legend, hover, selection and themes, as a user would', async () => {
    const { page, base } = stage;
    await page.setViewportSize({ width: 1280, height: 800 });
    await page.goto(`${base}/beds/`);
    await page.waitForFunction(() => window.map?.settled);
    await settled(stage);
    const key = page.locator('.key');
    await expect(key.getByRole('listitem').allTextContents()).resolves.toEqual(['', '5', '20', '60', 'no value']);
    expect(await key.locator('ol li').first().getAttribute('aria-label')).toBe('under 5 t');
    expect(await page.locator('.join').textContent()).toContain(
      'OB-14, OB-28, OB-42 have no row, row OB-77 has no bed',
    );
    const counted = () =>
      page.evaluate(
        () => (window as unknown as { liveCounts: () => { geometryUploads: number } }).liveCounts().geometryUploads,
      );
    const before = await counted();
    await page.getByLabel('kind').check();
    await settled(stage);
    expect(await key.getByRole('listitem').allTextContents()).toEqual([
      'native oyster',
      'rock oyster',
      'seed, not yet for sale',
    ]);
    await page.getByLabel('density').check();
    await settled(stage);
    expect(await key.getByRole('listitem').allTextContents()).toEqual(['thin', 'fair', 'dense', 'other']);
    await page.getByLabel('the tenant’s flag').check();
    await settled(stage);
    expect(await counted()).toBe(before);

    const [first, second] = await page.evaluate(() =>
      (
        [
          [1111, 606],
          [1055, 606],
        ] as [number, number][]
      ).map((at) => {
        const { properties } = window.map.pick(at, { layers: ['beds'] })[0];
        return { at, tonnes: Number(properties['tonnes']), flag: String(properties['flag']) };
      }),
    );
    await page.mouse.click(...first.at);
    await page.mouse.click(...second.at);
    await settled(stage);
    expect(await page.locator('.chosen p').textContent()).toBe(
      `2 of 42 beds, ${(first.tonnes + second.tonnes).toFixed(1)} t`,
    );
    await page.mouse.move(900, 100);
    await settled(stage);
    const rgb = [1, 3, 5].map((i) => Number.parseInt(first.flag.slice(i, i + 2), 16));
    expect(isNear((await pixels(stage, first.at))[0], rgb)).toBe(true);
    await page.getByLabel('Slate').check();
    await page.waitForFunction(() => document.querySelector('.panel')?.getAttribute('data-color-scheme') === 'dark');
    await settled(stage);
    // The beds, their colour and the selection have outlived the theme.
    expect(isNear((await pixels(stage, first.at))[0], rgb)).toBe(true);
    expect(await page.evaluate(() => window.map.selection.length)).toBe(2);
  });
});
