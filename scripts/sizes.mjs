// Weighs each published entry as a page would fetch it, and fails when one weighs more than it may, or when the guide's page on what is
// fetched when says otherwise: npm run sizes (-- --page writes that page)
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { readFileSync, writeFileSync } from 'node:fs';
import { gzipSync } from 'node:zlib';
import { rolldown } from 'rolldown';
import { entries } from './entries.mjs';

/** What a chunk is fetched for, by a module in it. */
const occasions = [
  ['plain-worker-text.generated.js', 'the first tiles: the worker of tiles'],
  [
    'overlay-worker-text.generated.js',
    'GeoJSON laid over it: a worker that holds it, in its place where it is there from the start',
  ],
  [
    '/worker-text.generated.js',
    'expressions, scales, labels, and colours that are not written in hexadecimal: a worker that knows them, in place of that of tiles',
  ],
  ['sheet/value-tools.js', 'the same on the page; also a sheet that comes by its address: what reads such values'],
  [
    'overlay-values-worker-text.generated.js',
    'GeoJSON beside such values: a worker that holds it, in the place of those',
  ],
  [
    '/features-worker-text.generated.js',
    'features that are joined, edited, clustered, measured, classed, or in another format: a worker for all of that, in the place of those',
  ],
  ['labels/labels.js', 'labels: what places them'],
  ['gl/text-atlas.js', 'labels, texts of markers and counts of clusters: what sets them'],
  ['gl/figure-brush.js', 'marks, patterns, extrusions, and gradients or marks along lines: what draws them'],
  ['map/silent-texts.js', 'symbols that a sheet names, and what would draw nothing in silence'],
  ['load/open-features.js', 'features: what hands them to the worker'],
  ['overlay/popup-card.js', 'a popup, when it opens or the pointer comes to what has one'],
  ['map/framing.js', 'something that is to be framed'],
  ['map/class-breaks.js', 'class limits that are found in the data'],
  ['overlay/hint.js', 'how the map is moved, where the page has the wheel or the finger'],
  ['sheet/schemes.js', 'a colour scheme, by its name'],
  ['sheet/schemes-door.js', 'a colour scheme, by its name'],
  ['cql2/all-shape-functions.js', 'expressions that measure shapes or compare them'],
  ['crs/geodesic.js', 'the same, and a coordinate system that is built on distances'],
  ['overlay/legend-body.js', 'a legend'],
  ['input/popup-texts.js', 'popups that the sheet gives, when the pointer or the focus first comes to the map'],
  ['input/keyboard-list.js', 'the keyboard, when the map first has the focus: the list of what is in view'],
  ['map/geojson-places.js', 'GeoJSON that is to be framed'],
  ['formats/geojson/read.js', 'popups, framing and clusters: what reads GeoJSON on the page'],
  ['gl/heat.js', 'heat'],
  ['clusters/cluster-layer.js', 'points that come together: what draws them'],
  ['load/cluster-source.js', 'the same: what knows how they come together'],
  ['worker/unpack.js', 'tiles that are damaged, or packed in several parts'],
  ['base/gzip.js', 'archives that are damaged, or packed in several parts'],
  ['gl/surfaces.js', 'another surface than web Mercator or a plan, another coordinate system, another grid of tiles'],
  ['core/dist/crs/registry.js', 'the same, and a picture laid over corners'],
  ['load/images.js', 'image tiles, and pictures laid over a place'],
  ['load/picture.js', 'a picture laid over a place, and a web map service'],
  ['overlay/sanitize.js', 'a popup with HTML'],
  ['files/read-block.js', 'features in another format than GeoJSON or CSV'],
  ['file-worker-text.generated.js', 'the same: the worker that reads them'],
  ['sqlite.generated.js', 'a GeoPackage or MBTiles file'],
  ['register/table.generated.js', 'a coordinate system beyond the common ones'],
];
const pagePath = 'docs/guide/weight.md';
const rows = [];

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
let heavy = 0;
for (const { title, folder, code, only, most, with: along = [] } of entries) {
  if (!code) continue;
  const bundle = await rolldown({
    input: only ? 'app' : join(root, 'packages', folder, code),
    plugins: only ? [usesOnly(only, join(root, 'packages', folder, code))] : [],
    platform: 'browser',
    logLevel: 'silent',
  });
  const { output } = await bundle.generate({ format: 'es', minify: true });
  await bundle.close();
  const chunks = new Map(output.filter((file) => file.type === 'chunk').map((chunk) => [chunk.fileName, chunk]));
  const fetched = new Set();
  const fetch = (name) => {
    if (fetched.has(name)) return;
    fetched.add(name);
    chunks.get(name).imports.forEach(fetch);
  };
  fetch(output.find((file) => file.isEntry).fileName);
  // What is fetched in any case, though not by a plain import.
  for (const ending of along) {
    const found = [...chunks.values()].filter(({ moduleIds }) => moduleIds.some((id) => id.endsWith(ending)));
    if (!found.length) throw new Error(`${title} has no chunk with ${ending}`);
    found.forEach(({ fileName }) => fetch(fileName));
  }
  if (only) listChunks(chunks, fetched, along);
  const weigh = (names) => names.reduce((sum, name) => sum + gzipSync(chunks.get(name).code).length / 1000, 0);
  const weight = weigh([...fetched]);
  const later = weigh([...chunks.keys()].filter((name) => !fetched.has(name)));
  const over = weight > most;
  heavy += over;
  console.log(
    `${over ? '✗' : ' '} ${title}: ${weight.toFixed(1)} kB of at most ${most} kB${later ? `; ${later.toFixed(1)} kB more when asked for` : ''}`,
  );
}

/** An application that uses one thing of an entry. */
function usesOnly(name, entry) {
  return {
    name: 'app',
    resolveId: (id) => (id === 'app' ? id : null),
    load: (id) => (id === 'app' ? `import { ${name} } from ${JSON.stringify(entry)};\nconsole.log(${name});` : null),
  };
}

/** What a chunk is fetched for: its own occasion, or the first of those that it comes along with. */
function occasionOf(chunk, all, seen = new Set()) {
  const own = occasions.find(([ending]) => chunk.moduleIds.some((id) => id.endsWith(ending)));
  if (own || seen.has(chunk)) return own;
  seen.add(chunk);
  const among = all
    .filter(({ imports }) => imports.includes(chunk.fileName))
    .map((other) => occasionOf(other, all, seen));
  return occasions.find((occasion) => among.includes(occasion));
}

/** Takes down what is fetched when by a map. */
function listChunks(chunks, fetched, along) {
  const kb = (list) => list.reduce((sum, { code }) => sum + gzipSync(code).length / 1000, 0);
  const isAlong = ({ moduleIds }) => along.some((ending) => moduleIds.some((id) => id.endsWith(ending)));
  const all = [...chunks.values()];
  rows.push([
    "any map: `import { createMap } from 'flintwright'`",
    kb(all.filter((c) => fetched.has(c.fileName) && !isAlong(c))),
  ]);
  for (const chunk of all.filter((c) => !fetched.has(c.fileName) || isAlong(c))) {
    const known = occasionOf(chunk, all);
    if (!known) throw new Error(`scripts/sizes.mjs does not know what ${chunk.moduleIds.join(', ')} is fetched for`);
    const same = rows.find(([what]) => what === known[1]);
    if (same) same[1] += kb([chunk]);
    else rows.push([known[1], kb([chunk]), occasions.indexOf(known)]);
  }
  rows.sort((a, b) => (a[2] ?? -1) - (b[2] ?? -1));
}

const page = `# What is fetched when

A map pays for what it uses. Weights are kilobytes (1,000 bytes) as they go over the wire, minified and gzipped, with all that each part needs
and that is not there yet. \`npm run sizes -- --page\` makes this page out of the build, and \`npm run sizes\` holds the build to it.

| fetched by | kB |
| --- | ---: |
${rows.map(([what, kb]) => `| ${what} | ${kb.toFixed(0)} |`).join('\n')}

The entries \`flintwright/files\`, \`flintwright/draw\`, \`flintwright/search\` and \`flintwright/publish\` are fetched by a page that imports them;
so is \`flintwright/expressions\`, which brings what reads expressions, scales and colours by name with the page, and not when they come up. A page without a bundler loads \`flintwright.js\`, one file that holds what any map needs and every worker's text.
`;
if (process.argv.includes('--page')) writeFileSync(join(root, pagePath), page);
else {
  const figures = (text) =>
    [...text.matchAll(/^\| (.*?)\s*\|\s*(\d+) \|$/gm)].map(([, what, kb]) => [what, Number(kb)]);
  const [written, now] = [figures(readFileSync(join(root, pagePath), 'utf8')), figures(page)];
  const near = ([what, kb], i) => written[i]?.[0] === what && Math.abs(written[i][1] - kb) <= 1;
  if (written.length !== now.length || !now.every(near)) {
    heavy++;
    console.log(`✗ ${pagePath} is out of date; run npm run sizes -- --page`);
  }
}
process.exit(heavy ? 1 : 0);
