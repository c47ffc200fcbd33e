// Weighs each published entry as a page would fetch it, and fails when one weighs more than it may, or when the guide's page on bundle
// sizes is out of date: npm run sizes (-- --page writes that page)
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { readFileSync, writeFileSync } from 'node:fs';
import { gzipSync } from 'node:zlib';
import { rolldown } from 'rolldown';
import { entries } from './entries.mjs';

/** What a chunk is fetched for, by a module in it. */
const occasions = [
  ['plain-worker-text.generated.js', 'the first tiles: the worker of tiles'],
  ['overlay-worker-text.generated.js', 'GeoJSON: its worker, instead of that of tiles if both are in the first sheet'],
  [
    '/worker-text.generated.js',
    'expressions, scales, labels and colors that are not hexadecimal: their worker, instead of that of tiles',
  ],
  ['sheet/value-tools.js', 'the same, or a sheet from a URL: parsers on the main thread'],
  ['overlay-values-worker-text.generated.js', 'GeoJSON and such values: one worker instead of both'],
  [
    '/features-worker-text.generated.js',
    'features that are joined, edited, clustered, measured or classified, or in another format: one worker instead of all',
  ],
  ['labels/labels.js', 'labels: placement'],
  ['gl/text-atlas.js', 'labels, texts of markers and counts of clusters: glyphs'],
  ['gl/figure-brush.js', 'marks, patterns, extrusions, gradients and marks along lines: rendering'],
  ['map/silent-texts.js', 'warnings about layers that draw nothing'],
  ['load/open-features.js', 'features: transfer to the worker'],
  ['overlay/popup-card.js', 'the first popup, or the first hover over a feature that has one'],
  ['map/framing.js', 'map.frame'],
  ['map/class-breaks.js', 'class breaks that are computed from the data'],
  ['overlay/hint.js', 'the hint on gestures of a map with shared scrolling'],
  ['sheet/schemes.js', 'a named color scheme'],
  ['sheet/schemes-door.js', 'a named color scheme'],
  ['cql2/all-shape-functions.js', 'expressions with areas, lengths or spatial predicates'],
  ['crs/geodesic.js', 'the same, or a coordinate system based on geodesics'],
  ['overlay/legend-body.js', 'a legend'],
  ['input/popup-texts.js', 'popups of the sheet, on the first pointer or focus event'],
  ['input/keyboard-list.js', 'keyboard navigation of features, on the first focus'],
  ['map/geojson-places.js', 'map.frame with GeoJSON'],
  ['formats/geojson/read.js', 'GeoJSON parser on the main thread, for popups, map.frame and clusters'],
  ['gl/heat.js', 'heat'],
  ['clusters/cluster-layer.js', 'clusters: rendering'],
  ['load/cluster-source.js', 'clusters: index'],
  ['worker/unpack.js', 'tiles that are damaged, or gzipped in several members'],
  ['base/gzip.js', 'archives that are damaged, or gzipped in several members'],
  ['gl/surfaces.js', 'surfaces except Web Mercator and plans, other coordinate systems, other tile grids'],
  ['core/dist/crs/registry.js', 'the same, or a picture with corners'],
  ['load/images.js', 'raster tiles and single pictures'],
  ['load/picture.js', 'single pictures and Web Map Services'],
  ['overlay/sanitize.js', 'a popup with HTML'],
  ['files/read-block.js', 'features in another format than GeoJSON or CSV'],
  ['file-worker-text.generated.js', 'the same: worker with the readers'],
  ['sqlite.generated.js', 'a GeoPackage or MBTiles file'],
  ['register/table.generated.js', 'a coordinate system from the register'],
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

const page = `# Bundle sizes

A page loads only the code that its map uses. Also called: code splitting, lazy loading, payload.

\`\`\`ts
import { createMap } from 'flintwright'; // the first row of the table; the rest is loaded when it is needed
\`\`\`

Sizes are in kB (1,000 bytes), minified and gzipped. Each row counts only code that the rows above have not loaded.

| loaded for | kB |
| --- | ---: |
${rows.map(([what, kb]) => `| ${what} | ${kb.toFixed(0)} |`).join('\n')}

- \`flintwright/files\`, \`flintwright/draw\`, \`flintwright/search\` and \`flintwright/publish\` are loaded by pages that import them.
- \`flintwright/expressions\` loads the parsers of expressions, scales and named colors with the page.
- \`flintwright.js\`, for pages without a bundler, contains all of it in one file.

\`npm run sizes -- --page\` generates this page from the build, and \`npm run sizes\` fails if it is out of date.
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
