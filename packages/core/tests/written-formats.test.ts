// Every format that is written, over random collections with awkward values: each file is checked against its standard by a schema or by an
// independent reader of its bytes, and what is read back is what was written, or a warning says what is not.
import { describe, expect, test } from '@jest/globals';
import {
  readFeatureFile,
  writableFormats,
  writeFeatureFile,
  type FileFeature,
  type FileGeometry,
} from '@flintwright/core/files';
import fc from 'fast-check';
import { shapefileFaults, unpacked, wkbFaults, wktFaults } from './sample-byte-checks.ts';
import { initSqlite, layerOf } from './sample-files.ts';
import { schemaFaults } from './sample-xml-schemas.ts';

const textOf = (bytes: Uint8Array) => new TextDecoder('utf-8', { fatal: true }).decode(bytes);

// Numbers that are written with exponents or many digits, and the ends of the world.
const lon = fc.oneof(
  { arbitrary: fc.integer({ min: -1799, max: 1799 }).map((v) => v / 10), weight: 6 },
  fc.constantFrom(-180, 180, 1e-9, -0.000001234567890123, 179.99999999999997),
);
const lat = fc.oneof(
  { arbitrary: fc.integer({ min: -890, max: 890 }).map((v) => v / 10), weight: 6 },
  fc.constantFrom(-90, 90, -1e-7, 12.345678901234567),
);
const height = fc.constantFrom(undefined, undefined, 0, -3.25, 8848.86, 1e-8);
const position = fc
  .tuple(lon, lat, height)
  .map(([x, y, z]): readonly number[] => (z === undefined ? [x, y] : [x, y, z]));
const line = fc
  .uniqueArray(position, { minLength: 2, maxLength: 5, selector: ([x, y]) => `${x} ${y}` })
  // No step is longer than half the world, which would be a line over the antimeridian.
  .map((places) => places.map(([x, ...rest]) => [x / 2.001, ...rest]));
const ring = fc
  .tuple(fc.integer({ min: -170, max: 160 }), fc.integer({ min: -80, max: 70 }), fc.integer({ min: 1, max: 9 }), height)
  .map(([x, y, size, z]) =>
    [
      [x, y],
      [x + size, y],
      [x + size, y + size],
      [x, y + size],
      [x, y],
    ].map((place) => (z === undefined ? place : [...place, z])),
  );
const holed = ring.map((outer) => {
  const [[x, y, ...z]] = outer;
  const hole = [
    [x + 0.2, y + 0.2],
    [x + 0.2, y + 0.4],
    [x + 0.4, y + 0.4],
    [x + 0.2, y + 0.2],
  ];
  return [outer, hole.map((place) => [...place, ...z])];
});
const simpleGeometry = fc.oneof(
  position.map((coordinates) => ({ type: 'Point', coordinates })),
  line.map((coordinates) => ({ type: 'LineString', coordinates })),
  fc
    .oneof(
      ring.map((outer) => [outer]),
      holed,
    )
    .map((coordinates) => ({ type: 'Polygon', coordinates })),
  fc.array(position, { minLength: 2, maxLength: 4 }).map((coordinates) => ({ type: 'MultiPoint', coordinates })),
  fc.array(line, { minLength: 2, maxLength: 3 }).map((coordinates) => ({ type: 'MultiLineString', coordinates })),
);
const geometry = fc.oneof(
  { arbitrary: simpleGeometry, weight: 8 },
  { arbitrary: fc.constant(null), weight: 1 },
  {
    arbitrary: fc
      .array(simpleGeometry, { minLength: 1, maxLength: 3 })
      .map((geometries) => ({ type: 'GeometryCollection', geometries })),
    weight: 1,
  },
) as unknown as fc.Arbitrary<FileGeometry | null>;

const text = fc.string({
  unit: fc.constantFrom(...'aé日 ,"\n\r\t<&;7=.\'-', '\u2028', '\u0001', '😀', ']]>'),
  maxLength: 8,
});
const value = fc.oneof(
  text,
  fc.integer({ min: -1e9, max: 1e9 }),
  fc.constantFrom(0.1, -1.5e-7, 123456789012345680, 1e21, 2 ** 53 - 1, 98765.4321012345, -0.000012),
  fc.boolean(),
  fc.constant(null),
  fc.constantFrom<unknown>([1, 'a'], { in: { side: 1 } }),
);
const names = [
  'name',
  'desc',
  'time',
  'number',
  'type',
  'link',
  'fill',
  'sat',
  'visibility',
  'folder',
  'fid',
  'geom',
  'FID',
  'lon',
  'wkt',
  'id',
  'select',
  'a very long name of an attribute',
  'a very long name of another',
  'größe',
  'x"y',
  'point_hr',
  'times',
];
const properties = fc
  .uniqueArray(fc.tuple(fc.constantFrom(...names), value), { maxLength: 6, selector: ([name]) => name })
  .map((entries) => Object.fromEntries(entries));
const id = fc.oneof(
  { arbitrary: fc.constant(undefined), weight: 3 },
  fc.constantFrom<string | number>(1, 2, 7.5, 'a', 'a b', '12', 'x:y'),
);
const collection = fc.array(
  fc.tuple(geometry, properties, id).map(([own, attributes, key]): FileFeature => ({
    type: 'Feature',
    ...(key === undefined ? {} : { id: key }),
    geometry: own,
    properties: attributes,
  })),
  { maxLength: 5 },
);

/** RFC 4180: the records of a table, read sign by sign. */
function records(table: string, separator: string): string[][] {
  const rows: string[][] = [[]];
  let cell = '';
  for (let i = 0; i < table.length; i++) {
    if (table[i] === '"' && cell === '') {
      for (i++; !(table[i] === '"' && table[i + 1] !== '"'); i++) {
        if (i >= table.length) throw new Error('a quote is never closed');
        if (table[i] === '"') i++;
        cell += table[i];
      }
      if (![separator, '\r', undefined].includes(table[i + 1])) throw new Error(`"${table[i + 1]}" after a quote`);
      // A cell of nothing but quotes is not taken for one that has not begun.
      if (cell === '') continue;
    } else if (table[i] === separator) {
      rows[rows.length - 1].push(cell);
      cell = '';
    } else if (table[i] === '\r' && table[i + 1] === '\n') {
      rows[rows.length - 1].push(cell);
      cell = '';
      rows.push([]);
      i++;
    } else if (table[i] === '\n' || table[i] === '\r' || table[i] === '"')
      throw new Error('a bare line break or quote');
    else cell += table[i];
  }
  if (rows.pop()!.length || cell) throw new Error('the last record does not end');
  return rows;
}

/** RFC 7946, sections 3.1 and 3.1.6, and the ends of the world. */
function geoJsonFaults(feature: {
  readonly type: string;
  readonly geometry: unknown;
  readonly properties: unknown;
}): string[] {
  const faults: string[] = [];
  if (feature.type !== 'Feature' || typeof feature.properties !== 'object') faults.push('no feature');
  const visit = (node: { type: string; coordinates?: unknown; geometries?: unknown[] } | null): void => {
    if (!node) return;
    if (node.type === 'GeometryCollection') return node.geometries!.forEach((one) => visit(one as never));
    const rings =
      node.type === 'Polygon'
        ? (node.coordinates as number[][][])
        : node.type === 'MultiPolygon'
          ? (node.coordinates as number[][][][]).flat()
          : [];
    for (const one of rings) if (one.length < 4 || String(one[0]) !== String(one.at(-1))) faults.push('an open ring');
    const places = (JSON.stringify(node.coordinates).match(/\[-?[\d.e+-]+(,-?[\d.e+-]+)+\]/g) ?? []).map(
      (one) => JSON.parse(one) as number[],
    );
    if (!places.length) faults.push('no position');
    for (const [x, y, ...z] of places)
      if (!(Math.abs(x) <= 180 && Math.abs(y) <= 90 && z.length < 2)) faults.push(`a position ${x}, ${y}`);
  };
  visit(feature.geometry as never);
  return faults;
}

async function packageFaults(bytes: Uint8Array): Promise<string[]> {
  const { Database } = await initSqlite();
  const database = new Database(bytes);
  const rows = (sql: string) => database.exec(sql)[0]?.values ?? [];
  const faults: string[] = [];
  const expectRows = (sql: string, wanted: unknown) => {
    if (JSON.stringify(rows(sql)) !== JSON.stringify(wanted)) faults.push(`${sql}: ${JSON.stringify(rows(sql))}`);
  };
  try {
    expectRows('PRAGMA integrity_check', [['ok']]);
    expectRows('PRAGMA foreign_key_check', []);
    expectRows('PRAGMA application_id', [[0x47504b47]]);
    // Requirement 11: the three systems that are always there.
    expectRows(
      'SELECT srs_id, organization, organization_coordsys_id FROM gpkg_spatial_ref_sys WHERE srs_id IN (-1, 0, 4326) ORDER BY 1',
      [
        [-1, 'NONE', -1],
        [0, 'NONE', 0],
        [4326, 'EPSG', 4326],
      ],
    );
    for (const [table, type] of rows('SELECT table_name, data_type FROM gpkg_contents')) {
      const columns = rows(`PRAGMA table_info("${String(table).replaceAll('"', '""')}")`);
      if (/^(gpkg|rtree|sqlite)_/i.test(String(table))) faults.push(`a table is named ${String(table)}`);
      if (type !== 'features') continue;
      // Requirement 29: a whole number as the key.
      if (!columns.some(([, , kind, , , key]) => kind === 'INTEGER' && key === 1)) faults.push('no key');
      const [[column, kind, srs, z, m]] = rows(
        'SELECT column_name, geometry_type_name, srs_id, z, m FROM gpkg_geometry_columns',
      );
      // Requirement 31: the declared type of the column.
      if (columns.find(([, name]) => name === column)?.[2] !== kind) faults.push('the column is of another type');
      if (![0, 2].includes(z as number) || m !== 0) faults.push(`z ${String(z)}, m ${String(m)}`);
      for (const [blob] of rows(
        `SELECT "${String(column)}" FROM "${String(table)}" WHERE "${String(column)}" IS NOT NULL`,
      )) {
        const own = blob as Uint8Array;
        const view = new DataView(own.buffer, own.byteOffset, own.byteLength);
        const head = 8 + [0, 32, 48, 48, 64][(own[3] >> 1) & 7];
        if (own[0] !== 0x47 || own[1] !== 0x50 || own[2] !== 0 || view.getInt32(4, true) !== srs) faults.push('a head');
        faults.push(...wkbFaults(own.subarray(head)));
      }
    }
  } finally {
    database.close();
  }
  return faults;
}

type Check = (
  files: readonly { readonly name: string; readonly bytes: Uint8Array }[],
) => readonly string[] | Promise<readonly string[]>;
const table =
  (separator: string): Check =>
  ([{ bytes }]) => {
    const [head, ...rows] = records(textOf(bytes), separator);
    return rows.filter((row) => row.length !== head.length).map((row) => `${row.length} of ${head.length} cells`);
  };
const features = (list: readonly unknown[]) => list.flatMap((one) => geoJsonFaults(one as never));
const checks: Readonly<Record<string, Check>> = {
  csv: table(','),
  tsv: table('\t'),
  geojson: ([{ bytes }]) => features((JSON.parse(textOf(bytes)) as { features: unknown[] }).features),
  geojsonl: ([{ bytes }]) =>
    features(
      textOf(bytes)
        .trim()
        .split('\n')
        .filter(Boolean)
        .map((one) => JSON.parse(one)),
    ),
  geojsons: ([{ bytes }]) => {
    // RFC 8142, section 2: a separator before each text, a line feed after it.
    const parts = textOf(bytes).split('\u001e');
    const outside = parts.slice(1).filter((part) => !part.endsWith('\n'));
    return [...outside.map(() => 'no line feed'), ...features(parts.slice(1).map((one) => JSON.parse(one)))];
  },
  topojson: ([{ bytes }]) => {
    const { type, arcs, objects } = JSON.parse(textOf(bytes)) as {
      type: string;
      arcs: number[][][];
      objects: Record<string, unknown>;
    };
    const used = (JSON.stringify(objects).match(/"arcs":(\[[^a-z"]*\])/g) ?? []).flatMap((one) =>
      (one.match(/-?\d+/g) ?? []).map(Number),
    );
    return [
      ...(type === 'Topology' ? [] : ['no topology']),
      ...arcs.filter((arc) => arc.length < 2).map(() => 'a short arc'),
      ...used.filter((arc) => (arc < 0 ? ~arc : arc) >= arcs.length).map((arc) => `no arc ${arc}`),
    ];
  },
  kml: ([{ bytes }]) => schemaFaults('kml', textOf(bytes)),
  kmz: ([{ bytes }]) => schemaFaults('kml', textOf(unpacked(bytes).get('doc.kml')!)),
  gpx: ([{ bytes }]) => schemaFaults('gpx', textOf(bytes)),
  gpkg: ([{ bytes }]) => packageFaults(bytes),
  shp: (files) => shapefileFaults(files),
  zip: ([{ bytes }]) => shapefileFaults([...unpacked(bytes)].map(([name, own]) => ({ name, bytes: own }))),
  wkt: ([{ bytes }]) => textOf(bytes).trim().split('\n').filter(Boolean).flatMap(wktFaults),
  wkb: ([{ bytes }]) => wkbFaults(bytes),
};

describe('every format that is written', () => {
  test('has a check', () => {
    const known = writableFormats()
      .map(({ endings: [ending] }) => ending)
      .filter((ending) => ending !== 'gazetteer');
    expect(known.filter((ending) => !checks[ending])).toEqual([]);
  });

  const drawn = fc.sample(collection, { numRuns: 200, seed: 30 });
  test.each(Object.keys(checks))(
    '.%s is valid for 200 random collections, and is read again',
    async (ending) => {
      const faults: unknown[] = [];
      for (const [i, own] of drawn.entries()) {
        const { files, warnings } = await writeFeatureFile([layerOf(own)], `x.${ending}`);
        for (const fault of await checks[ending](files)) faults.push([i, fault]);
        const [{ name, bytes }, ...others] = files;
        const stem = name.replace(/\.\w+$/, '.');
        const siblings = Object.fromEntries(
          others.filter((one) => one.name.startsWith(stem)).map((one) => [one.name.slice(stem.length), one.bytes]),
        );
        const { layers } = await readFeatureFile({ name, bytes, siblings }, { strict: true });
        if (!['shp', 'gpx', 'wkb'].includes(ending)) {
          const back = layers.reduce((sum, layer) => sum + layer.features.length, 0);
          const empty = warnings.find(({ code }) => code === 'skipped.empty')?.count ?? 0;
          if (back + empty < own.length) faults.push([i, `${back} of ${own.length} features came back`]);
        }
      }
      expect(faults.slice(0, 5)).toEqual([]);
    },
    120_000,
  );
});

/** A geometry whatever corner its rings begin at and way they run, and whichever of its parts come first; digits beyond 1e-9 aside. */
function shapeText(geometry: FileGeometry | null): string {
  const round = (place: readonly number[]) => place.map((v) => Math.round(v * 1e9) / 1e9 + 0).join(' ');
  const parts = (node: FileGeometry): string[] => {
    switch (node.type) {
      case 'Point':
        return [round(node.coordinates)];
      case 'MultiPoint':
        return node.coordinates.map(round);
      case 'LineString':
        return [node.coordinates.map(round).join()];
      case 'MultiLineString':
        return node.coordinates.map((one) => one.map(round).join());
      case 'Polygon':
        return [node.coordinates.map((one) => [...new Set(one.map(round))].sort().join()).join('/')];
      case 'MultiPolygon':
        return node.coordinates.map((rings) =>
          rings.map((one) => [...new Set(one.map(round))].sort().join()).join('/'),
        );
      case 'GeometryCollection':
        return node.geometries.flatMap(parts);
    }
  };
  return geometry ? parts(geometry).sort().join('; ') : '';
}

/** Which differences a warning tells of. */
const tells = {
  count: /^(skipped\.(placeless|empty|short-line|attribute)|mended\.(kinds|parts|outline))/,
  place: /^(skipped\.(height|placeless)|changed\.height|mended\.(kinds|parts|outline|repeated))/,
  attributes:
    /^(changed|skipped\.(attribute|id|empty|placeless)|mended\.(name|id|kinds|parts|outline|long-text|digits|number-text))/,
};

describe('through every pair of formats', () => {
  const endings = Object.keys(checks).filter((ending) => ending !== 'shp');
  test('nothing is lost without a warning that says so', async () => {
    const silent: unknown[] = [];
    for (const [i, own] of fc.sample(collection, { numRuns: 6, seed: 311 }).entries())
      for (const first of endings) {
        const there = await writeFeatureFile([layerOf(own)], `x.${first}`);
        const { layers } = await readFeatureFile({ name: `x.${first}`, bytes: there.bytes });
        const before = layers.flatMap(({ features: all }) => all);
        for (const second of endings) {
          const written = await writeFeatureFile(layers, `y.${second}`);
          const back = await readFeatureFile({ name: `y.${second}`, bytes: written.bytes });
          const after = back.layers.flatMap(({ features: all }) => all);
          const codes = [...written.warnings, ...back.warnings].map(({ code }) => code);
          const isTold = (of: keyof typeof tells) => codes.some((code) => tells[of].test(code));
          const note = (what: string, more?: unknown) => silent.push([i, `${first} → ${second}`, what, more]);
          if (after.length !== before.length) {
            if (!isTold('count')) note(`${after.length} of ${before.length} features`, codes);
            continue;
          }
          const places = (list: readonly FileFeature[]) => list.map((one) => shapeText(one.geometry)).sort();
          if (String(places(after)) !== String(places(before)) && !isTold('place'))
            note('places', [places(before), places(after)]);
          const valuesOf = (list: readonly FileFeature[]) =>
            list
              .flatMap((one) => Object.values(one.properties))
              .filter((one) => one !== null && one !== undefined)
              .map((one) => JSON.stringify(one));
          const kept = valuesOf(after);
          const missing = valuesOf(before).filter((one) => !kept.includes(one));
          if (missing.length && !isTold('attributes')) note('attributes', missing.slice(0, 4));
        }
      }
    expect(silent.slice(0, 4)).toEqual([]);
  }, 120_000);
});
