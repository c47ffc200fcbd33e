import { asFault, Fault, isGzip, type FeatureBlock, type SheetJoin } from '@flintwright/core';
import { faultFrom, isColumns, joined as asOne } from '@flintwright/core/internal';
import { fetchPart } from '../base/fetch-part.js';
import { findsClasses, type Knowledge } from '../worker/kinds.js';
import type { FeaturesRequest } from '../worker/messages.js';
import { readCredit } from './credit.js';
import type { FeatureFile, fetchFeatures } from './fetch-features.js';
import type { OpenOptions } from './open-options.js';
import { fetchBytes } from './request.js';
import type { TileSource } from './tile-source.js';

const whole: readonly [number, number] = [0, 16];

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

/**
 * Opens the features of a data entry.
 *
 * @param options of the data entry
 * @param coming the features as they were fetched; undefined for such as were held before
 */
export async function openFeatures(
  options: OpenOptions,
  coming: ReturnType<typeof fetchFeatures> | Promise<undefined>,
): Promise<TileSource> {
  const { data, name, tools, held } = options;
  const join = held ? undefined : data.join;
  const [fetched, table] = await Promise.all([coming, join && tableOf(join, options)]);
  options.signal.throwIfAborted();
  try {
    // Plans are small, and looked at from close by.
    const zooms: readonly [number, number] = options.plan ? [0, 22] : whole;
    const file = fetched && isFile(fetched) ? fetched : undefined;
    const stated = data.x !== undefined || data.y !== undefined;
    const plain = file && (options.plan || (!stated && isPlain(file.pieces)));
    const block = file && !plain ? await blockOfFile(file, options) : undefined;
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
      const whole: FeaturesRequest = file && plain && !asked.block ? { ...asked, pieces: file.pieces } : asked;
      const derived = data.cluster !== undefined || findsClasses(tools.context.state.sheet.layers, name);
      const answer = await tools.pool.addFeatures(whole, featuresFor(whole, derived));
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
      `${what} is still compressed with gzip`,
      'Serve it with "Content-Encoding: gzip", or uncompressed.',
      address,
    );
  return new TextDecoder().decode(bytes);
}

/** Whether features came as a file. */
const isFile = (fetched: object | FeatureFile): fetched is FeatureFile =>
  'pieces' in fetched && Array.isArray(fetched.pieces);

/** Whether bytes are GeoJSON or a simple table in UTF-8, by their beginning: what the map reads without the other readers. */
function isPlain(pieces: readonly Uint8Array[]): boolean {
  const first = asOne(pieces.slice(0, 1 + pieces.findIndex(({ length }) => length > 0))).subarray(0, 2048);
  // A letter of several bytes may be cut at the end of what is looked at.
  const head = new TextDecoder().decode(first).replace(/\ufffd+$/, '');
  const odd = [...head].some((letter) => letter < '\t' || letter === '\ufffd');
  // A record separator begins a sequence of features (RFC 8142).
  const json = /^\s*[[{]/.test(head) || head[0] === '\u001e';
  return !odd && (json ? !/"type"\s*:\s*"Topology"/.test(head) : /^[^<]*[,;\t]/.test(head));
}

/** Whether the readers of all formats may do better where a worker of the map gave up. */
const mayMend = (error: unknown): boolean =>
  error instanceof Fault && /^(geojson\.|table\.(place|number|cells|swapped|twice|form)|crs\.unknown)/.test(error.code);

/** The features of a file in any format as a block; what was mended is told. */
async function blockOfFile(
  { name: fileName, pieces, siblings }: FeatureFile,
  { name, data: { id, crs, x, y }, signal, tools }: OpenOptions,
): Promise<FeatureBlock> {
  const { readBlock } = await fetchPart(() => import('../files/read-block.js'));
  const bytes = asOne(pieces);
  return readBlock({ name: fileName, bytes, siblings, crs, x, y, block: { name, id } }, signal, (fault) =>
    tools.context.reportLater(fault),
  );
}

/** Bytes of GeoJSON beyond which it is read by what reads points straight from them. */
const large = 1e6;

/** Which features a worker has to hold for a request. */
function featuresFor(
  { source, pieces, crs, greatCircles, join, block, held }: FeaturesRequest,
  derived: boolean,
): Knowledge['features'] {
  if (join || greatCircles || derived || (crs !== undefined && !block)) return 2;
  if (held || block) return 1;
  if (!pieces) return typeof source === 'object' && !isColumns(source) ? 1 : 2;
  const first = pieces.find(({ length }) => length > 0)?.[0];
  // "{", or the record separator of a sequence (RFC 8142).
  const isGeoJson = first === 0x7b || first === 0x1e;
  return isGeoJson && pieces.reduce((sum, { length }) => sum + length, 0) < large ? 1 : 2;
}
