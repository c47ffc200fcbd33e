import { getCrs } from '../../crs/registry.js';
import { writeWkt } from '../../crs/write-wkt.js';
import type { Crs } from '../../crs/crs.js';
import type { WarningList } from '../files/warnings.js';
import type { FileFeature, FileGeometry, FileLayer, FileWriter } from '../files/feature-file.js';
import { idsAsAttributes } from '../files/ids.js';
import { eachPosition } from '../files/mend.js';
import { geometryBytes } from '../wkt/geometry-bytes.js';
import { hasHeight } from '../wkt/geometry-text.js';
import { quoted, Store } from './database.js';
import type { SqlValue } from './engine.js';

const tables = `
PRAGMA application_id = 1196444487;
PRAGMA user_version = 10400;
CREATE TABLE gpkg_spatial_ref_sys (srs_name TEXT NOT NULL, srs_id INTEGER NOT NULL PRIMARY KEY, organization TEXT NOT NULL, organization_coordsys_id INTEGER NOT NULL, definition TEXT NOT NULL, description TEXT);
CREATE TABLE gpkg_contents (table_name TEXT NOT NULL PRIMARY KEY, data_type TEXT NOT NULL, identifier TEXT UNIQUE, description TEXT DEFAULT '', last_change DATETIME NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ','now')), min_x DOUBLE, min_y DOUBLE, max_x DOUBLE, max_y DOUBLE, srs_id INTEGER, CONSTRAINT fk_gc_r_srs_id FOREIGN KEY (srs_id) REFERENCES gpkg_spatial_ref_sys(srs_id));
CREATE TABLE gpkg_geometry_columns (table_name TEXT NOT NULL, column_name TEXT NOT NULL, geometry_type_name TEXT NOT NULL, srs_id INTEGER NOT NULL, z TINYINT NOT NULL, m TINYINT NOT NULL, CONSTRAINT pk_geom_cols PRIMARY KEY (table_name, column_name), CONSTRAINT uk_gc_table_name UNIQUE (table_name), CONSTRAINT fk_gc_tn FOREIGN KEY (table_name) REFERENCES gpkg_contents(table_name), CONSTRAINT fk_gc_srs FOREIGN KEY (srs_id) REFERENCES gpkg_spatial_ref_sys (srs_id));
INSERT INTO gpkg_spatial_ref_sys VALUES ('Undefined Cartesian', -1, 'NONE', -1, 'undefined', NULL), ('Undefined geographic', 0, 'NONE', 0, 'undefined', NULL);
`;

const insertSystem = 'INSERT OR IGNORE INTO gpkg_spatial_ref_sys VALUES (?, ?, ?, ?, ?, NULL)';

type Box = [number, number, number, number];

function boxOf(geometries: readonly (FileGeometry | null)[]): Box | undefined {
  const box: Box = [Infinity, Infinity, -Infinity, -Infinity];
  for (const geometry of geometries)
    eachPosition(geometry, ([x, y]) => {
      box[0] = Math.min(box[0], x);
      box[1] = Math.min(box[1], y);
      box[2] = Math.max(box[2], x);
      box[3] = Math.max(box[3], y);
    });
  return box[0] > box[2] ? undefined : box;
}

/** A geometry as the format stores it (12-128r19, section 2.1.3), with its bounds before it. */
function blobOf(geometry: FileGeometry, srs: number): Uint8Array {
  const wkb = geometryBytes(geometry);
  const box = boxOf([geometry]);
  const out = new Uint8Array(8 + (box ? 32 : 0) + wkb.length);
  const view = new DataView(out.buffer);
  out.set([0x47, 0x50, 0, box ? 0x03 : 0x11]);
  view.setInt32(4, srs, true);
  if (box) [box[0], box[2], box[1], box[3]].forEach((value, i) => view.setFloat64(8 + 8 * i, value, true));
  out.set(wkb, out.length - wkb.length);
  return out;
}

/** The type of a column of SQL that holds some values. */
function sqlType(values: readonly unknown[]): 'INTEGER' | 'DOUBLE' | 'BOOLEAN' | 'TEXT' {
  const filled = values.filter((value) => value !== null && value !== undefined);
  if (filled.length && filled.every((value) => typeof value === 'boolean')) return 'BOOLEAN';
  if (!filled.length || !filled.every((value) => typeof value === 'number')) return 'TEXT';
  return filled.every((value) => Number.isSafeInteger(value)) ? 'INTEGER' : 'DOUBLE';
}

const cellOf = (value: unknown, type: string): SqlValue => {
  if (value === null || value === undefined) return null;
  if (typeof value === 'boolean') return type === 'TEXT' ? String(value) : Number(value);
  if (typeof value === 'number') return type === 'TEXT' ? String(value) : value;
  return typeof value === 'string' ? value : JSON.stringify(value);
};

/** Where systems begin that no register has. */
const ownSystems = 100_000;

/** The row of a system in `gpkg_spatial_ref_sys`, which is made if need be. */
function systemRow(store: Store, crs: Crs | undefined): number {
  if (!crs) return -1;
  if (crs.id === 'OGC:CRS84' || crs.id === 'EPSG:4326') return 4326;
  const [authority, code] = crs.id.split(':');
  const definition = writeWkt(crs.definition);
  if (code !== undefined && /^\d+$/.test(code)) {
    store.run(insertSystem, [crs.id, Number(code), authority, Number(code), definition]);
    return Number(code);
  }
  const [known] = store.rows('SELECT srs_id FROM gpkg_spatial_ref_sys WHERE definition = ?', [definition]);
  if (known) return Number(known['srs_id']);
  const [{ next }] = store.rows(`SELECT max(${ownSystems}, max(srs_id) + 1) AS next FROM gpkg_spatial_ref_sys`);
  store.run(insertSystem, [crs.id, next, 'NONE', next, definition]);
  return Number(next);
}

/** A name for a table that the database and the format leave free, and that no other has, whatever the case of its letters. */
function tableName(wanted: string, taken: Set<string>, warnings: WarningList): string {
  let base = wanted.replaceAll('\u0000', '').trim() || 'features';
  if (/^(gpkg|rtree|sqlite)_/i.test(base)) base = `layer_${base}`;
  let name = base;
  for (let k = 2; taken.has(name.toLowerCase()); k++) name = `${base}_${k}`;
  taken.add(name.toLowerCase());
  if (name !== wanted)
    warnings.add(
      'mended.name',
      'names of layers or attributes are not free in a GeoPackage',
      'They were changed.',
      `${wanted} → ${name}`,
    );
  return name;
}

function writeLayer(store: Store, layer: FileLayer, name: string, warnings: WarningList): void {
  const { crs } = layer;
  const ids = layer.features.map(({ id }) => id);
  const whole = ids.every((id) => Number.isSafeInteger(id)) && new Set(ids).size === ids.length;
  // Keys of a table are whole numbers; other ids become an attribute.
  const features = whole ? layer.features : idsAsAttributes(layer.features);
  const srs = systemRow(store, crs);
  const placed = features.some(({ geometry }) => geometry);
  const keys = [...new Set(features.flatMap(({ properties }) => Object.keys(properties)))];
  // Names of columns are the same whatever the case of their letters.
  const taken = new Set(['fid', 'geom']);
  const columns = keys.map((key) => {
    let label = key;
    for (let k = 2; taken.has(label.toLowerCase()) || !label; k++) label = `${key || 'column'}_${k}`;
    if (label !== key)
      warnings.add(
        'mended.name',
        'names of layers or attributes are not free in a GeoPackage',
        'They were changed.',
        `${key} → ${label}`,
      );
    taken.add(label.toLowerCase());
    return { key, label, type: sqlType(features.map(({ properties }) => properties[key])) };
  });
  const names = ['fid', ...(placed ? ['geom'] : []), ...columns.map(({ label }) => label)].map(quoted);
  const kinds = new Set(features.flatMap(({ geometry }) => geometry?.type ?? []));
  const geometryType = kinds.size === 1 ? [...kinds][0].toUpperCase() : 'GEOMETRY';
  const types = [
    'INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL',
    ...(placed ? [geometryType] : []),
    ...columns.map(({ type }) => type),
  ];
  store.run(`CREATE TABLE ${quoted(name)} (${names.map((label, i) => `${label} ${types[i]}`).join(', ')})`);
  const box = boxOf(features.map(({ geometry }) => geometry)) ?? [null, null, null, null];
  store.run(
    'INSERT INTO gpkg_contents (table_name, data_type, identifier, min_x, min_y, max_x, max_y, srs_id) VALUES (?, ?, ?, ?, ?, ?, ?, ?)',
    [name, placed ? 'features' : 'attributes', name, ...box, placed ? srs : null],
  );
  if (placed) {
    const high = features.some(({ geometry }) => geometry && hasHeight(geometry));
    store.run('INSERT INTO gpkg_geometry_columns VALUES (?, ?, ?, ?, ?, 0)', [
      name,
      'geom',
      geometryType,
      srs,
      high ? 2 : 0,
    ]);
  }
  const row = (feature: FileFeature): SqlValue[] => [
    whole ? (feature.id as number) : null,
    ...(placed ? [feature.geometry ? blobOf(feature.geometry, srs) : null] : []),
    ...columns.map(({ key, type }) => cellOf(feature.properties[key], type)),
  ];
  store.runAll(
    `INSERT INTO ${quoted(name)} (${names.join(', ')}) VALUES (${names.map(() => '?').join(', ')})`,
    features.map(row),
  );
}

/** Writes GeoPackage 1.4 (OGC 12-128r19): a table of features for each layer. */
export const geoPackageWriter: FileWriter = {
  async write(layers, warnings) {
    const store = await Store.open(undefined, 'the new database');
    try {
      store.run(tables);
      store.run('BEGIN');
      store.run(insertSystem, ['WGS 84 geodetic', 4326, 'EPSG', 4326, writeWkt(getCrs('EPSG:4326').definition)]);
      const taken = new Set<string>();
      for (const layer of layers) writeLayer(store, layer, tableName(layer.name, taken, warnings), warnings);
      store.run('COMMIT');
      return store.bytes();
    } finally {
      store.close();
    }
  },
};
