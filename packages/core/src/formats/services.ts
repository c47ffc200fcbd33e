import { Fault } from '../base/fault.js';
import { child, childrenOf, readXml, textOf, type XmlNode } from '../base/xml.js';

/** Keys of every tile service. */
interface ServiceBase {
  /** Id of a common tile matrix set, or its JSON form. */
  readonly grid?: string | object;
  readonly zooms?: readonly [number, number];
  readonly credit?: string;
}

/** A service of pictures, as a data entry of a sheet. */
export interface ServiceImages extends ServiceBase {
  /** URL template with placeholders for numbers. */
  readonly images: string;
}

/** A service of vector tiles, as a data entry of a sheet. */
export interface ServiceTiles extends ServiceBase {
  /** URL template with placeholders for numbers. */
  readonly tiles: string;
}

/** A tile service: one of two forms. */
export type ServiceEntry = ServiceImages | ServiceTiles;

/** The choice among the layers of a service. */
export interface WmtsChoice {
  /** Identifier of the layer; optional if there is only one. */
  readonly layer?: string;
  /** Identifier of the style; default that of the service. */
  readonly style?: string;
  /** Identifier of the tile matrix set; default a WebMercatorQuad, otherwise the first. */
  readonly matrixSet?: string;
}

const wellKnown: readonly [RegExp, string][] = [
  [/GoogleMapsCompatible|WebMercatorQuad/i, 'WebMercatorQuad'],
  [/GoogleCRS84Quad|WorldCRS84Quad/i, 'WorldCRS84Quad'],
];

/**
 * Converts WMTS 1.0.0 capabilities (OGC 07-057r7) to a data entry: by resource templates (REST) if the service has them, otherwise by
 * key-value pairs.
 *
 * @param source XML of the capabilities
 * @param options the layer, and more if there is a choice
 * @throws Fault `wmts.*`, with the available choices
 */
export function readWmts(source: string, { layer, style, matrixSet }: WmtsChoice = {}): ServiceImages {
  const root = readXml(source);
  if (root.name !== 'Capabilities')
    throw new Fault(
      'wmts.form',
      `the document is a ${root.name}, not WMTS capabilities`,
      'Ask the service for its capabilities: ?SERVICE=WMTS&REQUEST=GetCapabilities.',
    );
  const contents = child(root, 'Contents');
  const layers = contents ? childrenOf(contents, 'Layer') : [];
  const chosen = pick(layers, layer, 'layer');
  const styles = childrenOf(chosen, 'Style');
  const styleOf =
    style === undefined
      ? (styles.find(({ attributes }) => attributes['isDefault'] === 'true') ?? styles[0])
      : pick(styles, style, 'style');
  const links = childrenOf(chosen, 'TileMatrixSetLink').map((link) => textOf(link, 'TileMatrixSet') ?? '');
  const sets = (contents ? childrenOf(contents, 'TileMatrixSet') : []).filter((set) =>
    links.includes(textOf(set, 'Identifier') ?? ''),
  );
  const isWeb = (set: XmlNode) => nameOf(set) === 'WebMercatorQuad';
  const set = matrixSet === undefined ? (sets.find(isWeb) ?? sets[0]) : pick(sets, matrixSet, 'tile matrix set');
  if (!set) throw new Fault('wmts.sets', 'the layer has no tile matrix set', 'The service is at fault.');
  const matrices = childrenOf(set, 'TileMatrix');
  const format = formatOf(chosen);
  const templates = childrenOf(chosen, 'ResourceURL').filter(({ attributes }) => attributes['resourceType'] === 'tile');
  const template = templates.find(({ attributes }) => attributes['format'] === format) ?? templates[0];
  const names = {
    layer: textOf(chosen, 'Identifier')!,
    style: (styleOf && textOf(styleOf, 'Identifier')) ?? '',
    set: textOf(set, 'Identifier')!,
  };
  const address = template?.attributes['template'] ?? byKeys(root, names, format);
  const images = address
    .replace(/\{style\}/gi, names.style)
    .replace(/\{TileMatrixSet\}/gi, names.set)
    .replace(/\{TileMatrix\}/gi, '{z}')
    .replace(/\{TileRow\}/gi, '{y}')
    .replace(/\{TileCol\}/gi, '{x}')
    .replace(/\{(\w+)\}/g, (whole, name: string) => defaultOf(chosen, name) ?? whole);
  const credit = textOf(root, 'ServiceProvider', 'ProviderName') ?? textOf(root, 'ServiceIdentification', 'Title');
  const common = nameOf(set);
  const isPlain = common !== undefined && matrices.every((matrix, z) => textOf(matrix, 'Identifier') === String(z));
  return {
    images,
    grid: isPlain ? common : setJson(set, matrices),
    zooms: [0, matrices.length - 1],
    ...(credit ? { credit } : {}),
  };
}

function pick(nodes: readonly XmlNode[], wanted: string | undefined, what: string): XmlNode {
  const names = nodes.map((node) => textOf(node, 'Identifier') ?? '');
  const at = wanted === undefined && nodes.length === 1 ? 0 : names.indexOf(wanted ?? '');
  if (at >= 0) return nodes[at];
  throw new Fault(
    'wmts.choice',
    wanted === undefined
      ? `the service has ${nodes.length || 'no'} ${what}s, and none is chosen`
      : `the service has no ${what} "${wanted}"`,
    `There ${names.length === 1 ? 'is' : 'are'}: ${names.join(', ') || 'none'}.`,
  );
}

const nameOf = (set: XmlNode) => {
  const said = `${textOf(set, 'WellKnownScaleSet') ?? ''} ${textOf(set, 'Identifier') ?? ''}`;
  return wellKnown.find(([pattern]) => pattern.test(said))?.[1];
};

const formatOf = (layer: XmlNode) => {
  const formats = childrenOf(layer, 'Format').map(({ text }) => text.trim());
  return (
    formats.find((one) => one === 'image/webp') ??
    formats.find((one) => one === 'image/png') ??
    formats[0] ??
    'image/png'
  );
};

const defaultOf = (layer: XmlNode, name: string) => {
  const dimension = childrenOf(layer, 'Dimension').find(
    (one) => textOf(one, 'Identifier')?.toLowerCase() === name.toLowerCase(),
  );
  return dimension && textOf(dimension, 'Default');
};

/** The address of GetTile by key-value pairs (section 7.2). */
function byKeys(root: XmlNode, names: { layer: string; style: string; set: string }, format: string): string {
  const metadata = child(root, 'OperationsMetadata');
  const operation = (metadata ? childrenOf(metadata, 'Operation') : []).find(
    ({ attributes }) => attributes['name'] === 'GetTile',
  );
  const href = child(operation, 'DCP', 'HTTP', 'Get')?.attributes['href'];
  if (!href)
    throw new Fault(
      'wmts.address',
      'the service has neither a resource template nor a URL for GetTile',
      'The service is at fault.',
    );
  const keys = {
    SERVICE: 'WMTS',
    REQUEST: 'GetTile',
    VERSION: '1.0.0',
    LAYER: names.layer,
    STYLE: names.style,
    FORMAT: format,
    TILEMATRIXSET: names.set,
  };
  const query = Object.entries(keys).map(([key, value]) => `${key}=${encodeURIComponent(value)}`);
  return `${href}${href.includes('?') ? (/[?&]$/.test(href) ? '' : '&') : '?'}${query.join('&')}&TILEMATRIX={z}&TILEROW={y}&TILECOL={x}`;
}

/** A tile matrix set of WMTS in the JSON form of OGC 17-083r4. */
function setJson(set: XmlNode, matrices: readonly XmlNode[]): object {
  const number = (node: XmlNode, name: string) => Number(textOf(node, name));
  return {
    id: textOf(set, 'Identifier'),
    crs: textOf(set, 'SupportedCRS'),
    tileMatrices: matrices.map((matrix) => ({
      id: textOf(matrix, 'Identifier'),
      scaleDenominator: number(matrix, 'ScaleDenominator'),
      pointOfOrigin: textOf(matrix, 'TopLeftCorner')!.split(/\s+/).map(Number),
      tileWidth: number(matrix, 'TileWidth'),
      tileHeight: number(matrix, 'TileHeight'),
      matrixWidth: number(matrix, 'MatrixWidth'),
      matrixHeight: number(matrix, 'MatrixHeight'),
    })),
  };
}

/**
 * Converts the metadata of a tile set of OGC API Tiles (OGC 20-057, section 8) to a data entry.
 *
 * @param source the JSON of a tile set
 * @param address URL of the document; its links are relative to it
 * @throws Fault `ogctiles.form`
 */
export function readOgcTiles(source: object, address: string): ServiceEntry {
  const json = source as {
    readonly dataType?: string;
    readonly links?: readonly { readonly rel?: string; readonly href?: string; readonly type?: string }[];
    readonly tileMatrixSetURI?: string;
    readonly tileMatrixSetId?: string;
    readonly tileMatrixSet?: object;
    readonly tileMatrixSetLimits?: readonly { readonly tileMatrix: string }[];
    readonly attribution?: string;
  };
  const links: unknown = (json as { links?: unknown } | null)?.links ?? [];
  if (!Array.isArray(links))
    throw new Fault(
      'ogctiles.form',
      'the document of tiles has no list of links',
      'Give the address of an OGC API tileset.',
      address,
    );
  const items = (links as NonNullable<typeof json.links>).filter(
    (link) => link?.rel === 'item' && link.href?.includes('{tileMatrix}'),
  );
  const isVector = (type: string | undefined) => /mvt|vector-tile/.test(type ?? '');
  const item = items.find(({ type }) => isVector(type)) ?? items.find(({ type }) => type === 'image/png') ?? items[0];
  if (!item?.href)
    throw new Fault(
      'ogctiles.form',
      'the document has no link to tiles (rel "item" with {tileMatrix}, {tileRow} and {tileCol})',
      'Give the address of one tile set, such as …/collections/relief/map/tiles/WebMercatorQuad.',
      address,
    );
  const href = new URL(item.href.replaceAll('{', '%7B').replaceAll('}', '%7D'), address).href
    .replaceAll('%7B', '{')
    .replaceAll('%7D', '}')
    .replace('{tileMatrix}', '{z}')
    .replace('{tileRow}', '{y}')
    .replace('{tileCol}', '{x}');
  const id = json.tileMatrixSetId ?? json.tileMatrixSetURI?.split('/').pop();
  const limits = (json.tileMatrixSetLimits ?? [])
    .map(({ tileMatrix }) => Number(tileMatrix))
    .filter((z) => !Number.isNaN(z));
  return {
    ...(isVector(item.type) || json.dataType === 'vector' ? { tiles: href } : { images: href }),
    ...(json.tileMatrixSet ? { grid: json.tileMatrixSet } : id ? { grid: id } : {}),
    ...(limits.length ? { zooms: [Math.min(...limits), Math.max(...limits)] as const } : {}),
    ...(json.attribution ? { credit: json.attribution } : {}),
  };
}
