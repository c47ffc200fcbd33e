import { crc32, deflateSync } from 'node:zlib';
import { describe, expect, test } from '@jest/globals';
import { box, countPixels, faultsOf, line, openMap, pixels, point, setSheet, settled, useStage } from './harness.ts';
import { isNear, sheetOf, view } from './sheets.ts';

const stage = useStage();

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
      sheetOf([box(-10, -4, 9, { k: 'h' }), box(1, -4, 9, { k: 'i' })], {
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
      sheetOf(
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
      sheetOf([...points, point(8, 0)], {
        heat: {
          radius: 40,
          opacity: 1,
          max: 12,
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

  test('heat begins clear, thickens, and has no flat top: what is twice as dense looks denser, however dense it is', async () => {
    // Spots of points, each twice as dense as the one before it, in a field that is all but empty.
    const spots = Array.from({ length: 7 }, (_, i) =>
      Array.from({ length: 8 * 2 ** i }, (_, k) => point(-13.5 + 4.5 * i, 0.02 * (k % 5), { k })),
    ).flat();
    const field = Array.from({ length: 900 }, (_, i) => point(-15 + (i % 45) * 0.67, 4 + Math.floor(i / 45) * 0.3));
    await openMap(stage, sheetOf([...spots, ...field], { heat: { radius: 30, scheme: 'Greys' } }), view);
    await settled(stage);
    const at = Array.from({ length: 7 }, (_, i): [number, number] => [
      Math.round(400 + (-13.5 + 4.5 * i) * 22.76),
      299,
    ]);
    const seen = (await pixels(stage, ...at)).map(([red]) => red);
    for (let i = 1; i < seen.length; i++) expect(seen[i]).toBeLessThan(seen[i - 1]);
    // The thinnest is hardly there, and something of the ground is seen through the densest.
    expect(seen[0]).toBeGreaterThan(215);
    expect(seen[6]).toBeGreaterThan(36);
    expect(seen[6]).toBeLessThan(90);
  });

  test('blocks rise from the ground when the map is tilted, and hide what stands behind them', async () => {
    const low = box(-2, 3, 4, { h: 30000, k: 'far' });
    const high = box(-2, -3, 4, { h: 500000, k: 'near' });
    await openMap(
      stage,
      sheetOf([low, high], {
        extrusion: { top: { is: 'h' }, color: { by: 'k', categories: { far: '#00ff00', near: '#ff0000' } } },
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

  test('blocks are lit from the north-west and lay a soft shadow on the ground, once where two meet', async () => {
    // Two blocks whose shadows lie over each other, and a low one that lays none to speak of.
    const blocks = [box(-6, 0, 3, { h: 300000 }), box(-6.5, 0.5, 3, { h: 300000 }), box(6, 0, 3, { h: 10 })];
    await openMap(
      stage,
      sheetOf(blocks, { extrusion: { top: { is: 'h' }, color: '#c08040' } }, { background: '#e0e0e0' }),
      view,
    );
    await settled(stage);
    const at = async (lon: number, lat: number): Promise<[number, number]> => {
      const [x, y] = await stage.page.evaluate((place) => window.map.toPixel(place), [lon, lat] as [number, number]);
      return [Math.round(x), Math.round(y)];
    };
    const [roof, shadow, both, soft, ground] = await pixels(
      stage,
      await at(7.5, 1.5),
      await at(-2.8, 0.2),
      await at(-4.5, -0.6),
      await at(10.5, 1),
      await at(0, 8),
    );
    expect(isNear(roof, [0xc0, 0x80, 0x40], 2)).toBe(true);
    expect(ground).toEqual([224, 224, 224]);
    expect(soft).toEqual(ground);
    // A fifth darker, however many blocks lie between it and the light.
    for (const color of [shadow, both]) expect(isNear(color, [179, 179, 179], 6)).toBe(true);
    // Seen from the south-west, the wall to the north-west is brighter than that to the south-east.
    await stage.page.evaluate(() => window.map.move({ center: [-5, 1], zoom: 5, tilt: 50, bearing: 0 }));
    await settled(stage);
    const wallOf = async (bearing: number) => {
      await stage.page.evaluate((turn) => window.map.move({ bearing: turn }), bearing);
      await settled(stage);
      const colors = await pixels(stage, ...Array.from({ length: 40 }, (_, i): [number, number] => [400, 300 + 5 * i]));
      return Math.min(...colors.map(([red, green, blue]) => (red > green + 20 && green > blue + 10 ? red : 255)));
    };
    // Looking north the south wall is seen, looking south the north wall.
    expect(await wallOf(180)).toBeGreaterThan((await wallOf(0)) + 30);
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
    // The one picture of four that came is drawn half clear; its red has gone gray (0.2126 of white, BT.709).
    const [drawn, missing] = await pixels(stage, [300, 200], [500, 200]);
    expect(isNear(drawn, [155, 155, 155], 3)).toBe(true);
    expect(missing).toEqual([255, 255, 255]);
    expect(await page.locator('.flint-credit').textContent()).toBe('someone');
  });

  test('labels in twelve scripts are all placed, on the side where there is room; emoji keep their colors', async () => {
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
      sheetOf([point(14.5, 0, { n: 'a long name' })], {
        mark: { size: 8 },
        label: { text: 'n', side: ['right', 'left'], distance: 6, color: '#000000', size: 20 },
      }),
      view,
    );
    await settled(stage);
    const x = 400 + Math.round(14.5 * 22.76);
    const ink = await pixels(stage, ...Array.from({ length: 50 }, (_, i): [number, number] => [x - 70 + i, 300]));
    expect(ink.some((c) => c[0] < 120)).toBe(true);
  });

  test('an icon that there is none of is named, with the nearest that there is', async () => {
    await openMap(stage, sheetOf([point(0, 0)], { mark: { icon: 'ancor' } }), view);
    await settled(stage);
    expect(await faultsOf(stage)).toEqual([{ code: 'sheet.icon', hint: expect.stringContaining('"anchor"') }]);
  });
});

/** Lines that begin, end and have their middles beyond the screen, in pixels of 800 by 600, and how much of each is seen all the same. */
const beyond: [string, object, [number, number][], number][] = [
  ['a long one', { width: 6 }, [[-6000, 300], [810, 300]], 3000], // oxfmt-ignore
  ['a wide one', { width: 300 }, [[200, 700], [600, 700]], 15_000], // oxfmt-ignore
  ['one beside its line', { width: 20, offset: -150 }, [[100, 700], [700, 700]], 8000], // oxfmt-ignore
  ['the mitre of a sharp corner', { width: 60, join: 'miter' }, [[340, 850], [400, 640], [460, 850]], 800], // oxfmt-ignore
];

test.each([0, 50])('strokes are seen of lines that lie beyond the screen, tilted by %s°', async (tilt) => {
  const red = (stroke: object = {}) => ({ stroke: { color: '#ff0000', ...stroke } });
  await openMap(stage, sheetOf([], red()), { center: [0, 0], zoom: 6, tilt, bearing: tilt / 2 });
  const seen: string[] = [];
  for (const [what, stroke, path, least] of beyond) {
    const places = await stage.page.evaluate((path) => path.map((at) => window.map.toPlace(at)), path);
    await setSheet(stage, sheetOf([line(places as number[][])], red(stroke)));
    await settled(stage);
    const [count] = await countPixels(stage, [255, 0, 0]);
    seen.push(count > least ? what : `${what}: ${count} pixels`);
  }
  expect(seen).toEqual(beyond.map(([what]) => what));
});
