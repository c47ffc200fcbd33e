// One picture over a place, by bounds, corners or in a coordinate system of its own, on any surface; and the maps of a service.
import { describe, expect, test } from '@jest/globals';
import type { Sheet } from 'flintwright';
import { openMap, pixels, settled, useStage } from './harness.ts';

const stage = useStage();

const colors = { red: [255, 0, 0], green: [0, 255, 0], blue: [0, 0, 255], black: [0, 0, 0], ground: [255, 255, 255] };

/** Names of the colors at some places. */
async function seen(...places: [number, number][]): Promise<string[]> {
  const at = await stage.page.evaluate(
    (all) => all.map((place) => window.map.toPixel(place as [number, number]).map(Math.round) as [number, number]),
    places,
  );
  return (await pixels(stage, ...at)).map(
    (rgb) =>
      Object.entries(colors).find(([, color]) => color.every((v, k) => Math.abs(v - rgb[k]) < 60))?.[0] ?? rgb.join(),
  );
}

/** A picture of four quarters: red and green above, blue and black below. It is painted in the page. */
let picture: Buffer;
async function makePicture() {
  const { page, base } = stage;
  await page.goto(`${base}/test/`);
  const data = await page.evaluate(() => {
    const canvas = document.createElement('canvas');
    Object.assign(canvas, { width: 64, height: 64 });
    const context = canvas.getContext('2d')!;
    for (const [i, color] of ['#f00', '#0f0', '#00f', '#000'].entries()) {
      context.fillStyle = color;
      context.fillRect((i % 2) * 32, Math.floor(i / 2) * 32, 32, 32);
    }
    return canvas.toDataURL().split(',')[1];
  });
  picture = Buffer.from(data, 'base64');
  await page.route('**/quarters.png*', (route) => route.fulfill({ contentType: 'image/png', body: picture }));
}

const sheet = (data: object, more: object = {}): Sheet =>
  ({
    sheet: 1,
    background: '#ffffff',
    data: { plan: { images: '/quarters.png', ...data } },
    layers: [{ id: 'plan', of: 'plan', image: {} }],
    ...more,
  }) as Sheet;

describe('one picture over a place', () => {
  const inside: [number, number][] = [
    [-1, 1],
    [1, 1],
    [-1, -1],
    [1, -1],
    [3, 0],
  ];

  test.each(['EPSG:3857', 'globe', { method: 'robinson' }])('by bounds, on %s', async (surface) => {
    await makePicture();
    await openMap(stage, sheet({ bounds: [-2, -2, 2, 2] }, { view: { surface } }), { center: [0, 0], zoom: 6 });
    await settled(stage);
    expect(await seen(...inside)).toEqual(['red', 'green', 'blue', 'black', 'ground']);
  });

  test('by corners, turned by a quarter, and moved at run time', async () => {
    await makePicture();
    const turned = [
      [2, 2],
      [2, -2],
      [-2, -2],
      [-2, 2],
    ];
    await openMap(stage, { sheet: 1, background: '#ffffff', layers: [] }, { center: [0, 0], zoom: 6 });
    await stage.page.evaluate((corners) => {
      window.map.layers.add({
        id: 'plan',
        of: { images: '/quarters.png', corners: corners as [number, number][] },
        image: {},
        opacity: 1,
      });
    }, turned);
    await settled(stage);
    // The upper left corner of the picture lies in the north-east, its right side in the south.
    expect(await seen(...inside)).toEqual(['blue', 'red', 'black', 'green', 'ground']);
    await stage.page.evaluate(
      (corners) => {
        const east = corners.map(([lon, lat]) => [lon + 3, lat] as [number, number]);
        window.map.layers.feed('plan', { images: '/quarters.png', corners: east });
      },
      turned as [number, number][],
    );
    await settled(stage);
    expect(await seen([-1, 1], [4, 1], [2, 1])).toEqual(['ground', 'red', 'blue']);
  });

  test('by bounds in a national grid, where north is not up', async () => {
    await makePicture();
    const data = { bounds: [600000, 4900000, 640000, 4940000], crs: 'EPSG:32625' };
    await openMap(stage, sheet(data), { center: [-31.5, 44.43], zoom: 9 });
    await settled(stage);
    // Corners by the formulas of the projection, taken a fifth inwards.
    const [a, b, c, d]: [number, number][] = [
      [-31.64, 44.57],
      [-31.36, 44.57],
      [-31.64, 44.33],
      [-31.36, 44.33],
    ];
    expect(await seen(a, b, c, d)).toEqual(['red', 'green', 'blue', 'black']);
  });

  test('that is not there, or lies nowhere, is a fault', async () => {
    stage.expected = /./;
    await makePicture();
    await openMap(stage, sheet({ images: '/none.png', bounds: [0, 0, 1, 1] }));
    await settled(stage);
    await openMap(
      stage,
      sheet({
        corners: [
          [0, 0],
          [1, 1],
          [2, 2],
          [3, 3],
        ],
      }),
    );
    await settled(stage);
    expect(await stage.page.evaluate(() => window.faults.map(({ code }) => code))).toEqual(['picture.corners']);
  });
});

describe('a Web Map Service', () => {
  const asked: URL[] = [];
  async function serve(answer: (url: URL) => { body: Buffer | string; contentType: string }) {
    asked.length = 0;
    await stage.page.route('**/wms?*', (route) => {
      const url = new URL(route.request().url());
      asked.push(url);
      return route.fulfill(answer(url));
    });
  }
  const service = (wms: object): Sheet => ({
    sheet: 1,
    background: '#ffffff',
    data: { depth: { images: `${stage.base}/wms?map=reach`, wms: { layers: ['depth'], ...wms } } },
    layers: [{ id: 'depth', of: 'depth', image: {} }],
  });

  test('is asked tile by tile, with the key of the hook', async () => {
    await makePicture();
    await serve(() => ({ body: picture, contentType: 'image/png' }));
    await stage.page.evaluate(
      (given: unknown) => {
        window.map = window.flintwright.createMap('#map', {
          sheet: given as Sheet,
          view: { center: [45, 40], zoom: 1 },
          request: (plan) => void (plan.url += '&key=open'),
        });
        return window.map.settled();
      },
      service({}) as unknown,
    );
    expect(new Set(asked.map((url) => url.searchParams.get('key')))).toEqual(new Set(['open']));
    expect(asked[0].searchParams.get('map')).toBe('reach');
    // At this level the whole picture is one tile, a quarter of the world.
    expect(await seen([45, 70], [135, 70], [45, 20], [135, 20])).toEqual(['red', 'green', 'blue', 'black']);
  });

  test('in latitude and longitude, its maps are laid onto web Mercator', async () => {
    await makePicture();
    // A map of one color to the north of 45° and another to the south: where it is laid matters.
    await serve((url) => {
      const [south, , north] = url.searchParams.get('BBOX')!.split(',').map(Number);
      const at = (lat: number) => ((north - lat) / (north - south)) * 100;
      return {
        contentType: 'image/svg+xml',
        body: `<svg xmlns="http://www.w3.org/2000/svg" width="256" height="256"><rect width="100%" height="100%" fill="#f00"/><rect y="${at(45)}%" width="100%" height="200%" fill="#00f"/></svg>`,
      };
    });
    stage.expected = /./;
    await openMap(stage, service({ crs: 'EPSG:4326' }), { center: [0, 45], zoom: 4 });
    await settled(stage);
    expect(asked.length).toBeGreaterThan(0);
    const boxes = asked.map((url) => url.searchParams.get('BBOX')!.split(',').map(Number));
    // Latitude first.
    expect(boxes.every(([south, , north]) => south > -90 && north < 90 && north > south)).toBe(true);
  });

  test('its refusals are told in its own words', async () => {
    await makePicture();
    await serve(() => ({
      contentType: 'text/xml',
      body: '<?xml version="1.0"?><ServiceExceptionReport version="1.3.0"><ServiceException code="LayerNotDefined">no layer depth here</ServiceException></ServiceExceptionReport>',
    }));
    await openMap(stage, service({}), { center: [0, 0], zoom: 2 });
    await settled(stage);
    const [fault, ...more] = await stage.page.evaluate(() =>
      window.faults.map(({ code, message }) => `${code} ${message}`),
    );
    expect(fault).toMatch(/^wms\.exception .*LayerNotDefined, no layer depth here/);
    expect(more).toEqual([]);
  });
});
