// Room "publish": what is on the map as files: features in any format, a tile archive, or a whole map as one page.
import { Fault, type GeoJsonFeature, type Sheet, type SheetData, type SheetIcon } from '@flintwright/core';
import { addressesOf, attributesUsed, base64, publishedPagePieces } from '@flintwright/core/publish';
import { faultFrom } from '@flintwright/core/internal';
import type { IconSource } from '../base/icons.js';
import { fetchPart } from '../base/fetch-part.js';
import { checkOptions, type OptionTable } from '../base/check-options.js';
import { inTextWorker } from '../base/text-worker.js';
import { readFile } from '../files/read-file.js';
import { fetchBytes, type RequestHook } from '../load/request.js';
import type { FlintMap } from '../map/map.js';
import type { CutRequest, FromTileWorker } from './tile-worker.js';

/** GeoJSON features in longitude and latitude. */
export interface FeaturesToWrite {
  readonly type?: string;
  readonly features: readonly object[];
}

export interface FileOptions {
  /** Code of the coordinate system of the file, such as `EPSG:32625`; default longitude and latitude. */
  readonly crs?: string;
}

export interface PageOptions {
  /** URL of `flintwright.js` of the package: the whole library as one module. */
  readonly library: string | URL;
  /** Title of the page; default that of the sheet, or of this page. */
  readonly title?: string;
  /** Archives that the map received as files, by the names of their data entries; default none. */
  readonly files?: Readonly<Record<string, Blob>>;
  /** Attributes that are published: those that the sheet uses (`used`, the default), or `all`, the default if a function makes a popup. */
  readonly attributes?: 'used' | 'all';
  /** Called before every request, to add a key or headers. */
  readonly request?: RequestHook;
  /** Aborts the work. */
  readonly signal?: AbortSignal;
}

export interface ArchiveOptions {
  /** Name of the layer in the tiles; default `features`. */
  readonly name?: string;
  /** First and last zoom level; default 0 to 14. */
  readonly zooms?: readonly [number, number];
  /** Called regularly with the number of finished tiles. */
  readonly progress?: (tiles: number) => void;
  /** Aborts the work. */
  readonly signal?: AbortSignal;
}

const tables = {
  file: { crs: 'text' } satisfies OptionTable<FileOptions>,
  page: {
    library: 'text|object',
    title: 'text',
    files: 'object',
    attributes: 'text',
    request: 'function',
    signal: 'signal',
  } satisfies OptionTable<PageOptions>,
  archive: {
    name: 'text',
    zooms: 'list',
    progress: 'function',
    signal: 'signal',
  } satisfies OptionTable<ArchiveOptions>,
};

/**
 * Writes features as a file in any supported format.
 *
 * @param collection GeoJSON in longitude and latitude
 * @param name file name; its extension sets the format, such as `moorings.gpkg`
 * @param options coordinate system of the file
 * @throws Fault `file.ending`, `crs.*`, and those of the formats
 */
export async function featuresFile(
  collection: FeaturesToWrite,
  name: string,
  options: FileOptions = {},
): Promise<File> {
  checkOptions('featuresFile', options, tables.file, "featuresFile(features, 'moorings.gpkg')");
  const { crsByCode, inSystem, writeFeatureFile } = await fetchPart(() => import('@flintwright/core/files'));
  const features = collection.features as Parameters<typeof writeFeatureFile>[0][number]['features'];
  const title = name.replace(/\.[^.]*$/, '');
  const plain = { name: title, features, crs: await crsByCode('OGC:CRS84'), crsSource: 'the map' };
  const layer = options.crs === undefined ? plain : inSystem(plain, await crsByCode(options.crs));
  const { bytes } = await writeFeatureFile([layer], name);
  return new File([bytes as Uint8Array<ArrayBuffer>], name);
}

/**
 * Cuts features into a tile archive (PMTiles 3), in a separate worker.
 *
 * @param collection GeoJSON in longitude and latitude
 * @param options name of the layer, zoom levels, progress
 * @throws Fault `geojson.*`, `tile.*`, `worker.start`
 */
export async function tileArchive(collection: FeaturesToWrite, options: ArchiveOptions = {}): Promise<Blob> {
  checkOptions('tileArchive', options, tables.archive, "tileArchive(features, { name: 'moorings' })");
  const { name = 'features', zooms = [0, 14], progress, signal } = options;
  signal?.throwIfAborted();
  const { tileWorkerText } = await fetchPart(() => import('./tile-worker-text.generated.js'));
  const pieces = await inTextWorker<CutRequest, FromTileWorker, readonly Uint8Array[]>({
    text: tileWorkerText,
    start: { features: collection.features, name, zooms },
    signal,
    heard: (message, done) => {
      if ('fault' in message) throw faultFrom(message.fault);
      if ('tiles' in message) progress?.(message.tiles);
      else done(message.archive);
    },
  });
  return new Blob(pieces as Uint8Array<ArrayBuffer>[], { type: 'application/vnd.pmtiles' });
}

/**
 * Writes the current map as one HTML page that contains its data and the library: sheet, layers added at run time, and view. The page can
 * be opened from a disk or any host, and sends no requests.
 *
 * @param map the map
 * @param options URL of the library, and the title
 * @throws Fault `publish.*`, `request.*`
 */
export async function mapPage(map: FlintMap, options: PageOptions): Promise<File> {
  checkOptions('mapPage', options, tables.page, "mapPage(map, { library: '/flintwright.js' })");
  const { files = {}, request: hook, signal = new AbortController().signal } = options;
  const found = new Map<string, Uint8Array>();
  const get = async (address: string, what: string) =>
    (await fetchBytes(new URL(address, location.href).href, { signal, what }, hook))!;
  const data = new Map<string, SheetData>();
  for (const [name, entry] of Object.entries(map.sheet.data ?? {})) {
    // Features that came in place, or as a file, are taken as they are now, in longitude and latitude, with all that was edited since.
    const { crs: _, ...rest } = entry;
    const isHere = typeof entry.features === 'object';
    data.set(name, isHere ? ({ ...rest, features: await map.features(name) } as SheetData) : entry);
  }
  const { center, zoom, bearing, tilt } = map.view;
  const icons: Record<string, string | SheetIcon> = {};
  for (const [name, icon] of Object.entries(map.icons.sources)) icons[name] = await addressOfIcon(icon);
  const whole = (): Sheet => ({
    ...map.sheet,
    data: Object.fromEntries(data),
    ...(Object.keys(icons).length ? { icons } : {}),
    view: { ...map.sheet.view, center, zoom, bearing, tilt },
  });
  for (const { name, key, address } of addressesOf(whole())) {
    if (Object.hasOwn(files, name)) found.set(address, new Uint8Array(await files[name].arrayBuffer()));
    // Addresses with places for numbers are refused when the page is made, with the place in the sheet.
    else if (!/\{/.test(address))
      found.set(
        address,
        await plainBytes(
          key,
          address,
          await get(address, `the ${key === 'icon' ? 'icon' : 'data'} "${name}"`),
          (read) => {
            // What is read here comes in longitude and latitude.
            const { crs, ...rest } = data.get(name)!;
            data.set(name, rest);
            return read({ crs });
          },
        ),
      );
  }
  const library = new TextDecoder().decode(await get(String(options.library), 'the library'));
  const title = options.title ?? map.sheet.title ?? document.title;
  const language = document.documentElement.lang || 'en';
  const sheet = whole();
  const wanted = options.attributes ?? (map.popupFunctions.length ? 'all' : 'used');
  if (wanted !== 'used' && wanted !== 'all')
    throw new Fault('publish.attributes', `attributes is "${String(wanted)}"`, 'Write "used" or "all".');
  const attributes = wanted === 'used' ? await attributesUsed(sheet) : undefined;
  const page: string[] = [];
  for await (const piece of publishedPagePieces({ title, sheet, files: found, library, language, attributes }))
    page.push(piece);
  const name = `${
    title
      .normalize('NFKD')
      .replace(/[^\w-]+/g, '-')
      .replace(/^-+|-+$/g, '') || 'map'
  }.html`;
  return new File(page, name, { type: 'text/html' });
}

/** Features as GeoJSON, whatever they came as; all else as it is. */
async function plainBytes(
  key: string,
  address: string,
  bytes: Uint8Array,
  reading: (read: (options: { crs: string | undefined }) => ReturnType<typeof readFile>) => ReturnType<typeof readFile>,
): Promise<Uint8Array> {
  if (key !== 'features' || /^\s*\{/.test(new TextDecoder().decode(bytes.subarray(0, 64)))) return bytes;
  const name = address.replace(/[?#].*$/, '').replace(/^.*\//, '');
  const file = new File([bytes as Uint8Array<ArrayBuffer>], name);
  const { layers } = await reading(({ crs }) => readFile(file, crs === undefined ? {} : { crs }));
  const features = layers.flatMap((layer) => layer.features.features as readonly GeoJsonFeature[]);
  return new TextEncoder().encode(JSON.stringify({ type: 'FeatureCollection', features }));
}

/** An icon as a sheet has it: pictures that the application holds become data addresses. */
async function addressOfIcon(icon: IconSource): Promise<string | SheetIcon> {
  const full = typeof icon === 'object' && 'source' in icon ? icon : { source: icon };
  const { source } = full;
  if (typeof source === 'string') return icon as string | SheetIcon;
  const canvas = new OffscreenCanvas(source.width, source.height);
  canvas.getContext('2d')!.drawImage(source, 0, 0);
  const bytes = new Uint8Array(await (await canvas.convertToBlob()).arrayBuffer());
  return { ...full, source: `data:image/png;base64,${base64(bytes)}` };
}

/**
 * Offers a file to the reader as a download.
 *
 * @param file the file, or its content
 * @param name file name; default its own
 * @throws Fault `publish.name` for content without a name
 */
export function download(file: Blob, name?: string): void {
  const called = name ?? (file instanceof File ? file.name : '');
  if (!called) throw new Fault('publish.name', 'the file has no name', 'Pass one: download(blob, "map.html").');
  const link = document.createElement('a');
  link.href = URL.createObjectURL(file);
  link.download = called;
  link.click();
  // The address has to last until the browser has begun.
  setTimeout(() => URL.revokeObjectURL(link.href), 60_000);
}
