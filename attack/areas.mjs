// What is attacked, each with inputs to begin from and one way to try an input. Whatever comes out but an answer or a Fault is a crash.
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { main, serveFolder } from '@flintwright/cli';
import * as core from '@flintwright/core';
import { readFeatureFile, writeFeatureFile } from '@flintwright/core/files';
import { Gazetteer } from '@flintwright/core/places';
import { pick, spoilBytes, spoilJson, spoilText } from './mutate.mjs';

const demo = fileURLToPath(new URL('../demo/data/', import.meta.url));
const sheets = readdirSync(demo)
  .filter((name) => name.endsWith('.sheet.json'))
  .map((name) => JSON.parse(readFileSync(demo + name, 'utf8')));
const moorings = JSON.parse(readFileSync(`${demo}moorings.geojson`, 'utf8'));
const few = { ...moorings, features: moorings.features.slice(0, 12) };
const shapes = {
  type: 'FeatureCollection',
  features: [
    ...few.features,
    {
      type: 'Feature',
      properties: { name: 'ring', n: 3, ok: true },
      geometry: { type: 'Polygon', coordinates: [[[0, 0], [4, 0], [4, 4], [0, 4], [0, 0]], [[1, 1], [1, 2], [2, 2], [1, 1]]] }, // prettier-ignore
    },
    {
      type: 'Feature',
      properties: { name: 'way' },
      geometry: { type: 'MultiLineString', coordinates: [[[0, 0], [9, 9]], [[1, 5], [170, 5]]] }, // prettier-ignore
    },
  ],
};
const block = core.readGeoJson(shapes, { name: 'shapes' });
const archive = new Uint8Array(readFileSync(`${demo}reach.pmtiles`));
const filters = [
  "kind = 'buoy' AND depth > 3.5 OR NOT name LIKE 'A%_b'",
  'S_INTERSECTS(geometry, POLYGON((0 0, 4 0, 4 4, 0 4, 0 0)))',
  "CASEI(name) IN (CASEI('x'), 'y') AND n BETWEEN 1 AND 9",
  "T_AFTER(laid, DATE('2020-01-01')) AND A_CONTAINS(tags, ('a', 'b'))",
  'n * 2 + 1 ^ 3 >= depth / 0 AND name IS NOT NULL',
  "concat(name, ' ', n) <> 'x' AND round(n, 1) = 2",
];
const systems = [
  'EPSG:32625',
  'PROJCS["a",GEOGCS["b",DATUM["c",SPHEROID["d",6378137,298.257223563]],PRIMEM["e",0],UNIT["degree",0.0174532925199433]],PROJECTION["Transverse_Mercator"],PARAMETER["latitude_of_origin",0],PARAMETER["central_meridian",-33],PARAMETER["scale_factor",0.9996],PARAMETER["false_easting",500000],PARAMETER["false_northing",0],UNIT["metre",1]]',
  'PROJCRS["x",BASEGEOGCRS["y",DATUM["z",ELLIPSOID["w",6378137,298.25]]],CONVERSION["c",METHOD["Lambert Conic Conformal (2SP)"],PARAMETER["Latitude of false origin",44],PARAMETER["Longitude of false origin",10],PARAMETER["Latitude of 1st standard parallel",43],PARAMETER["Latitude of 2nd standard parallel",46]],CS[Cartesian,2],AXIS["e",east],AXIS["n",north],UNIT["metre",1]]',
];
const styles = readdirSync(new URL('../packages/core/tests/fixtures/', import.meta.url))
  .filter((name) => /\.(sld|xml)$/.test(name))
  .map((name) => readFileSync(new URL(`../packages/core/tests/fixtures/${name}`, import.meta.url), 'utf8'));
const sld =
  styles.length > 0
    ? styles
    : [
        '<StyledLayerDescriptor version="1.1.0"><NamedLayer><Name>a</Name><UserStyle><FeatureTypeStyle><Rule><PolygonSymbolizer><Fill><SvgParameter name="fill">#ff0000</SvgParameter></Fill></PolygonSymbolizer></Rule></FeatureTypeStyle></UserStyle></NamedLayer></StyledLayerDescriptor>',
      ];
const quiet = { say: () => {}, warn: () => {}, progress: () => {} };

/** What a view of a GeoPackage may select: all of a table, rows without end, and a text without bounds. */
const views = [
  'SELECT * FROM shapes',
  'WITH RECURSIVE r(n) AS (SELECT 1 UNION ALL SELECT n + 1 FROM r) SELECT n AS fid, NULL AS geom FROM r',
  'SELECT count(*) AS fid, NULL AS geom FROM (WITH RECURSIVE r(n) AS (SELECT 1 UNION ALL SELECT n FROM r) SELECT * FROM r)',
  "SELECT printf('%.*c', 900000000, 'x') AS fid, geom FROM shapes",
];

/** A GeoPackage with a view besides its tables. */
async function withView(bytes, select) {
  const { default: start } = await import('sql.js');
  const { Database } = await start();
  // The engine writes into the bytes that it is handed.
  const database = new Database(Uint8Array.from(bytes));
  try {
    database.run(`CREATE VIEW v AS ${select}`);
    database.run(
      "INSERT INTO gpkg_contents (table_name, data_type, identifier, srs_id) VALUES ('v', 'features', 'v', 4326)",
    );
    database.run("INSERT INTO gpkg_geometry_columns VALUES ('v', 'geom', 'GEOMETRY', 4326, 0, 0)");
    return database.export();
  } finally {
    database.close();
  }
}

/** Bytes of the shapes in every format that is written. */
const endings = ['geojson', 'geojsonl', 'topojson', 'csv', 'kml', 'kmz', 'gpx', 'zip', 'gpkg', 'wkt'];
const crs = core.getCrs('OGC:CRS84');
const layer = { name: 'shapes', features: shapes.features, crs, crsSource: '' };

/**
 * The areas. Each has `make(random)`, which gives an input, and `attempt(input)`, which tries it.
 *
 * @returns areas by name
 */
export async function makeAreas() {
  const files = await Promise.all(
    endings.map(async (ending) => [ending, (await writeFeatureFile([layer], `x.${ending}`)).bytes]),
  );
  for (const select of views)
    files.push(['gpkg', await withView(files.find(([ending]) => ending === 'gpkg')[1], select)]);
  const opened = await core.Archive.open(core.bufferSource(archive));
  const tiles = [];
  for (const [z, x, y] of [
    [3, 3, 2],
    [7, 53, 46],
    [10, 423, 369],
  ]) {
    // prettier-ignore
    const bytes = await opened.tile({ z, x, y });
    if (bytes) tiles.push(bytes);
  }
  const plain = tiles.map((bytes) => core.gunzip(bytes));
  const small = new core.ArchiveWriter();
  plain.forEach((bytes, x) => small.add({ z: 2, x, y: 0 }, core.gzip(bytes.subarray(0, 3000))));
  const { pieces } = small.finish({
    metadata: { name: 'x', vector_layers: [] },
    bounds: [-180, -85, 180, 85],
    center: [0, 0],
    centerZoom: 2,
  });
  const smallArchive = new Uint8Array(await new Blob(pieces).arrayBuffer());
  const gazetteer = new Uint8Array(readFileSync(`${demo}reach.gazetteer`));
  const folder = mkdtempSync(join(tmpdir(), 'flintwright-attack-'));
  process.on('exit', () => rmSync(folder, { recursive: true, force: true }));
  writeFileSync(join(folder, 'a.pmtiles'), smallArchive);
  writeFileSync(join(folder, 'a.geojson'), JSON.stringify(shapes));
  writeFileSync(join(folder, '.hidden'), 'hidden');
  const server = await serveFolder(folder, { key: 'k', edits: true });
  const filterTrees = filters.map((text) => core.parseCql2(text));
  return {
    tiles: {
      make: (random) => spoilBytes(random, pick(random, plain)),
      attempt: (bytes) => core.readTile(bytes, { violations: [] }),
    },
    gzip: {
      make: (random) => spoilBytes(random, pick(random, tiles)),
      attempt: (bytes) => core.gunzip(bytes),
    },
    archives: {
      make: (random) => spoilBytes(random, smallArchive),
      attempt: async (bytes) => {
        const found = await core.Archive.open(core.bufferSource(bytes));
        await found.metadata();
        await found.tile({ z: 2, x: 1, y: 0 });
        for await (const entry of found.entries()) if (!entry) throw new Error('an entry that is none');
      },
    },
    files: {
      make: (random) => {
        const [ending, bytes] = pick(random, files);
        const isText = !['zip', 'gpkg', 'kmz'].includes(ending);
        if (isText && random() < 0.4)
          return {
            name: `x.${ending}`,
            bytes: new TextEncoder().encode(spoilText(random, new TextDecoder().decode(bytes))),
          };
        // Some harm is in what a file says, not in how it is damaged.
        return { name: `x.${ending}`, bytes: random() < 0.1 ? bytes : spoilBytes(random, bytes) };
      },
      attempt: (input) => readFeatureFile(input),
    },
    geojson: {
      make: (random) => spoilJson(random, spoilJson(random, shapes)),
      attempt: (value) => core.readGeoJson(value),
    },
    sheets: {
      make: (random) => spoilJson(random, spoilJson(random, pick(random, sheets))),
      attempt: (value) => core.checkSheet(value),
    },
    filters: {
      make: (random) =>
        random() < 0.7
          ? spoilText(random, pick(random, filters), filters)
          : spoilJson(random, spoilJson(random, pick(random, filterTrees))),
      attempt: (filter) => {
        const test = core.compileCql2(typeof filter === 'string' ? filter : core.readCql2Json(filter));
        const bound = test.bind({ block, zoom: 3 });
        for (let f = 0; f < block.kinds.length; f++) bound(f);
      },
    },
    systems: {
      make: (random) => spoilText(random, pick(random, systems), systems),
      attempt: (text) => {
        const system = core.makeCrs(core.readCrs(text));
        const [there, back] = [
          [0, 0],
          [0, 0],
        ];
        for (const [lon, lat] of [
          [0, 0],
          [-33, 44],
          [180, 90],
          [-179.9, -89],
        ])
          // prettier-ignore
          for (const done of [system.forward(lon, lat, there) && there, system.inverse(...there, back) && back])
            if (done && !done.every(Number.isFinite)) throw new Error(`${lon} ${lat}: ${done}`);
      },
    },
    styles: {
      make: (random) => spoilText(random, pick(random, sld), sld),
      attempt: (text) => core.readSld(text),
    },
    gazetteers: {
      make: (random) => ({ bytes: spoilBytes(random, gazetteer), text: spoilText(random, 'hawser street 12') }),
      attempt: async ({ bytes, text }) => {
        const found = await Gazetteer.open(bytes);
        await found.find(text);
        await found.reverse([-31.18, 44.62]);
      },
    },
    commands: {
      weight: 0.2,
      make: (random) => {
        const [ending, bytes] = pick(random, files);
        return { ending, bytes: spoilBytes(random, bytes), command: pick(random, ['inspect', 'convert', 'check']) };
      },
      attempt: async ({ ending, bytes, command }) => {
        const path = join(folder, `in.${ending}`);
        writeFileSync(path, bytes);
        const more = command === 'convert' ? ['-o', join(folder, 'out.geojson')] : [];
        const code = await main([command, path, ...more], quiet);
        if (![0, 1, 2].includes(code)) throw new Error(`${command} ended with ${code}`);
      },
    },
    server: {
      make: (random) => ({
        method: pick(random, ['GET', 'GET', 'GET', 'HEAD', 'POST', 'PUT', 'PATCH', 'DELETE']),
        url: spoilText(
          random,
          pick(random, ['/tiles/a/2/1/0', '/tiles/a.json', '/a.geojson', '/features/collections/a/items/1', '/features/collections/b/items', '/features/collections/b/items/1', '/features/collections/a/items?q=a&limit=1&bbox=1,2,3,4', '/.hidden', '/%2e%2e/x']), // prettier-ignore
          ['/..%2f', '//', '/%', '?key=', '/tiles/'],
        )
          .replace(/[^!-~]/g, '')
          .replace(/^\/*/, '/'),
        // A file that another program left behind.
        file:
          random() < 0.3
            ? spoilText(
                random,
                pick(random, [
                  '',
                  'null',
                  '[]',
                  '\uFEFF{"type":"FeatureCollection","features":[]}',
                  JSON.stringify(few),
                ]),
              )
            : undefined,
        payload: random() < 0.5 ? spoilText(random, JSON.stringify(few.features[0])) : undefined,
        headers: {
          ...(random() < 0.7 ? { authorization: 'Bearer k' } : {}),
          range: `bytes=${spoilText(random, '0-99').replace(/[^\x20-\x7e]/g, '')}`,
          'if-none-match': spoilText(random, '"x", W/"y"').replace(/[^\x20-\x7e]/g, ''),
          'content-type': pick(random, ['application/geo+json', 'application/merge-patch+json', 'text/plain', 'x']),
        },
      }),
      attempt: async ({ file, ...request }) => {
        if (file !== undefined) writeFileSync(join(folder, 'b.geojson'), file);
        const { statusCode, body } = await server.inject(request);
        if (statusCode >= 500)
          throw new Error(`${request.method} ${request.url} the server responded with ${statusCode}: ${body}`);
        if (statusCode === 200 && body.includes('hidden')) throw new Error(`${request.url} gave what is hidden`);
        if (statusCode >= 400) throw new core.Fault('server.refused', String(statusCode), 'As it should.');
      },
    },
  };
}
