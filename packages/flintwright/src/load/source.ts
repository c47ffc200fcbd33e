import {
  Archive,
  asFault,
  Fault,
  isGzip,
  blobSource,
  type ByteSource,
  type JoinReport,
  type SheetJoin,
  type TileAddress,
} from '@flintwright/core';
import { faultFrom, type MatrixGrid } from '@flintwright/core/internal';
import type { FeaturesRequest } from '../worker/messages.js';
import { readCredit, type Credit } from './credit.js';
import type { OpenOptions } from './open-options.js';
import { blockOfFile, fetchFeatures, isFile, mayMend } from './feature-source.js';
import { fetchBytes, fetchJson } from './request.js';
import { addressOf, checkPlaceholders, levelsOf, wholeAddress } from './template.js';

/** Where the tiles of one data entry come from. */
export interface TileSource {
  readonly zooms: readonly [number, number];
  readonly credit: readonly Credit[];
  /** `[west, south, east, north]` in degrees, where known. */
  readonly bounds: readonly [number, number, number, number] | undefined;
  /** Layer names that the source says it has; undefined where it does not say. */
  readonly layers: readonly string[] | undefined;
  /** Attributes that its features have, by layer of the tiles ("" for features); undefined where that is not known. */
  readonly attributes?: ReadonlyMap<string, readonly string[]> | undefined;
  /** The grid that its tiles belong to, where it is not WebMercatorQuad. */
  readonly grid?: MatrixGrid;
  /** Whether its tiles are cut from features that a worker holds. */
  readonly features?: boolean;
  /** Whether it is known to hold nothing. */
  readonly empty?: boolean;
  /** How the join to a table went, where there is one. */
  readonly join?: JoinReport;
  /** The bytes of a tile; undefined when there is none; `cut` when the worker cuts it from features it holds. */
  fetch(tile: TileAddress, signal: AbortSignal): Promise<Uint8Array | undefined | 'cut'>;
}

const whole: readonly [number, number] = [0, 16];

/** Opens the source of a data entry: an archive, a TileJSON document, a tile address, or features. */
export async function openSource(options: OpenOptions): Promise<TileSource> {
  const { data, name, tools } = options;
  const { files, base, hook } = tools;
  if (data.features !== undefined) return openFeatures(options);
  if (data.tiles === undefined)
    throw new Fault('data.empty', `the data "${name}" has neither tiles nor features`, 'Give it one of the two.');
  if (Object.hasOwn(files, name)) return openArchive(options, blobSource(files[name]));
  const address = wholeAddress(data.tiles, base);
  const odd = checkPlaceholders(name, address, `$.data.${name}.tiles`);
  if (odd) tools.context.reportLater(odd);
  if (address.includes('{z}')) return templateSource(options, [address], data.zooms ?? [0, 14], {});
  if (/\.json(\?|$)/.test(address)) {
    const json = (await fetchJson(
      address,
      { signal: options.signal, what: `the TileJSON of "${name}"` },
      hook,
    )) as TileJson;
    if (!Array.isArray(json.tiles) || !json.tiles.length)
      throw new Fault(
        'tilejson.form',
        `the TileJSON of "${name}" names no tiles`,
        'A TileJSON document has a list "tiles" of addresses with {z}, {x} and {y}.',
        address,
      );
    const addresses = json.tiles.map((tile) => wholeAddress(tile, address));
    return templateSource(options, addresses, data.zooms ?? [json.minzoom ?? 0, json.maxzoom ?? 14], json);
  }
  return openArchive(options, httpSource(address, name, options));
}

interface TileJson {
  readonly tiles?: readonly string[];
  readonly minzoom?: number;
  readonly maxzoom?: number;
  readonly attribution?: unknown;
  readonly bounds?: [number, number, number, number];
  readonly vector_layers?: readonly { readonly id: string; readonly fields?: object }[];
}

/** Layers and attributes, as TileJSON 3.0 (3.3 vector_layers) names them. */
function namesOf({ vector_layers: layers }: TileJson): Pick<TileSource, 'layers' | 'attributes'> {
  if (!Array.isArray(layers)) return { layers: undefined };
  const told = layers.every(({ fields }) => typeof fields === 'object' && fields !== null);
  return {
    layers: layers.map(({ id }) => id),
    ...(told ? { attributes: new Map(layers.map(({ id, fields }) => [id, Object.keys(fields)])) } : {}),
  };
}

/** Bytes of an HTTP resource, read by range requests. */
function httpSource(address: string, name: string, { tools: { hook }, signal }: OpenOptions): ByteSource {
  return {
    read: async (offset, length, own) =>
      (await fetchBytes(
        address,
        { signal: (own as AbortSignal | undefined) ?? signal, range: [offset, length], what: `the archive "${name}"` },
        hook,
      ))!,
  };
}

async function openArchive({ data, signal, numbering }: OpenOptions, bytes: ByteSource): Promise<TileSource> {
  const archive = await Archive.open(bytes, signal);
  const { header } = archive;
  if (header.tileType !== 1 && header.tileType !== 0)
    throw new Fault(
      'archive.type',
      'the archive holds pictures, not vector tiles',
      'Give the address of an archive of vector tiles.',
    );
  const metadata = (await archive.metadata(signal)) as TileJson;
  return {
    zooms: levelsOf(data.zooms ?? [header.minZoom, header.maxZoom], numbering),
    ...(numbering.grid ? { grid: numbering.grid } : {}),
    credit: readCredit(data.credit, metadata.attribution),
    bounds: header.bounds,
    ...namesOf(metadata),
    fetch: ({ z, x, y }, own) => {
      const level = z - (numbering.grid?.shift ?? 0);
      return level < 0 ? Promise.resolve(undefined) : archive.tile({ z: level, x, y }, own);
    },
  };
}

function templateSource(
  { data, tools: { hook }, name, numbering }: OpenOptions,
  addresses: readonly string[],
  zooms: readonly [number, number],
  json: TileJson,
): TileSource {
  return {
    zooms: levelsOf(zooms, numbering),
    ...(numbering.grid ? { grid: numbering.grid } : {}),
    credit: readCredit(data.credit, json.attribution),
    bounds: json.bounds,
    ...namesOf(json),
    fetch: (tile, signal) => {
      const { z, x, y } = tile;
      const address = addressOf(addresses[(x + y) % addresses.length], tile, numbering);
      if (address === undefined) return Promise.resolve(undefined);
      return fetchBytes(address, { signal, what: `tile ${z}/${x}/${y} of "${name}"` }, hook, true);
    },
  };
}

/** The table of a join; undefined, and a fault told, where it could not be had. */
async function tableOf({ table }: SheetJoin, options: OpenOptions): Promise<string | readonly object[] | undefined> {
  try {
    return await textOrValue(table, `the table of "${options.name}"`, options);
  } catch (error) {
    if (options.signal.aborted || !(error instanceof Fault)) throw error;
    options.tools.context.reportLater(error);
    return undefined;
  }
}

async function openFeatures(options: OpenOptions): Promise<TileSource> {
  const { data, name, tools, held } = options;
  const join = held ? undefined : data.join;
  const [fetched, table] = await Promise.all([
    held ? undefined : fetchFeatures(options),
    join && tableOf(join, options),
  ]);
  try {
    // Plans are small, and looked at from close by.
    const zooms: readonly [number, number] = options.plan ? [0, 22] : whole;
    const file = fetched && isFile(fetched) ? fetched : undefined;
    const block = file && !file.plain ? await blockOfFile(file, options) : undefined;
    const request: Omit<FeaturesRequest, 'pieces'> = {
      data: name,
      source: file ? '' : (fetched ?? ''),
      block,
      held: held?.block,
      idName: data.id,
      maxZoom: zooms[1],
      crs: data.crs,
      greatCircles: data.edges === 'great-circle',
    };
    /** Hands the bytes of a file over with the request, and takes them back where they could not be read. */
    const add = async (asked: typeof request) => {
      const answer = await tools.pool.addFeatures(
        file?.plain && !asked.block ? { ...asked, pieces: file.pieces } : asked,
      );
      if (!answer.unread) return answer;
      if (file) file.pieces = answer.unread.pieces;
      throw faultFrom(answer.unread.fault);
    };
    const at = typeof join?.table === 'string' ? { at: join.table } : {};
    const joined = join && table !== undefined ? { join: { table, match: join.match, ...at } } : {};
    const {
      bounds,
      attributes,
      join: report = held?.join,
    } = await add({ ...request, ...joined }).catch(async (error: unknown) => {
      if (file && !block && !options.plan && mayMend(error))
        return add({ ...request, ...joined, block: await blockOfFile(file, options) });
      // Where the join is at fault, the features are shown in the look for missing values, and the fault is told.
      if (!('join' in joined) || !(error instanceof Fault) || !/^(join|table)\./.test(error.code)) throw error;
      tools.context.reportLater(error);
      return add(request);
    });
    return {
      zooms,
      credit: readCredit(data.credit, undefined),
      bounds,
      features: true,
      empty: bounds === undefined,
      layers: undefined,
      ...(bounds ? { attributes: new Map([['', attributes]]) } : {}),
      ...(report ? { join: report } : {}),
      fetch: () => Promise.resolve('cut'),
    };
  } catch (error) {
    throw asFault(error, 'features.read', 'Check the features.');
  }
}

/** The text at an address; anything but an address comes back as it is. */
async function textOrValue<T extends object>(
  value: string | T,
  what: string,
  { tools: { base, hook }, signal }: OpenOptions,
): Promise<string | T> {
  if (typeof value !== 'string') return value;
  const address = new URL(value, base).href;
  const bytes = (await fetchBytes(address, { signal, what }, hook))!;
  if (isGzip(bytes))
    throw new Fault(
      'features.gzip',
      `${what} came still packed with gzip`,
      'Serve it with Content-Encoding: gzip, or unpacked.',
      address,
    );
  return new TextDecoder().decode(bytes);
}
