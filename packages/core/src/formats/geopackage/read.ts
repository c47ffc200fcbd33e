import { Fault } from '../../base/fault.js';
import { crsByCode, crsFromText } from '../../crs/match.js';
import { getCrs } from '../../crs/registry.js';
import type { FileFeature, FileLayer, FileReader } from '../files/feature-file.js';
import { mendGeometry } from '../files/mend.js';
import { Records } from '../files/records.js';
import type { WarningList } from '../files/warnings.js';
import { parseGeometryBytes } from '../wkt/geometry-bytes.js';
import { quoted, Store, type DatabaseRow } from './database.js';

/** Reads GeoPackage 1.0 to 1.4 (OGC 12-128r19): each table of features, and each table of attributes, is a layer. */
export const geoPackageReader: FileReader = {
  async read({ name, bytes, path }, warnings, { progress, strict }) {
    const store = await Store.open(path ?? bytes, name);
    try {
      if (!store.has('gpkg_contents'))
        throw new Fault(
          'geopackage.form',
          `the database ${name} has no table gpkg_contents, so it is not a GeoPackage`,
          'Export what you need as GeoPackage or GeoJSON.',
          name,
        );
      const tables = store.rows('SELECT table_name, data_type, srs_id FROM gpkg_contents ORDER BY rowid');
      const layers: FileLayer[] = [];
      for (const [i, { table_name: table, data_type: kind }] of tables.entries()) {
        const title = String(table);
        progress?.(i / tables.length);
        const found = store.kindOf(title);
        if (found === undefined)
          warnings.add('skipped.table', 'the contents list tables that do not exist', 'They were skipped.', title);
        else if (found === 'other view')
          warnings.add(
            'skipped.view',
            'views of the database do more than choose columns and rows of one table',
            'They were left out, because they may never end. Export them as tables.',
            title,
          );
        else if (kind === 'features')
          layers.push(await featuresOf(store, title, new Records(warnings, strict), warnings));
        else if (kind === 'attributes') layers.push(attributesOf(store, title, warnings));
        else
          warnings.add(
            'skipped.table',
            'tables of the database contain no features',
            'They were left out; pictures in tiles are not read.',
            `${title} (${String(kind)})`,
          );
      }
      return layers;
    } finally {
      store.close();
    }
  },
};

async function featuresOf(store: Store, table: string, records: Records, warnings: WarningList): Promise<FileLayer> {
  const [row] = store.rows('SELECT column_name, srs_id FROM gpkg_geometry_columns WHERE table_name = ?', [table]);
  if (!row)
    throw new Fault(
      'geopackage.column',
      `gpkg_geometry_columns does not say which column of "${table}" has the geometry`,
      'The file is damaged; write it again.',
      table,
    );
  const column = String(row['column_name']);
  const key = primaryKey(store, table);
  const flags = flagsOf(store, table);
  const features: FileFeature[] = [];
  const columns = store.columnsOf(table).map(quoted).join(', ');
  tellBlobs(store, table, [column], warnings);
  store.each(`SELECT ${columns} FROM ${quoted(table)}`, [], (cells) => {
    const at = `${table}, row ${key === undefined ? features.length + 1 : String(cells[key])}`;
    const blob = cells[column];
    const geometry = records.geometry(at, () => {
      const found = blob instanceof Uint8Array ? parsePackageGeometry(blob, at) : null;
      if (found?.measured) warnings.measures(at);
      return found?.geometry ? mendGeometry(found.geometry, at, warnings) : null;
    });
    features.push({
      type: 'Feature',
      ...(key !== undefined && typeof cells[key] === 'number' ? { id: cells[key] } : {}),
      geometry,
      properties: propertiesOf(cells, [column, ...(key === undefined ? [] : [key])], flags),
    });
  });
  records.finish(features);
  return { name: table, features, ...(await systemOf(store, Number(row['srs_id']), warnings)) };
}

/** Tells of columns with bytes, such as pictures, which no attribute can hold. */
function tellBlobs(store: Store, table: string, without: readonly string[], warnings: WarningList): void {
  for (const name of store.columnsOf(table).filter((one) => !without.includes(one))) {
    const [{ count }] = store.rows(
      `SELECT count(*) AS count FROM ${quoted(table)} WHERE typeof(${quoted(name)}) = 'blob'`,
    );
    if (count)
      warnings.add(
        'skipped.blob',
        'columns contain binary values',
        'Attributes can be strings, numbers and booleans; binary values were left out.',
        `${table}.${name}`,
        Number(count),
      );
  }
}

function attributesOf(store: Store, table: string, warnings: WarningList): FileLayer {
  tellBlobs(store, table, [], warnings);
  const flags = flagsOf(store, table);
  const features = store
    .rows(`SELECT ${store.columnsOf(table).map(quoted).join(', ')} FROM ${quoted(table)}`)
    .map((cells): FileFeature => ({ type: 'Feature', geometry: null, properties: propertiesOf(cells, [], flags) }));
  return { name: table, features, crs: getCrs('OGC:CRS84'), crsSource: 'the table has no places' };
}

function primaryKey(store: Store, table: string): string | undefined {
  const keys = store.rows(`PRAGMA table_info(${quoted(table)})`).filter(({ pk }) => Number(pk) > 0);
  return keys.length === 1 ? String(keys[0]['name']) : undefined;
}

/** Columns that hold true and false, which SQLite keeps as 1 and 0. */
const flagsOf = (store: Store, table: string): ReadonlySet<string> =>
  new Set(
    store
      .rows(`PRAGMA table_info(${quoted(table)})`)
      .filter(({ type }) => /^bool/i.test(String(type)))
      .map(({ name }) => String(name)),
  );

const propertiesOf = (
  cells: DatabaseRow,
  without: readonly string[],
  flags: ReadonlySet<string>,
): Record<string, unknown> =>
  Object.fromEntries(
    Object.entries(cells)
      .filter(([name, value]) => !without.includes(name) && value !== null && !(value instanceof Uint8Array))
      .map(([name, value]) => [name, flags.has(name) ? value !== 0 : value]),
  );

/**
 * A geometry of a GeoPackage (12-128r19, section 2.1.3): a head with the bounds, and well-known binary.
 *
 * @throws Fault `geopackage.geometry`
 */
function parsePackageGeometry(blob: Uint8Array, at: string) {
  const sizes = [0, 32, 48, 48, 64];
  const flags = blob[3];
  const size = sizes[(flags >> 1) & 7];
  if (blob.length < 8 || blob[0] !== 0x47 || blob[1] !== 0x50 || size === undefined)
    throw new Fault(
      'geopackage.geometry',
      'a geometry does not begin as those of a GeoPackage do',
      'Write the file again.',
      at,
    );
  if (flags & 0x20)
    throw new Fault('geopackage.geometry', 'a geometry is of an extended type', 'Export it as a simple feature.', at);
  if (flags & 0x10) return null;
  return parseGeometryBytes(blob.subarray(8 + size), at);
}

async function systemOf(
  store: Store,
  srs: number,
  warnings: WarningList,
): Promise<Pick<FileLayer, 'crs' | 'crsSource' | 'planar'>> {
  // Requirement 11 of 12-128r19: -1 is an undefined Cartesian system, 0 an undefined geographic one.
  if (srs === -1) return { crs: undefined, crsSource: 'the file says that it is an unknown plane', planar: true };
  if (srs === 0) return { crs: undefined, crsSource: 'the file says that it is not known' };
  const [row] = store.rows(
    'SELECT organization, organization_coordsys_id, definition FROM gpkg_spatial_ref_sys WHERE srs_id = ?',
    [srs],
  );
  const crsSource = 'its table gpkg_spatial_ref_sys';
  if (!row) return { crs: undefined, crsSource: 'its system is missing from gpkg_spatial_ref_sys' };
  const code = `${String(row['organization'])}:${String(row['organization_coordsys_id'])}`.toUpperCase();
  try {
    return { crs: await crsByCode(code), crsSource };
  } catch (error) {
    if (!(error instanceof Fault)) throw error;
    // The code is not in the register: the definition beside it counts.
    const { crs } = await crsFromText(String(row['definition']), 'gpkg_spatial_ref_sys').catch((second: unknown) => {
      warnings.add(
        'doubtful.system',
        `the coordinate system ${code} cannot be read: ${(second as Error).message}`,
        'Name another.',
      );
      return { crs: undefined };
    });
    return { crs, crsSource };
  }
}
