// Data that comes in unusual form: an SVG as a picture over a place, a loose shapefile at an address, a table with bad rows and columns of its own names.
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { getCrs } from '@flintwright/core';
import { writeFeatureFile } from '@flintwright/core/files';
import type { Sheet } from 'flintwright';
import { unzipSync } from 'fflate';
import { faultsOf, openMap, pixels, settled, useStage } from './harness.ts';

const stage = useStage();
let server: Server;
let base: string;
const served = new Map<string, Uint8Array | string>();
beforeAll(async () => {
  server = createServer(({ url }, response) => {
    const body = served.get(url!);
    response.writeHead(body === undefined ? 404 : 200, { 'Access-Control-Allow-Origin': '*' });
    response.end(body);
  });
  await new Promise<void>((resolve) => server.listen(0, 'localhost', resolve));
  base = `http://localhost:${(server.address() as AddressInfo).port}`;
});
afterAll(() => void server.close());
const view = { center: [0, 0], zoom: 4 };
const sheet = (data: object, layer: object) =>
  ({
    sheet: 1,
    background: '#ffffff',
    data: { d: data },
    layers: [{ id: 'd', of: 'd', ...layer }],
  }) as unknown as Sheet;

test('an SVG lies over its place', async () => {
  for (const size of ['width="20" height="10" viewBox="0 0 20 10"', 'viewBox="0 0 20 10"']) {
    served.set(
      '/a.svg',
      `<svg xmlns="http://www.w3.org/2000/svg" ${size}><rect width="10" height="10" fill="#f00"/><rect x="10" width="10" height="10" fill="#00f"/></svg>`,
    );
    await openMap(stage, sheet({ images: `${base}/a.svg`, bounds: [-20, -10, 20, 10] }, { image: {} }), view);
    await settled(stage);
    expect(await faultsOf(stage)).toEqual([]);
    expect(await pixels(stage, [350, 300], [450, 300])).toEqual([
      [255, 0, 0],
      [0, 0, 255],
    ]);
  }
});

test('a loose shapefile at an address brings its table and its system along', async () => {
  const crs = getCrs('EPSG:32631');
  const square = [[400000, 0], [600000, 0], [600000, 200000], [400000, 200000], [400000, 0]]; // prettier-ignore
  const features = [
    {
      type: 'Feature' as const,
      properties: { kind: 'deep' },
      geometry: { type: 'Polygon' as const, coordinates: [square] },
    },
  ];
  const { bytes } = await writeFeatureFile([{ name: 'areas', features, crs, crsSource: '' }], 'areas.zip');
  for (const [name, part] of Object.entries(unzipSync(bytes))) served.set(`/${name}`, part);
  const own = sheet(
    { features: `${base}/areas.shp` },
    { fill: { color: { by: 'kind', categories: { deep: '#ff0000' }, other: '#00ff00' } } },
  );
  await openMap(stage, own, { center: [3, 0.9], zoom: 7 });
  await settled(stage);
  expect(await faultsOf(stage)).toEqual([]);
  expect(await pixels(stage, [400, 300])).toEqual([[255, 0, 0]]);
});

test('a table with bad rows is drawn without them, and says which; its columns may be named', async () => {
  const rows = Array.from({ length: 30 }, (_, i) => `${i},${i === 7 ? 'n/a' : 0},${i === 9 ? '' : (i % 5) / 100}`);
  served.set('/t.csv', ['id,up,across', ...rows].join('\n'));
  await openMap(
    stage,
    sheet(
      { features: `${base}/t.csv`, x: 'across', y: 'up' },
      { mark: { size: 30, color: '#ff0000', shape: 'square' } },
    ),
    view,
  );
  await settled(stage);
  expect(await pixels(stage, [400, 300])).toEqual([[255, 0, 0]]);
  const [fault] = await stage.page.evaluate(() => window.faults.map(({ code, message }) => ({ code, message })));
  expect(fault).toEqual({
    code: 'features.mended',
    message: expect.stringContaining('records have a location that cannot be read (2×)'),
  });
  // Those that are drawn.
  expect(await stage.page.evaluate(async () => (await window.map.features('d')).features.length)).toBe(28);
});

test('features of tiles are refused with the way to get at them', async () => {
  const sheet = {
    sheet: 1,
    data: { reach: { tiles: '/reach.pmtiles' } },
    layers: [{ id: 'land', of: 'reach/land', fill: '#ff0000' }],
  } as unknown as Sheet;
  await openMap(stage, sheet, { center: [-31.18, 44.62], zoom: 12 });
  await settled(stage);
  const fault = await stage.page.evaluate(() =>
    window.map.features('reach').catch(({ code, message }: { code: string; message: string }) => ({ code, message })),
  );
  expect(fault).toEqual({
    code: 'features.data',
    message: expect.stringContaining('tiles, which cannot be given as features'),
  });
});
