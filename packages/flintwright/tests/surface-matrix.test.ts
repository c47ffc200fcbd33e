// Every source of features on every family of surfaces at every scale: what is drawn has the size and the place that the definition of the
// projection gives it, and a press finds it. `npm run matrix` runs every case; without MATRIX=all a seeded choice runs.
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { pyramid, readGeoJson, writeTile } from '@flintwright/core';
import type { Sheet } from 'flintwright';
import { chosen, families, skipped, type Family } from './surface-families.ts';
import { collection, faultsOf, openMap, settled, useStage } from './harness.ts';

const stage = useStage();

/** Pixels of the page, of a cell for each source, and of the shapes in it. */
const [width, height, cell, side] = [930, 620, 310, 220];
const strokeWidth = 6;
const markSize = 16;

const scales = { far: 5, middle: 11, near: 15 } as const;
type Scale = keyof typeof scales;

const sources = ['tiles', 'address', 'inline', 'table', 'edited', 'clusters'] as const;
type Source = (typeof sources)[number];
type Kind = 'polygon' | 'line' | 'point';
/** Tables and clusters hold points; tiles of WebMercatorQuad reach neither a plan nor a pole. */
const drawn = (source: Source, kind: Kind, { surface, pole }: Family): boolean =>
  source === 'tiles' ? surface !== 'plan' && !pole : kind === 'point' || (source !== 'table' && source !== 'clusters');

const colors: Record<Kind, [number, number, number]> = {
  polygon: [230, 230, 0],
  line: [220, 0, 200],
  point: [0, 90, 220],
};
const hex = (color: readonly number[]) => `#${color.map((v) => v.toString(16).padStart(2, '0')).join('')}`;

/** The middle of a source's cell, in pixels to the right of and above the middle of the page. */
const cellOf = (source: Source): [number, number] => {
  const k = sources.indexOf(source);
  return [((k % 3) - 1) * cell, (0.5 - Math.floor(k / 3)) * cell];
};

/** Outlines of the shapes in pixels from the middle of their cell, right and up, with points along the way. */
const along = (from: [number, number], to: [number, number], count = 24) =>
  Array.from(
    { length: count },
    (_, i) => [0, 1].map((k) => from[k] + ((to[k] - from[k]) * i) / count) as [number, number],
  );
const h = side / 2;
const corners: [number, number][] = [
  [-h, -h],
  [h, -h],
  [h, h],
  [-h, h],
];
const shapes: Record<Kind, [number, number][][]> = {
  polygon: [[...corners.flatMap((from, i) => along(from, corners[(i + 1) % 4])), corners[0]]],
  line: [[...along([-h, -h - 20], [h, -h - 20], 48), [h, -h - 20]]],
  point: [[[-h, h + 20]], [[h, h + 20]]],
};
/** Points in a group that shows as one cluster. */
const crowd = 5;

/** The features of a source, in longitude and latitude (or in meters of a plan). */
function featuresOf(source: Source, family: Family, zoom: number, shift = 0): object[] {
  const metersPerPixel = 40075016.6855785 / 256 / 2 ** zoom;
  const [cx, cy] = cellOf(source);
  const place = ([x, y]: [number, number]) =>
    family.place((cx + x + shift) * metersPerPixel, (cy + y) * metersPerPixel, metersPerPixel);
  const out: object[] = [];
  for (const kind of ['polygon', 'line', 'point'] as const) {
    if (!drawn(source, kind, family)) continue;
    const paths = shapes[kind].map((path) => path.map(place));
    if (kind === 'polygon') out.push(feature('Polygon', paths, kind, 1));
    else if (kind === 'line') out.push(feature('LineString', paths[0], kind, 2));
    else
      paths.forEach(([at], i) => {
        for (let n = 0; n < (source === 'clusters' ? crowd : 1); n++)
          out.push(feature('Point', at, kind, 3 + 10 * i + n));
      });
  }
  return out;
}
const feature = (type: string, coordinates: unknown, kind: Kind, id: number) => ({
  type: 'Feature',
  id,
  properties: { kind, id },
  geometry: { type, coordinates },
});

const layersOf = (source: Source, of: string) => [
  {
    id: source,
    of,
    rules: [
      { where: "kind = 'polygon'", fill: hex(colors.polygon) },
      { where: "kind = 'line'", stroke: { color: hex(colors.line), width: strokeWidth } },
      {
        where: "kind = 'point'",
        mark: { size: markSize, color: hex(colors.point), outline: { width: 0, color: '#ffffff' } },
      },
    ],
  },
];

let server: Server;
let base: string;
/** What the server gives at an address: a text, or a tile. */
const served = new Map<string, string | Uint8Array>();
beforeAll(async () => {
  server = createServer(({ url }, response) => {
    const body = served.get(url!);
    response.writeHead(body === undefined ? 404 : 200, {
      'Access-Control-Allow-Origin': '*',
      'Content-Type': typeof body === 'string' && body.startsWith('{') ? 'application/geo+json' : 'text/csv',
    });
    response.end(body);
  });
  await new Promise<void>((resolve) => server.listen(0, 'localhost', resolve));
  base = `http://localhost:${(server.address() as AddressInfo).port}`;
});
afterAll(() => void server.close());

function sheetOf(family: Family, zoom: number): Sheet {
  served.clear();
  const noTiles = !drawn('tiles', 'point', family);
  const [address, table] = [featuresOf('address', family, zoom), featuresOf('table', family, zoom)];
  served.set('/address.geojson', JSON.stringify(collection(...address)));
  const rows = (table as { id: number; geometry: { coordinates: number[] } }[]).map(
    ({ id, geometry: { coordinates } }) => `${id},point,${coordinates.join()}`,
  );
  served.set('/table.csv', ['id,kind,lon,lat', ...rows, ''].join('\n'));
  if (!noTiles) {
    const block = readGeoJson(collection(...featuresOf('tiles', family, zoom)), { name: 'd' });
    for (const { tile, blocks } of pyramid([block], [0, zoom]))
      served.set(`/${tile.z}/${tile.x}/${tile.y}`, writeTile(blocks));
  }
  return {
    sheet: 1,
    background: '#ffffff',
    data: {
      ...(noTiles ? {} : { tiles: { tiles: `${base}/{z}/{x}/{y}`, zooms: [0, zoom] as const } }),
      address: { features: `${base}/address.geojson` },
      inline: { features: collection(...featuresOf('inline', family, zoom)) },
      table: { features: `${base}/table.csv` },
      // What comes here is moved to its place by an edit.
      edited: { features: collection(...featuresOf('edited', family, zoom, -40)) },
      clusters: { features: collection(...featuresOf('clusters', family, zoom)), cluster: { within: 44, until: 22 } },
    },
    view: { surface: family.surface, center: family.center, zoom, limits: { zoom: [0, 24] } },
    layers: [
      ...(noTiles ? [] : layersOf('tiles', 'tiles/d')),
      ...layersOf('address', 'address'),
      ...layersOf('inline', 'inline'),
      ...layersOf('table', 'table'),
      ...layersOf('edited', 'edited'),
      {
        id: 'clusters',
        of: 'clusters',
        mark: { size: markSize, color: '#ff0000' },
        clusters: { mark: { size: markSize, color: hex(colors.point), outline: { width: 0, color: '#ffffff' } } },
      },
    ],
  } as unknown as Sheet;
}

/** Number, left, top, right and bottom of the pixels of each kind's color in each cell. */
type Seen = Record<Source, Record<Kind, [count: number, left: number, top: number, right: number, bottom: number]>>;
async function look(): Promise<Seen> {
  const shot = await stage.page.screenshot();
  return stage.page.evaluate(
    async ([data, sources, colors, cell]) => {
      const bytes = Uint8Array.from(atob(data), (c) => c.charCodeAt(0));
      const image = await createImageBitmap(new Blob([bytes], { type: 'image/png' }));
      const context = new OffscreenCanvas(image.width, image.height).getContext('2d')!;
      context.drawImage(image, 0, 0);
      const out: Record<string, Record<string, number[]>> = {};
      sources.forEach((source, k) => {
        const { data: rgba } = context.getImageData((k % 3) * cell, Math.floor(k / 3) * cell, cell, cell);
        out[source] = {};
        for (const [kind, color] of Object.entries(colors)) {
          const seen = [0, Infinity, Infinity, -Infinity, -Infinity];
          for (let i = 0; i < rgba.length; i += 4) {
            if (!color.every((v, c) => Math.abs(rgba[i + c] - v) < 12)) continue;
            const [x, y] = [(i / 4) % cell, Math.floor(i / 4 / cell)];
            seen[0]++;
            seen[1] = Math.min(seen[1], x);
            seen[2] = Math.min(seen[2], y);
            seen[3] = Math.max(seen[3], x + 1);
            seen[4] = Math.max(seen[4], y + 1);
          }
          out[source][kind] = seen;
        }
      });
      return out;
    },
    [shot.toString('base64'), sources, colors, cell] as const,
  ) as Promise<Seen>;
}

/** What is wrong with a case: nothing, where everything is drawn at its size and place, and found by a press. */
async function faultsIn(family: Family, scale: Scale): Promise<string[]> {
  const zoom = scales[scale];
  await openMap(stage, sheetOf(family, zoom), {}, {}, [width, height]);
  await settled(stage);
  await stage.page.evaluate(
    (put) => window.map.edit('edited', { put: JSON.parse(put) as object }),
    JSON.stringify(collection(...featuresOf('edited', family, zoom))),
  );
  await settled(stage);
  const wrong = (await faultsOf(stage)).map(({ code, hint }) => `fault ${code}: ${hint}`);
  const seen = await look();
  const near = (value: number, expected: number, slack: number) => Math.abs(value - expected) <= slack;
  for (const source of sources) {
    for (const kind of ['polygon', 'line', 'point'] as const) {
      if (!drawn(source, kind, family)) continue;
      const [count, left, top, right, bottom] = seen[source][kind];
      const say = (what: string) => wrong.push(`${source} ${kind}: ${what} (${seen[source][kind].join(' ')})`);
      const [across, y] = { polygon: [side, 0], line: [side, -h - 20], point: [side + markSize, h + 20] }[kind];
      if (!count) {
        say('nothing drawn');
        continue;
      }
      if (!near(right - left, across, 0.05 * side)) say(`${right - left} px wide, expected ${across}`);
      if (!near((left + right) / 2, cell / 2, 6)) say(`middle at x ${(left + right) / 2}`);
      if (!near((top + bottom) / 2, cell / 2 - y, 6)) say(`middle at y ${(top + bottom) / 2}`);
      const area = kind === 'polygon' ? side * side : kind === 'line' ? side * strokeWidth : undefined;
      if (area && !near(count / area, 1, kind === 'polygon' ? 0.1 : 0.35)) say(`${count} px, expected ${area}`);
      // Each shape is found where it is drawn.
      const presses = (kind === 'point' ? [-h, h] : kind === 'line' ? [-60, 60] : [-90, 90]).map(
        (x) =>
          [width / 2 + cellOf(source)[0] + x, height / 2 - cellOf(source)[1] - y + (kind === 'polygon' ? 40 : 0)] as [
            number,
            number,
          ],
      );
      if (source === 'clusters') continue;
      const find = (at: [number, number][]) =>
        stage.page.evaluate(
          (at) => at.map((p) => window.map.pick(p).map(({ layer, properties }) => `${layer} ${properties['kind']}`)),
          at,
        );
      const found = await find(presses);
      if (!found.every((all) => all.includes(`${source} ${kind}`))) say(`a press finds ${JSON.stringify(found)}`);
      // And nowhere else: not a stroke's or a symbol's width and a fingertip beside it.
      const beside = await find(
        presses.flatMap(([px, py]) =>
          [-1, 1].map((sign): [number, number] => [px, py + sign * (kind === 'polygon' ? 170 : 18)]),
        ),
      );
      if (beside.some((all) => all.includes(`${source} ${kind}`)))
        say(`a press beside it finds ${JSON.stringify(beside)}`);
    }
  }
  // A press on a cluster comes last: it moves the view.
  const [cx, cy] = cellOf('clusters');
  await stage.page.evaluate(() => {
    const heard = ({ detail }: { detail: { cluster?: { node: { count: number } } } }) =>
      (document.title = String(detail.cluster?.node.count));
    window.map.addEventListener('press', heard as never, { once: true });
  });
  await stage.page.mouse.click(width / 2 + cx + h, height / 2 - cy - h - 20);
  const pressed = await stage.page.title();
  if (pressed !== String(crowd)) wrong.push(`a press on a cluster of ${crowd} finds ${pressed}`);
  return wrong;
}

describe('features on every surface', () => {
  const cases = families.flatMap((family) => (Object.keys(scales) as Scale[]).map((scale) => [family, scale] as const));
  const all = process.env['MATRIX'] === 'all';
  const run = cases.filter(([family, scale]) => !skipped(family, scale));
  test.each((all ? run : chosen(run)).map(([family, scale]) => [family.name, scale, family] as const))(
    '%s, %s',
    async (_name, scale, family) => {
      await stage.page.setViewportSize({ width, height });
      expect(await faultsIn(family, scale)).toEqual([]);
    },
  );

  test('pairs that make no sense are few, and each has its reason', () => {
    const reasons = cases.flatMap(([family, scale]) => {
      const reason = skipped(family, scale);
      return reason ? [`${family.name}, ${scale}: ${reason}`] : [];
    });
    if (all) process.stdout.write(`skipped\n${reasons.map((text) => `  ${text}\n`).join('')}`);
    expect(reasons.length).toBeLessThan(cases.length / 10);
    expect(new Set(families.map(({ surface }) => JSON.stringify(surface))).size).toBeGreaterThanOrEqual(26);
  });
});
