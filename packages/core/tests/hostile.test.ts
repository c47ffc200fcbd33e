// Whatever comes into a public reader, a Fault or an answer comes out, and nothing else.
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import * as core from '@flintwright/core';

const { Fault, SheetFault } = core;
const isRefusal = (error: unknown) => error instanceof Fault || error instanceof SheetFault;

/** Readers by name, each with one argument of any kind. */
const readers: Readonly<Record<string, (value: never) => unknown>> = {
  getCrs: core.getCrs,
  findCrs: core.findCrs,
  readCrs: core.readCrs,
  readGeoJson: core.readGeoJson,
  readTable: core.readTable,
  readTile: core.readTile,
  gunzip: core.gunzip,
  parseAddress: core.parseAddress,
  parseCql2: core.parseCql2,
  compileCql2: core.compileCql2,
  readCql2Json: core.readCql2Json,
  readSheet: core.readSheet,
  readSld: core.readSld,
  readTileMatrixSet: core.readTileMatrixSet,
  readOgcTiles: (value) => core.readOgcTiles(value, 'https://tiles.example/'),
  getSurface: core.getSurface,
  readPlace: core.readPlace,
};

/** Anything at all, and things that look like what is wanted, with members that do not. */
const key = fc.constantFrom(
  ...[
    'type',
    'coordinates',
    'geometries',
    'geometry',
    'features',
    'properties',
    'op',
    'args',
    'property',
    'crs',
    'layers',
    'sheet',
  ],
  ...[
    'data',
    'links',
    'tileMatrices',
    'id',
    'datum',
    'ellipsoid',
    'base_crs',
    'coordinate_system',
    'axis',
    'method',
    'source_crs',
  ],
);
const word = fc.constantFrom(
  'Feature',
  'Point',
  'GeometryCollection',
  'constructor',
  '__proto__',
  'ProjectedCRS',
  'BoundCRS',
  'CompoundCRS',
  '=',
);
const anything = fc.letrec((tie) => ({
  value: fc.oneof(
    { maxDepth: 4 },
    fc.anything(),
    word,
    fc.constantFrom(null, undefined, NaN, Infinity, -0, '', '\u0000', 1e308),
    fc.dictionary(key, tie('value'), { maxKeys: 5 }),
    fc.array(tie('value'), { maxLength: 4 }),
  ),
})).value;

describe('any value', () => {
  test.each(Object.keys(readers))('%s', (name) => {
    fc.assert(
      fc.property(anything, (value) => {
        try {
          readers[name](value as never);
        } catch (error) {
          if (!isRefusal(error)) throw error;
        }
      }),
      { numRuns: 400 },
    );
  });
});

describe('named things', () => {
  const deep = (open: string, inner: string, close: string, n = 5000) => open.repeat(n) + inner + close.repeat(n);
  const collection = () => {
    let out: object = { type: 'Point', coordinates: [0, 0] };
    for (let i = 0; i < 20000; i++) out = { type: 'GeometryCollection', geometries: [out] };
    return out;
  };
  test.each<[string, () => unknown, string, RegExp]>([
    ['a function named constructor', () => core.compileCql2('constructor(a)'), 'cql2.function', /1:1/],
    ['a function named __proto__', () => core.compileCql2('__proto__(a)'), 'cql2.function', /1:1/],
    [
      'a kind of geometry named constructor',
      () => core.readGeoJson({ type: 'constructor', coordinates: [] }),
      'geojson.form',
      /type/,
    ],
    ['a compound system of nothing', () => core.readCrs('COMPD_CS["x"]'), 'crs.wkt', /COMPD_CS/],
    ['a compound system without components', () => core.readCrs({ type: 'CompoundCRS' }), 'crs.wkt', /type/],
    ['a bound system of nothing', () => core.readCrs({ type: 'BoundCRS' }), 'crs.wkt', /type/],
    ['brackets without end in CQL2', () => core.parseCql2(deep('(', 'a', ')')), 'cql2.depth', /1:201/],
    [
      'operations without end in CQL2',
      () => core.readCql2Json(JSON.parse(deep('{"op":"not","args":[', 'true', ']}'))),
      'cql2.depth',
      /^\$\.args/,
    ],
    ['collections without end', () => core.readGeoJson(collection()), 'geojson.form', /geometries/],
    ['well-known text without end', () => core.readCrs('A['.repeat(20000)), 'crs.wkt', /character/],
  ])('%s', (_what, work, code, at) => {
    let fault: unknown;
    try {
      work();
    } catch (error) {
      fault = error;
    }
    expect(fault).toBeInstanceOf(Fault);
    expect((fault as core.Fault).code).toBe(code);
    expect((fault as core.Fault).at).toMatch(at);
  });
});

describe('time is bounded', () => {
  const box = (wide: number, high: number) => `POLYGON((0 0, ${wide} 0, ${wide} ${high}, 0 ${high}, 0 0))`;

  test.each([
    [10, 1e-5],
    [10, 1e-6],
    [1e-9, 80],
    [170, 1e-12],
  ])('a filter with a sliver of %s by %s ends, and is right', (wide, high) => {
    const block = core.readGeoJson({ type: 'Point', coordinates: [wide / 2, high / 2] });
    const began = performance.now();
    const inside = core.compileCql2(`S_INTERSECTS(geometry, ${box(wide, high)})`).bind({ block, zoom: 0 })(0);
    const beside = core.compileCql2(`S_WITHIN(${box(wide, high)}, ${box(wide, high / 2)})`).bind({ block, zoom: 0 })(0);
    expect(performance.now() - began).toBeLessThan(1000);
    expect([inside, beside]).toEqual([true, false]);
  });

  test('numbers beyond the finite are refused, with their place', () => {
    for (const text of ['depth > 1e999', `S_INTERSECTS(geometry, POINT(1e400 2))`])
      expect(() => core.compileCql2(text)).toThrow(/is too large/);
    const far = JSON.parse('{"type":"Point","coordinates":[1e999,2]}') as object;
    expect(() => core.readGeoJson(far)).toThrow(Fault);
  });

  test('an archive whose leaf directory leads to itself ends in a fault', async () => {
    const writer = new core.ArchiveWriter();
    for (let x = 0; x < 128; x++) for (let y = 0; y < 128; y++) writer.add({ z: 7, x, y }, Uint8Array.of(x, y, x ^ y));
    const { pieces } = writer.finish({ metadata: {}, bounds: [-180, -85, 180, 85], center: [0, 0], centerZoom: 0 });
    const bytes = new Uint8Array(await new Blob(pieces as Uint8Array<ArrayBuffer>[]).arrayBuffer());
    const view = new DataView(bytes.buffer);
    // The root (PMTiles 3, section 4): one entry of run 0, which leads to the first leaf; and so does that leaf itself.
    const loop = core.gzip(Uint8Array.of(1, 0, 0, 40, 1));
    const leaves = Number(view.getBigUint64(40, true));
    const root = Number(view.getBigUint64(8, true));
    view.setBigUint64(16, BigInt(loop.length), true);
    bytes.set(loop, root);
    const longer = new Uint8Array(bytes.length + 64);
    longer.set(bytes);
    const packed = core.gzip(Uint8Array.of(1, 0, 0, loop.length + 8, 1));
    longer.set(packed, leaves);
    // The entry names as many bytes as the leaf has.
    const exact = core.gzip(Uint8Array.of(1, 0, 0, packed.length, 1));
    longer.set(exact, leaves);
    longer.set(exact, root);
    new DataView(longer.buffer).setBigUint64(16, BigInt(exact.length), true);
    const archive = await core.Archive.open(core.bufferSource(longer));
    const walk = async () => {
      for await (const entry of archive.entries()) expect(entry).toBeDefined();
    };
    await expect(walk()).rejects.toMatchObject({ code: 'archive.directory' });
  });
});

test('a part of a sheet that has the wrong form is a fault, and is not looked at any further', () => {
  const sound = { sheet: 1, layers: [], data: {} };
  for (const key of ['palette', 'dark', 'icons', 'view', 'bookmarks', 'background', 'data', 'title'])
    for (const odd of [null, 3, 'text', [], { x: 3 }, { x: null }, { x: [] }, { x: { source: 3 } }, { center: 'x' }]) {
      const faults = core.checkSheet({ ...sound, [key]: odd });
      for (const fault of faults) expect([key, odd, fault.at?.startsWith(`$.${key}`)]).toEqual([key, odd, true]);
    }
});

test('a small tile of many features and many names of attributes takes no large memory', () => {
  const encoder = new TextEncoder();
  const varint = (value: number): number[] => (value < 128 ? [value] : [(value & 127) | 128, ...varint(value >>> 7)]);
  const bytes: number[] = [(1 << 3) | 2, 1, ...encoder.encode('a'), (15 << 3) | 0, 2];
  for (let i = 0; i < 20_000; i++) bytes.push((2 << 3) | 2, 2, (3 << 3) | 0, 1);
  for (let i = 0; i < 20_000; i++) {
    const key = encoder.encode(String(i));
    bytes.push((3 << 3) | 2, key.length, ...key);
  }
  const tile = Uint8Array.from([(3 << 3) | 2, ...varint(bytes.length), ...bytes]);
  const violations: core.Violation[] = [];
  const before = process.memoryUsage().rss;
  expect(core.readTile(tile, { violations })).toEqual([]);
  expect(process.memoryUsage().rss - before).toBeLessThan(100e6);
  expect(violations.map(({ code }) => code)).toEqual(['mvt.layer.cells']);
  expect(() => core.readTile(tile)).toThrow(Fault);
});

test.each([
  ['array predicates within each other', (inner: string) => `A_CONTAINS(tags, (${inner}))`],
  ['array predicates whose brackets go on', (inner: string) => `A_CONTAINS(tags, (${inner}) + 1)`],
  ['functions within each other', (inner: string) => `casei(${inner}`],
  ['predicates of space within each other', (inner: string) => `S_INTERSECTS(geometry, ${inner}`],
  ['nots and brackets', (inner: string) => `NOT (${inner} AND`],
])('%s are read, or refused, in one go', (_, wrap) => {
  let text = 'a';
  for (let k = 0; k < 90; k++) text = wrap(text);
  const began = performance.now();
  for (const one of [text, text.slice(0, -1), `${text})`])
    try {
      core.parseCql2(one);
    } catch (error) {
      if (!isRefusal(error)) throw error;
    }
  // Without end where an argument is read twice.
  expect(performance.now() - began).toBeLessThan(2000);
});

test('objects whose toString is none are refused as any other', () => {
  const odd = { toString: 1, valueOf: 1 };
  for (const work of [
    () => core.readCql2Json({ date: odd } as never),
    () => core.readCql2Json({ timestamp: odd } as never),
    () => core.readGeoJson({ type: odd, coordinates: [0, 0] } as never),
    () => core.readGeoJson({ type: 'Feature', geometry: { type: odd } } as never),
    () => core.checkSheet({ sheet: 1, layers: [{ id: 'a', of: 'a', mark: { shape: odd, color: odd, size: odd } }] }),
    () => core.checkSheet({ sheet: odd, layers: odd }),
  ])
    try {
      work();
    } catch (error) {
      if (!isRefusal(error)) throw error;
    }
});
