import { Archive, Fault, blobSource, type ByteSource } from '@flintwright/core';
import { fetchPart } from '../base/fetch-part.js';
import { readCredit } from './credit.js';
import type { OpenOptions } from './open-options.js';
import { fetchFeatures } from './fetch-features.js';
import { fetchBytes, fetchJson } from './request.js';
import { addressOf, checkPlaceholders, levelsOf, wholeAddress } from './template.js';
import type { TileSource } from './tile-source.js';

/** Opens the source of a data entry: an archive, a TileJSON document, a tile address, or features. */
export async function openSource(options: OpenOptions): Promise<TileSource> {
  const { data, name, tools } = options;
  const { files, base, hook } = tools;
  if (data.features !== undefined) return featuresSource(options);
  if (data.tiles === undefined)
    throw new Fault('data.empty', `the data "${name}" has neither "tiles" nor "features"`, 'Add one of them.');
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

async function openArchive({ data, signal, numbering, name }: OpenOptions, bytes: ByteSource): Promise<TileSource> {
  const archive = await Archive.open(bytes, signal);
  const { header } = archive;
  if (header.tileType !== 1 && header.tileType !== 0)
    throw new Fault(
      'archive.type',
      'the archive contains pictures, not vector tiles',
      'Give the address of an archive of vector tiles.',
    );
  const metadata = (await archive.metadata(signal)) as TileJson;
  return {
    zooms: levelsOf(data.zooms ?? [header.minZoom, header.maxZoom], numbering, name),
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
    zooms: levelsOf(zooms, numbering, name),
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

/**
 * Features, for a worker to cut tiles from. What opens them is fetched when a sheet first has some; they are on their way
 * meanwhile.
 */
async function featuresSource(options: OpenOptions): Promise<TileSource> {
  const fetched = options.held ? Promise.resolve(undefined) : fetchFeatures(options);
  // Who opens them waits for it. Where that part does not come, that is what is told.
  fetched.catch(() => {});
  const { openFeatures } = await fetchPart(() => import('./open-features.js'));
  return openFeatures(options, fetched);
}
