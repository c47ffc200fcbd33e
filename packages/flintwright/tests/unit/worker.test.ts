import { describe, expect, test } from '@jest/globals';
import {
  attributesOf,
  ClusterIndex,
  findCrs,
  Kind,
  parseCql2,
  vertexRange,
  type FaultLike,
  type FeatureBlock,
  type Sheet,
} from '@flintwright/core';
import { webMercator } from '@flintwright/core/internal';
import { featureTools } from '../../src/worker/features.js';
import { WorkerHandler } from '../../src/worker/handler.js';
import { HeldFeatures, type Scene } from '../../src/worker/held-features.js';
import type { CallName, FromWorker, ReplyOf, RequestOf } from '../../src/worker/messages.js';
import { valueTools } from '../../src/worker/value-tools.js';

const beds = {
  type: 'FeatureCollection',
  features: [
    { type: 'Feature', properties: { code: 'A1', tonnes: 4 }, geometry: { type: 'Point', coordinates: [-31.2, 44.6] } },
    { type: 'Feature', properties: { code: 'A2', tonnes: 8 }, geometry: { type: 'Point', coordinates: [-31.1, 44.7] } },
    { type: 'Feature', properties: { code: 'A3' }, geometry: null },
  ],
};
const sheet: Sheet = {
  sheet: 1,
  data: { beds: { features: '', id: 'code' } },
  layers: [{ id: 'beds', of: 'beds', mark: { size: 10 } }],
};

/** A worker without a thread: each call gives its reply, or throws its fault. */
function worker() {
  const said: FromWorker[] = [];
  let id = 0;
  const handler = new WorkerHandler(
    {
      surface: () => webMercator,
      hold: (scene) => new HeldFeatures(scene, featureTools),
      toDegrees: (code) => {
        const crs = findCrs(code)!;
        return (x, y) => {
          const out: [number, number] = [0, 0];
          crs.inverse(x, y, out);
          return out;
        };
      },
    },
    (message) => said.push(message),
  );
  return {
    handler,
    ask<K extends CallName>(call: K, request: RequestOf<K>): ReplyOf<K> {
      handler.hear({ call, id: ++id, request });
      const answer = said.pop()!;
      expect(answer.id).toBe(id);
      if (!answer.ok) throw answer.fault as FaultLike;
      return answer.reply as ReplyOf<K>;
    },
  };
}
/** Places of the features that have one, by their code. */
const placesOf = (block: FeatureBlock) =>
  Object.fromEntries(
    Array.from({ length: block.count }, (_, f) => f)
      .filter((f) => block.kinds[f] !== Kind.none)
      .map((f) => [
        String(attributesOf(block, f).code),
        [...block.coords.subarray(2 * vertexRange(block, f)[0], 2 * vertexRange(block, f)[1])],
      ]),
  );

describe('a worker', () => {
  test('holds features, says where they lie, and hands them over', () => {
    const { ask } = worker();
    const { bounds } = ask('features', { data: 'beds', source: beds, idName: 'code', maxZoom: 14 });
    expect(bounds).toEqual([-31.2, 44.6, -31.1, 44.7]);
    const { block } = ask('export', { data: 'beds' });
    expect(block.count).toBe(3);
    // What another worker held is taken as it is.
    const other = worker();
    other.ask('features', { data: 'beds', source: '', maxZoom: 14, held: block });
    expect(other.ask('export', { data: 'beds' }).block).toBe(block);
  });

  test.each([
    ['GeoJSON text', JSON.stringify(beds), 3],
    ['GeoJSON lines', beds.features.map((one) => JSON.stringify(one)).join('\n'), 3],
    ['a table', 'code;lon;lat\nA1;-31,2;44,6\nA2;-31,1;44,7\n', 2],
  ])('reads %s', (_, source, count) => {
    const { ask } = worker();
    expect(ask('features', { data: 'beds', source, maxZoom: 14 }).bounds).toEqual([-31.2, 44.6, -31.1, 44.7]);
    expect(ask('export', { data: 'beds' }).block.count).toBe(count);
  });

  test('reads the bytes of a file, and gives back what it cannot read', () => {
    const { ask } = worker();
    const bytes = new TextEncoder().encode('lon,lat,code\n-31.2,44.6,A1\n-31.1,44.7,A2\n');
    const pieces = [bytes.slice(0, 7), bytes.slice(7)];
    expect(ask('features', { data: 'beds', source: '', pieces, maxZoom: 14 }).bounds).toEqual([
      -31.2, 44.6, -31.1, 44.7,
    ]);
    const lost = [new TextEncoder().encode('{"type":"FeatureCollection","features":[{"type":"Feature"')];
    const { unread } = ask('features', { data: 'beds', source: '', pieces: lost, maxZoom: 14 });
    expect(unread).toEqual({ fault: expect.objectContaining({ code: 'geojson.json' }), pieces: lost });
    // The features of before stay.
    expect(ask('export', { data: 'beds' }).block.count).toBe(2);
  });

  test('takes features in arrays', () => {
    const { ask } = worker();
    const source = { coordinates: Float64Array.of(-31.2, 44.6, -31.1, 44.7), attributes: { code: ['A1', 'A2'] } };
    expect(ask('features', { data: 'beds', source, maxZoom: 14 }).attributes).toEqual(['code']);
    expect(placesOf(ask('export', { data: 'beds' }).block)).toEqual({ A1: [-31.2, 44.6], A2: [-31.1, 44.7] });
  });

  test('brings tables and GeoJSON of another system to longitude and latitude', () => {
    for (const source of ['name,x,y\nquay,500000,4982950.4\n', { type: 'Point', coordinates: [500000, 4982950.4] }]) {
      const { ask } = worker();
      const [west, south] = ask('features', { data: 'beds', source, maxZoom: 14, crs: 'EPSG:32625' }).bounds!;
      // On the central meridian of UTM zone 25, 0.9996 of the quarter arc of WGS 84 up to 45°: 4,984,944.378 m.
      expect(west).toBeCloseTo(-33, 9);
      expect(south).toBeCloseTo(45, 7);
    }
  });

  test('joins a table and reports what met nothing', () => {
    const { ask } = worker();
    const join = { table: 'bed,yield\nA1,12\nZ9,1\n', match: ['code', 'bed'] as const };
    const { join: report } = ask('features', { data: 'beds', source: beds, maxZoom: 14, join });
    expect(report).toEqual(expect.objectContaining({ matched: 1 }));
    expect(JSON.stringify(report)).toContain('Z9');
  });

  test('edits what it holds', () => {
    const { ask } = worker();
    ask('features', { data: 'beds', source: beds, idName: 'code', maxZoom: 14 });
    ask('edit', {
      data: 'beds',
      idName: 'code',
      edit: {
        move: { A1: [-31, 44] },
        remove: ['A2'],
        put: { type: 'Feature', properties: { code: 'B1' }, geometry: { type: 'Point', coordinates: [-30, 45] } },
      },
    });
    const { block } = ask('export', { data: 'beds' });
    expect(placesOf(block)).toEqual({ A1: [-31, 44], B1: [-30, 45] });
  });

  test('finds class limits and clusters', () => {
    const { ask } = worker();
    ask('features', { data: 'beds', source: beds, idName: 'code', maxZoom: 14 });
    const by = parseCql2('tonnes');
    const { breaks } = ask('classes', { data: 'beds', wanted: [{ by, method: 'equal', count: 2 }] });
    expect(breaks).toEqual([[4, 6, 8]]);
    const { data } = ask('clusters', { data: 'beds', query: { where: parseCql2('tonnes > 5'), sum: { t: by } } });
    const nodes = ClusterIndex.from(data).query([-180, -85, 180, 85], 0);
    expect(nodes.map(({ count, sums }) => [count, sums])).toEqual([[1, { t: 8 }]]);
  });

  test('prepares tiles by the sheet in force, and says which sheet that was', () => {
    const said: FromWorker[] = [];
    const tools = {
      surface: () => webMercator,
      values: valueTools,
      hold: (scene: Scene) => new HeldFeatures(scene, featureTools),
    };
    const handler = new WorkerHandler(tools, (message) => said.push(message));
    handler.hear({ sheet: { sheet, version: 7, sprites: ['circle'], surface: undefined, plain: undefined } });
    handler.hear({ call: 'features', id: 1, request: { data: 'beds', source: beds, idName: 'code', maxZoom: 14 } });
    // -31.2°, 44.6° lies in tile 4/6/5: ((-31.2 + 180) / 360) · 16 = 6.6.
    handler.hear({
      call: 'tile',
      id: 2,
      request: { data: 'beds', tile: { z: 4, x: 6, y: 5 }, zoom: 4, shown: [4, 5] },
    });
    handler.hear({
      call: 'tile',
      id: 3,
      request: { data: 'beds', tile: { z: 4, x: 0, y: 0 }, zoom: 4, shown: [4, 5] },
    });
    const [, full, empty] = said as { ok: true; version: number; reply: ReplyOf<'tile'> }[];
    expect([full.ok, full.version]).toEqual([true, 7]);
    expect(full.reply.tile.layers.map(({ layer, features }) => [layer, features.length])).toEqual([['beds', 2]]);
    expect(empty.reply.tile.layers).toEqual([]);
  });

  test('answers a faulty call with its fault, and works on', () => {
    const { handler, ask } = worker();
    expect(() => ask('export', { data: 'beds' })).toThrow();
    try {
      ask('features', { data: 'beds', source: '<html>', maxZoom: 14 });
    } catch (fault) {
      expect(fault).toEqual(expect.objectContaining({ code: 'geojson.json', hint: expect.stringContaining('HTML') }));
    }
    ask('features', { data: 'beds', source: beds, maxZoom: 14 });
    handler.hear({ forget: 'beds' });
    try {
      ask('clusters', { data: 'beds', query: {} });
    } catch (fault) {
      expect(fault).toEqual(expect.objectContaining({ code: 'worker.data' }));
    }
    expect(ask('features', { data: 'beds', source: beds, maxZoom: 14 }).bounds).toBeDefined();
  });
});
