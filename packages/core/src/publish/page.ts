// Room "publish": a map as a page that opens anywhere, with no address outside of it.
import { Fault } from '../base/fault.js';
import { describeValue } from '../base/describe-value.js';
import { iconSource, isPath, isSvg, type SheetIcon } from '../sheet/icons.js';
import type { Sheet, SheetData } from '../sheet/types.js';
import { LeftOut } from './attributes.js';

/** A file that is written as it is read, so that it need not be in memory whole. */
export interface StreamedFile {
  readonly stream: AsyncIterable<Uint8Array>;
  /** File name extension in a published folder, such as `.geojson`. */
  readonly ending: string;
}

/** A map to publish. */
export interface PublishedMap {
  /** Title of the page. */
  readonly title: string;
  /** The sheet; each URL in it is a key of `files`. */
  readonly sheet: Sheet;
  /** Content of the sheet's URLs. Features that come as a stream are GeoJSON in longitude and latitude, or in meters of a plan. */
  readonly files: ReadonlyMap<string, Uint8Array | StreamedFile>;
  /** Text of the whole library as one module (`flintwright/whole`). */
  readonly library: string;
  /**
   * JavaScript of the application that runs once the map exists: the body of an async function with the parameters `map` and `flintwright`
   * (the exports of the library). It has no imports. Default none.
   */
  readonly script?: string | undefined;
  /** Language of the page; default `en`. */
  readonly language?: string;
  /** Attributes that are kept, by data entry; see `attributesUsed`. Default all. */
  readonly attributes?: ReadonlyMap<string, ReadonlySet<string>> | undefined;
  /** Called with the attributes of each data entry that were left out; default nothing is reported. */
  readonly leftOut?: (data: string, attributes: readonly string[]) => void;
}

/** A data entry, or an icon, with the key that its address stands under. */
interface Addressed {
  readonly name: string;
  readonly key: 'tiles' | 'features' | 'images' | 'table' | 'icon';
  readonly address: string;
}

const keys = ['tiles', 'features', 'images'] as const;

/** Returns the URLs in a sheet: those of data, of tables to join, and of icons. */
export function addressesOf(sheet: Sheet): Addressed[] {
  const icons = Object.entries(sheet.icons ?? {}).flatMap(([name, icon]): Addressed[] => {
    const address = iconSource(icon);
    return isPath(address) || isSvg(address) || address.startsWith('data:') ? [] : [{ name, key: 'icon', address }];
  });
  const data = Object.entries(sheet.data ?? {}).flatMap(([name, entry]) => {
    const plain = entry as unknown as Readonly<Record<string, unknown>>;
    const found = keys.flatMap((key): Addressed[] => {
      const address = plain[key];
      return typeof address === 'string' ? [{ name, key, address }] : [];
    });
    const table = (plain['join'] as { table?: unknown } | undefined)?.table;
    return typeof table === 'string' ? [...found, { name, key: 'table' as const, address: table }] : found;
  });
  return [...data, ...icons];
}

/** Whether an address is that of a single file, and not one with places for numbers. */
export const isSingle = (address: string): boolean => !/\{[^}]*\}/.test(address);

/** Text in markup: between tags, and in attributes with double quotes (HTML, section 13.1.2.3). */
const inMarkup = (text: string) =>
  text.replace(/[&<>"]/g, (sign) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[sign]!);

/**
 * Code in a script element: nothing in it ends the element or begins a comment, and there is no character that reading HTML would change
 * (HTML, sections 13.2.3.5 and 13.2.5.4), because the script then had another hash.
 */
const codeInScript = (text: string) =>
  text
    .replace(/<(?=\/script|!--|script)/gi, '\\u003c')
    .replaceAll('\u0000', '\\u0000')
    .replaceAll('\r', '\\r');

/** JSON in a script element. A `<` of JSON stands in a string, where the escape means the same, wherever the text is cut into pieces. */
const jsonInScript = (text: string) => text.replaceAll('<', '\\u003c');

/** The start and the end of a script element that holds JSON; what comes between goes through {@link jsonInScript}. */
const jsonElement = (id: string, of?: string): [start: string, end: string] => [
  `<script type="application/json" id="${inMarkup(id)}"${of === undefined ? '' : ` data-of="${inMarkup(of)}"`}>`,
  '</script>\n',
];

const style = `html,body{height:100%;margin:0}body{background:#f7f5ef;color:#22303a;font:15px/1.45 system-ui,sans-serif}
#map{position:absolute;inset:0}#map>p{margin:0;padding:24px;max-width:40em}`;

/** The names under which the library's module exports what a page needs. */
const wanted = ['createMap', 'Rail', 'ScaleBar', 'Drawer'] as const;

/** The library as a script that keeps its exports to itself, in the constant `flintwright`. */
function asConstant(library: string, isWhole: boolean): string {
  const list = /export\s*\{([^{}]*)\}\s*;?\s*(?:\/\/[^\n]*\s*)?$/.exec(library);
  const names = new Map(
    (list?.[1] ?? '').split(',').map((pair): [string, string] => {
      const [inner, outer = inner] = pair.trim().split(/\s+as\s+/);
      return [outer, inner];
    }),
  );
  if (!list || wanted.some((name) => !names.has(name)))
    throw new Fault(
      'publish.library',
      'the text of the library is not that of flintwright/whole',
      'Pass the file flintwright.js of the package as it is.',
    );
  const kept = (isWhole ? [...names.keys()] : wanted).map((name) => `${name}:${names.get(name)!}`).join(',');
  return `${library.slice(0, list.index)}\nconst flintwright={${kept}};\n`;
}

/** What the page does once the library is there. `loaded` waits for a sheet that is fetched, whose layers are not known before. */
const controls = (loaded: string) => `const map=F.createMap('#map',{sheet,title:document.title,permalink:true,...more});
new F.Rail(map);new F.ScaleBar(map);
${loaded}if(map.layers.all.some((layer)=>layer.title!==undefined))new F.Drawer(map,{title:document.title});
window.map=map;`;

/** The application's own script, after the map. */
const ownScript = ({ script }: PublishedMap) =>
  script === undefined ? '' : `await (async(map,flintwright)=>{\n${script}\n})(map,F);`;

/** The hash of a script, as a content security policy names it (CSP level 3, section 2.3.1). */
async function hashOf(text: string): Promise<string> {
  const digest = new Uint8Array(await crypto.subtle.digest('SHA-256', new TextEncoder().encode(text)));
  return `'sha256-${base64(digest)}'`;
}

/** Encodes bytes in base64 (RFC 4648, section 4). */
export const base64 = (bytes: Uint8Array): string => [...base64Pieces(bytes)].join('');

function* base64Pieces(bytes: Uint8Array): Generator<string> {
  // Pieces of a multiple of three bytes need no padding.
  for (let i = 0; i < bytes.length; i += 24573) yield btoa(String.fromCharCode(...bytes.subarray(i, i + 24573)));
}

/** The sheet of a published map with its data entries and icons replaced. Names are any text, `__proto__` too. */
function sheetWith(sheet: Sheet, data: ReadonlyMap<string, SheetData>, icons: ReadonlyMap<string, string | SheetIcon>) {
  return {
    ...sheet,
    data: Object.fromEntries(data),
    ...(sheet.icons && { icons: Object.fromEntries(icons) }),
  } as Sheet;
}

const entriesOf = <T>(record: Readonly<Record<string, T>> | undefined) =>
  new Map<string, T>(Object.entries(record ?? {}));

/** An entry with some keys replaced, and without those that are undefined. */
const entryWith = (entry: SheetData | undefined, changes: object): SheetData =>
  Object.fromEntries(
    Object.entries({ ...entry, ...changes }).filter(([, value]) => value !== undefined),
  ) as unknown as SheetData;

/** Features in the one form that is put into a page, and what is written of the entry beside them. */
function featureText(
  file: Uint8Array | StreamedFile,
  address: string,
  left: LeftOut,
): AsyncIterable<string> | readonly string[] {
  if (!(file instanceof Uint8Array)) return decoded(file.stream);
  return collectionPieces(parsed(file, address), left);
}

async function* decoded(stream: AsyncIterable<Uint8Array>): AsyncGenerator<string> {
  const decoder = new TextDecoder();
  for await (const piece of stream) yield decoder.decode(piece, { stream: true });
  yield decoder.decode();
}

/** A GeoJSON document with the attributes that are kept. */
function collectionPieces(source: object, left: LeftOut): string[] {
  return [JSON.stringify(source, (key, value: unknown) => (key === 'properties' ? keptOf(value, left) : value))];
}

const keptOf = (value: unknown, left: LeftOut): unknown =>
  typeof value === 'object' && value !== null && !Array.isArray(value)
    ? left.kept(value as Readonly<Record<string, unknown>>)
    : value;

/** The rows of a table with the columns that are kept. */
async function rowsOf(bytes: Uint8Array, address: string, left: LeftOut): Promise<object[]> {
  const [{ gunzip }, { readTable }] = await Promise.all([
    import('../base/gzip.js'),
    import('../formats/table/read.js'),
  ]);
  const { rows } = readTable(new TextDecoder().decode(gunzip(bytes, address)), address);
  return rows.map((row) => left.kept(row));
}

/** The pieces of a file that is in memory. @throws Fault `publish.data` for a stream */
function wholeOf(file: Uint8Array | StreamedFile, address: string): Uint8Array {
  if (file instanceof Uint8Array) return file;
  throw new Fault('publish.data', `${address} is a stream`, 'Only features can be a stream; pass the bytes.', address);
}

/**
 * Writes a map as one HTML page that contains its data and the library. The page can be opened from a disk or any host; its content
 * security policy forbids all requests. The parts are made one by one, so that a large page need not fit into memory.
 *
 * @param map sheet, data and library
 * @returns parts of the text, in order
 * @throws Fault `publish.outside` for a URL that is not in `files`, `publish.library`, `publish.data`, `publish.archive`, `publish.icon`
 */
export async function* publishedPagePieces(map: PublishedMap): AsyncGenerator<string> {
  const { files } = map;
  const [data, icons] = [entriesOf(map.sheet.data), entriesOf(map.sheet.icons)];
  const archives: [name: string, bytes: Uint8Array][] = [];
  const features: [name: string, address: string, file: Uint8Array | StreamedFile][] = [];
  const left = leftOutOf(map);
  for (const { name, key, address } of addressesOf(map.sheet)) {
    const file = files.get(address);
    if (!file) throw outside(name, key, address);
    const entry = data.get(name);
    const picture = () =>
      `data:${pictureType(wholeOf(file, address), address)};base64,${base64(wholeOf(file, address))}`;
    if (key === 'icon') icons.set(name, withSource(icons.get(name)!, picture()));
    else if (key === 'tiles') archives.push([name, await archiveOf(map, wholeOf(file, address), address, left(name))]);
    else if (key === 'features') {
      features.push([name, address, file]);
      data.set(name, entryWith(entry, { features: emptyCollection }));
    } else if (key === 'table') {
      const table = await rowsOf(wholeOf(file, address), address, left(name));
      data.set(name, entryWith(entry, { join: { ...entry!.join, table } }));
    } else data.set(name, entryWith(entry, { images: picture() }));
  }
  for (const [name, entry] of data) data.set(name, withKept(entry, left(name)));
  const script = codeInScript(`${asConstant(map.library, map.script !== undefined)}
{const F=flintwright;
const read=(element)=>JSON.parse(element.textContent);
const sheet=read(document.getElementById('sheet'));
for(const one of document.querySelectorAll('script[id^="features-"]'))sheet.data[one.dataset.of].features=read(one);
const blobOf=(text)=>{const raw=atob(text);const bytes=new Uint8Array(raw.length);
for(let i=0;i<raw.length;i++)bytes[i]=raw.charCodeAt(i);
return new Blob([bytes]);};
const files=Object.fromEntries([...document.querySelectorAll('script[id^="archive-"]')].map((one)=>[one.dataset.of,blobOf(read(one))]));
const more={files};
document.getElementById('map').replaceChildren();
${controls('')}
${ownScript(map)}}
`);
  const [head, tail] = await pageText(map, {
    policy: [
      `script-src ${await hashOf(script)}`,
      'worker-src blob:',
      'connect-src data: blob:',
      'img-src data: blob:',
    ],
    says: 'This map needs a browser with JavaScript and WebGL2.',
  });
  yield head;
  const element = async function* (
    id: string,
    of: string | undefined,
    json: AsyncIterable<string> | readonly string[],
  ) {
    const [start, end] = jsonElement(id, of);
    yield start;
    for await (const piece of json) yield jsonInScript(piece);
    yield end;
  };
  yield* element('sheet', undefined, [JSON.stringify(sheetWith(map.sheet, data, icons))]);
  for (const [i, [name, address, file]] of features.entries())
    yield* element(`features-${i}`, name, featureText(file, address, left(name)));
  for (const [i, [name, bytes]] of archives.entries())
    yield* element(`archive-${i}`, name, ['"', ...base64Pieces(bytes), '"']);
  yield `<script type="module">${script}</script>`;
  yield tail;
  for (const name of data.keys()) if (left(name).list.length) map.leftOut?.(name, left(name).list);
}

const emptyCollection = { type: 'FeatureCollection', features: [] };

/** What is left out of each data entry. */
function leftOutOf({ attributes }: PublishedMap): (name: string) => LeftOut {
  const all = new Map<string, LeftOut>();
  return (name) => {
    let one = all.get(name);
    if (!one) all.set(name, (one = new LeftOut(attributes?.get(name))));
    return one;
  };
}

/** An entry whose features or rows stand in the sheet itself, with the attributes that are kept. */
function withKept(entry: SheetData, left: LeftOut): SheetData {
  const { features, join } = entry;
  const changes = {
    ...(typeof features === 'object' && !(features instanceof Blob) && 'type' in features
      ? { features: JSON.parse(collectionPieces(features, left).join('')) as object }
      : {}),
    ...(join && typeof join.table !== 'string'
      ? { join: { ...join, table: join.table.map((row) => left.kept(row as Readonly<Record<string, unknown>>)) } }
      : {}),
  };
  return entryWith(entry, changes);
}

/**
 * Writes a map as one HTML page; see {@link publishedPagePieces}.
 *
 * @param map sheet, data and library
 * @returns the text of the page
 * @throws Fault `publish.outside`, `publish.library`, `publish.data`, `publish.archive`, `publish.icon`
 */
export async function publishedPage(map: PublishedMap): Promise<string> {
  const pieces: string[] = [];
  for await (const piece of publishedPagePieces(map)) pieces.push(piece);
  return pieces.join('');
}

/** The page around the scripts of a map: what comes before them, with its policy, title and one element, and what comes after. */
async function pageText(
  { title, language = 'en' }: PublishedMap,
  { policy, says }: { readonly policy: readonly string[]; readonly says: string },
): Promise<[head: string, tail: string]> {
  const rules = [
    "default-src 'none'",
    ...policy,
    `style-src ${await hashOf(style)}`,
    "base-uri 'none'",
    "form-action 'none'",
  ];
  const head = `<!doctype html>
<html lang="${inMarkup(language)}">
<head>
<meta charset="utf-8">
<meta http-equiv="Content-Security-Policy" content="${inMarkup(rules.join('; '))}">
<meta name="viewport" content="width=device-width, initial-scale=1">
<meta name="referrer" content="no-referrer">
<title>${inMarkup(title)}</title>
<link rel="icon" href="data:,">
<style>${style}</style>
</head>
<body>
<div id="map"><p>${says}</p></div>
`;
  return [head, '\n</body>\n</html>\n'];
}

/** A map as the files of a folder, for any host that serves files; hosts that support range requests send only what is viewed. */
export interface PublishedFolder {
  /** Content by name: `index.html`, `map.js`, `sheet.json`, the library, its worker, and the data under `data/`. */
  readonly files: ReadonlyMap<string, Uint8Array | string | AsyncIterable<Uint8Array>>;
}

/**
 * Writes a map as a folder: a page, the library, the sheet and its data as files, with a content security policy that forbids requests to
 * other hosts.
 *
 * @param map sheet, data and library
 * @param worker text of `flintwright/worker`
 * @throws Fault `publish.outside` for a URL that is not in `files`
 */
export async function publishedFolder(map: PublishedMap, worker: string): Promise<PublishedFolder> {
  const { files } = map;
  const out = new Map<string, Uint8Array | string | AsyncIterable<Uint8Array>>();
  const put = (content: Uint8Array | string | AsyncIterable<Uint8Array>, path: string) => out.set(path, content);
  const [data, icons] = [entriesOf(map.sheet.data), entriesOf(map.sheet.icons)];
  const left = leftOutOf(map);
  for (const { name, key, address } of addressesOf(map.sheet)) {
    const file = files.get(address);
    if (!file) throw outside(name, key, address);
    const streamed = file instanceof Uint8Array ? undefined : file;
    const filtered = key === 'table' && map.attributes !== undefined;
    const own = /\.[a-z0-9]+(?:\.gz)?$/i.exec(address)?.[0] ?? '';
    const ending = filtered ? '.json' : (streamed?.ending ?? own);
    const tail = key === 'table' || key === 'icon' ? `-${key}` : '';
    let path = `data/${name.replace(/[^\w-]+/g, '-')}${tail}${ending}`;
    while (out.has(path)) path = path.replace(/(\.[^/]*)?$/, '-2$1');
    if (key === 'icon' || key === 'images') pictureType(wholeOf(file, address), address);
    if (filtered) put(JSON.stringify(await rowsOf(wholeOf(file, address), address, left(name))), path);
    else if (key === 'tiles') put(await archiveOf(map, wholeOf(file, address), address, left(name)), path);
    else put(file instanceof Uint8Array ? file : file.stream, path);
    if (key === 'icon') icons.set(name, withSource(icons.get(name)!, path));
    else
      data.set(
        name,
        entryWith(
          data.get(name),
          key === 'table' ? { join: { ...data.get(name)!.join, table: path } } : { [key]: path },
        ),
      );
  }
  for (const [name, entry] of data) data.set(name, withKept(entry, left(name)));
  for (const name of data.keys()) if (left(name).list.length) map.leftOut?.(name, left(name).list);
  const script = `import * as F from './flintwright.js';
const sheet = new URL('sheet.json', location.href).href;
const more = { worker: new URL('flintwright-worker.js', location.href).href };
document.getElementById('map').replaceChildren();
${controls('await map.settled();\n')}
${ownScript(map)}
`;
  const whole = sheetWith(map.sheet, data, icons);
  put(`${JSON.stringify(whole, null, 2)}\n`, 'sheet.json');
  put(script, 'map.js');
  put(map.library, 'flintwright.js');
  put(worker, 'flintwright-worker.js');
  const [head, tail] = await pageText(map, {
    policy: ["script-src 'self'", "worker-src 'self'", "connect-src 'self'", "img-src 'self' data: blob:"],
    says: 'This map needs a browser with JavaScript and WebGL2, and a host: put the folder on one, or publish it as one page, which opens from a disk.',
  });
  put(`${head}<script type="module" src="map.js"></script>${tail}`, 'index.html');
  return { files: out };
}

/** An icon that is drawn from something else. */
const withSource = (icon: string | SheetIcon, source: string): string | SheetIcon =>
  typeof icon === 'string' ? source : { ...icon, source };

function outside(name: string, key: string, address: string): Fault {
  const place =
    key === 'icon' ? `$.icons.${name}` : key === 'table' ? `$.data.${name}.join.table` : `$.data.${name}.${key}`;
  return new Fault(
    'publish.outside',
    isSingle(address)
      ? `the ${key === 'icon' ? 'icon' : 'data'} "${name}" comes from ${describeValue(address)}, which is not a local file`
      : `the data "${name}" comes tile by tile from ${describeValue(address)}`,
    isSingle(address)
      ? 'Put the file beside the sheet, and name it there; a published map fetches nothing.'
      : 'Make a tile archive of it, and name that; a published map fetches nothing.',
    place,
  );
}

function parsed(bytes: Uint8Array, address: string): object {
  try {
    return JSON.parse(new TextDecoder().decode(bytes)) as object;
  } catch (error) {
    throw new Fault(
      'publish.data',
      `${address} is not GeoJSON`,
      'Convert it to GeoJSON first, with flintwright convert.',
      address,
      error,
    );
  }
}

/** The bytes of an archive, without the attributes that are left out. @throws Fault `publish.archive` for anything else */
async function archiveOf(
  { attributes }: PublishedMap,
  bytes: Uint8Array,
  address: string,
  left: LeftOut,
): Promise<Uint8Array> {
  if (new TextDecoder().decode(bytes.subarray(0, 7)) === 'PMTiles')
    return attributes ? (await import('./thin-archive.js')).thinArchive(bytes, left) : bytes;
  throw new Fault(
    'publish.archive',
    `${address} is not a tile archive`,
    'Name a PMTiles file, such as one that flintwright tile writes.',
    address,
  );
}

/** Signatures of the picture formats that browsers draw, as hexadecimal digits at an offset in bytes. */
const signatures: readonly (readonly [type: string, at: number, digits: string])[] = [
  ['image/png', 0, '89504e470d0a1a0a'],
  ['image/jpeg', 0, 'ffd8ff'],
  ['image/gif', 0, '47494638'],
  ['image/webp', 8, '57454250'],
  ['image/avif', 4, '6674797061766966'],
];

/** Media type of a picture, by its first bytes. @throws Fault `publish.icon` for what is not a picture */
function pictureType(bytes: Uint8Array, address: string): string {
  const digits = Array.from(bytes.subarray(0, 16), (byte) => byte.toString(16).padStart(2, '0')).join('');
  const found = signatures.find(([, at, sign]) => digits.startsWith(sign, 2 * at));
  if (found) return found[0];
  const start = new TextDecoder().decode(bytes.subarray(0, 4096));
  if (/^\uFEFF?\s*</.test(start) && /<svg[\s>]/i.test(start)) return 'image/svg+xml';
  throw new Fault(
    'publish.icon',
    `${address} is not a picture`,
    'Name a PNG, JPEG, GIF, WebP, AVIF or SVG file.',
    address,
  );
}
