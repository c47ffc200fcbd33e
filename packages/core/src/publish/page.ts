// Room "publish": a map as a page that opens anywhere, with no address outside of it.
import { Fault } from '../base/fault.js';
import { said } from '../base/said.js';
import { iconSource, isPath, isSvg, type SheetIcon } from '../sheet/icons.js';
import type { Sheet, SheetData } from '../sheet/types.js';

/** A map to be published. */
export interface PublishedMap {
  /** Title of the page. */
  readonly title: string;
  /** The sheet; every address in it is one of `files`. */
  readonly sheet: Sheet;
  /** What the sheet's addresses lead to: bytes by address. */
  readonly files: ReadonlyMap<string, Uint8Array>;
  /** The whole library as one module (`flintwright/whole`): its text. */
  readonly library: string;
  /** Language of the page; default `en`. */
  readonly language?: string;
}

/** A data entry, or an icon, with the key that its address stands under. */
interface Addressed {
  readonly name: string;
  readonly key: 'tiles' | 'features' | 'images' | 'table' | 'icon';
  readonly address: string;
}

const keys = ['tiles', 'features', 'images'] as const;

/** The addresses in a sheet's data, tables of joins included, and those of its icons. */
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

const escape = (text: string) =>
  text.replace(/[&<>"]/g, (sign) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[sign]!);

/**
 * Text for a script element: nothing in it ends the element, or begins a comment; and no sign that reading HTML would change (HTML,
 * section 13.2.3.5 and 13.2.5.4), as the script then had another hash.
 */
const inScript = (text: string) =>
  text
    .replace(/<(?=\/script|!--|script)/gi, '\\u003c')
    .replaceAll('\u0000', '\\u0000')
    .replaceAll('\r', '\\r');

const style = `html,body{height:100%;margin:0}body{background:#f7f5ef;color:#22303a;font:15px/1.45 system-ui,sans-serif}
#map{position:absolute;inset:0}#map>p{margin:0;padding:24px;max-width:40em}`;

/** The names under which the library's module exports what a page needs. */
const wanted = ['createMap', 'Rail', 'ScaleBar', 'Drawer'] as const;

/** The library as a script that keeps its exports to itself, in the constant `flintwright`. */
function asConstant(library: string): string {
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
      'Hand over the file flintwright.js of the package as it is.',
    );
  const kept = wanted.map((name) => `${name}:${names.get(name)!}`).join(',');
  return `${library.slice(0, list.index)}\nconst flintwright={${kept}};\n`;
}

/** What the page does once the library is there. `loaded` waits for a sheet that is fetched, whose layers are not known before. */
const controls = (loaded: string) => `const map=F.createMap('#map',{sheet,title:document.title,permalink:true,...more});
new F.Rail(map);new F.ScaleBar(map);
${loaded}if(map.layers.all.some((layer)=>layer.title!==undefined))new F.Drawer(map,{title:document.title});
window.map=map;`;

/** The hash of a script, as a content security policy names it (CSP level 3, section 2.3.1). */
async function hashOf(text: string): Promise<string> {
  const digest = new Uint8Array(await crypto.subtle.digest('SHA-256', new TextEncoder().encode(text)));
  return `'sha256-${base64(digest)}'`;
}

/** Bytes in base64 (RFC 4648, section 4). */
export function base64(bytes: Uint8Array): string {
  let text = '';
  // Pieces of a multiple of three bytes need no filling.
  for (let i = 0; i < bytes.length; i += 24573) text += btoa(String.fromCharCode(...bytes.subarray(i, i + 24573)));
  return text;
}

/**
 * A map as one HTML page, with its data and the library in it: it opens from a disk or any host, under a policy that lets it fetch
 * nothing from anywhere.
 *
 * @param map sheet, data and library
 * @returns the text of the page
 * @throws Fault `publish.outside` for an address that `files` does not have, `publish.library`, `publish.data`
 */
export async function publishedPage(map: PublishedMap): Promise<string> {
  const { files } = map;
  const archives: Record<string, string> = {};
  const data: Record<string, SheetData> = { ...map.sheet.data };
  const icons: Record<string, string | SheetIcon> = { ...map.sheet.icons };
  for (const { name, key, address } of addressesOf(map.sheet)) {
    const bytes = files.get(address);
    if (!bytes) throw outside(name, key, address);
    const picture = () => `data:${pictureType(bytes)};base64,${base64(bytes)}`;
    if (key === 'icon') {
      icons[name] = withSource(icons[name], picture());
      continue;
    }
    const entry = data[name] as unknown as Readonly<Record<string, unknown>>;
    const put = (more: object) => (data[name] = { ...entry, ...more } as unknown as SheetData);
    if (key === 'tiles') archives[name] = base64(bytes);
    else if (key === 'features') put({ features: parsed(bytes, address) });
    else if (key === 'table') put({ join: { ...(entry['join'] as object), table: new TextDecoder().decode(bytes) } });
    else put({ images: picture() });
  }
  const sheet = JSON.stringify({ ...map.sheet, data, ...(map.sheet.icons && { icons }) });
  const script = inScript(`${asConstant(map.library)}
{const F=flintwright;
const read=(id)=>document.getElementById(id).textContent;
const sheet=JSON.parse(read('sheet'));
const files={};
for(const [name,text] of Object.entries(JSON.parse(read('archives')))){
const raw=atob(text);const bytes=new Uint8Array(raw.length);
for(let i=0;i<raw.length;i++)bytes[i]=raw.charCodeAt(i);
files[name]=new Blob([bytes]);}
const more={files};
document.getElementById('map').replaceChildren();
${controls('')}}
`);
  return pageText(map, {
    policy: [
      `script-src ${await hashOf(script)}`,
      'worker-src blob:',
      'connect-src data: blob:',
      'img-src data: blob:',
    ],
    says: 'This map needs a browser with JavaScript and WebGL2.',
    scripts: `<script type="application/json" id="sheet">${inScript(sheet)}</script>
<script type="application/json" id="archives">${JSON.stringify(archives)}</script>
<script type="module">${script}</script>`,
  });
}

/** The page round a map: its policy, its title, its one element, what that says until the map is there, and its scripts. */
async function pageText(
  { title, language = 'en' }: PublishedMap,
  { policy, says, scripts }: { readonly policy: readonly string[]; readonly says: string; readonly scripts: string },
): Promise<string> {
  const rules = [
    "default-src 'none'",
    ...policy,
    `style-src ${await hashOf(style)}`,
    "base-uri 'none'",
    "form-action 'none'",
  ];
  return `<!doctype html>
<html lang="${escape(language)}">
<head>
<meta charset="utf-8">
<meta http-equiv="Content-Security-Policy" content="${escape(rules.join('; '))}">
<meta name="viewport" content="width=device-width, initial-scale=1">
<meta name="referrer" content="no-referrer">
<title>${escape(title)}</title>
<link rel="icon" href="data:,">
<style>${style}</style>
</head>
<body>
<div id="map"><p>${says}</p></div>
${scripts}
</body>
</html>
`;
}

/** A map as the files of a folder, to be put on any host that serves files; hosts that answer ranges send only what is looked at. */
export interface PublishedFolder {
  /** Content by name: `index.html`, `map.js`, `sheet.json`, the library, its worker, and the data under `data/`. */
  readonly files: ReadonlyMap<string, Uint8Array | string>;
}

/**
 * A map as a folder: a page, the library, the sheet and its data as files, under a policy that lets it fetch nothing from elsewhere.
 *
 * @param map sheet, data and library
 * @param worker text of `flintwright/worker`
 * @throws Fault `publish.outside` for an address that `files` does not have
 */
export async function publishedFolder(map: PublishedMap, worker: string): Promise<PublishedFolder> {
  const { files } = map;
  const out = new Map<string, Uint8Array | string>();
  const put = (content: Uint8Array | string, path: string) => out.set(path, content);
  const data: Record<string, SheetData> = { ...map.sheet.data };
  const icons: Record<string, string | SheetIcon> = { ...map.sheet.icons };
  for (const { name, key, address } of addressesOf(map.sheet)) {
    const bytes = files.get(address);
    if (!bytes) throw outside(name, key, address);
    const ending = /\.[a-z0-9]+(?:\.gz)?$/i.exec(address)?.[0] ?? '';
    const tail = key === 'table' || key === 'icon' ? `-${key}` : '';
    let path = `data/${name.replace(/[^\w-]+/g, '-')}${tail}${ending}`;
    while (out.has(path)) path = path.replace(/(\.[^/]*)?$/, '-2$1');
    put(bytes, path);
    if (key === 'icon') {
      icons[name] = withSource(icons[name], path);
      continue;
    }
    const entry = data[name] as unknown as Readonly<Record<string, unknown>>;
    data[name] = {
      ...entry,
      ...(key === 'table' ? { join: { ...(entry['join'] as object), table: path } } : { [key]: path }),
    } as unknown as SheetData;
  }
  const script = `import * as F from './flintwright.js';
const sheet = new URL('sheet.json', location.href).href;
const more = { worker: new URL('flintwright-worker.js', location.href).href };
document.getElementById('map').replaceChildren();
${controls('await map.settled();\n')}
`;
  const whole = { ...map.sheet, data, ...(map.sheet.icons && { icons }) };
  put(`${JSON.stringify(whole, null, 2)}\n`, 'sheet.json');
  put(script, 'map.js');
  put(map.library, 'flintwright.js');
  put(worker, 'flintwright-worker.js');
  const page = await pageText(map, {
    policy: ["script-src 'self'", "worker-src 'self'", "connect-src 'self'", "img-src 'self' data: blob:"],
    says: 'This map needs a browser with JavaScript and WebGL2, and a host: put the folder on one, or publish it as one page, which opens from a disk.',
    scripts: '<script type="module" src="map.js"></script>',
  });
  put(page, 'index.html');
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
      ? `the ${key === 'icon' ? 'icon' : 'data'} "${name}" comes from ${said(address)}, which is not at hand`
      : `the data "${name}" comes tile by tile from ${said(address)}`,
    isSingle(address)
      ? 'Put the file beside the sheet, and name it there; a published map fetches nothing from elsewhere.'
      : 'Make a tile archive of it, and name that; a published map fetches nothing from elsewhere.',
    place,
  );
}

function parsed(bytes: Uint8Array, address: string): object {
  try {
    return JSON.parse(new TextDecoder().decode(bytes)) as object;
  } catch (error) {
    throw new Fault(
      'publish.data',
      `${address} is no GeoJSON`,
      'Turn it into GeoJSON first: flintwright convert.',
      address,
      error,
    );
  }
}

/** Media type of a picture, by its first bytes. */
function pictureType(bytes: Uint8Array): string {
  if (bytes[0] === 0x89) return 'image/png';
  if (bytes[0] === 0xff) return 'image/jpeg';
  return bytes[8] === 0x57 ? 'image/webp' : 'image/svg+xml';
}
