// What a page fetches for the ten-line map of the README, minified and gzipped.
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { rolldown } from 'rolldown';
import { root } from '../measure.mjs';

export async function figures() {
  const bundle = await rolldown({
    input: 'app',
    plugins: [
      {
        name: 'app',
        resolveId: (id) => (id === 'app' ? id : null),
        load: (id) =>
          id === 'app'
            ? `import { createMap } from ${JSON.stringify(join(root, 'packages/flintwright/dist/index.js'))};
               const map = createMap('#map', {}); map.markers.add({ at: [0, 0] });`
            : null,
      },
    ],
    logLevel: 'silent',
  });
  const { output } = await bundle.generate({ format: 'es', minify: true });
  await bundle.close();
  const chunks = new Map(output.map((chunk) => [chunk.fileName, chunk]));
  const fetched = new Set();
  const fetch = (name) => {
    if (fetched.has(name)) return;
    fetched.add(name);
    chunks.get(name).imports.forEach(fetch);
  };
  fetch(output.find(({ isEntry }) => isEntry).fileName);
  const weigh = (names) =>
    names.reduce((sum, name) => sum + gzipSync(chunks.get(name).code, { level: 9 }).length / 1000, 0);
  const page = weigh([...fetched]);
  // The worker's text comes along in a chunk of its own, or lies within the page's.
  for (const { fileName, moduleIds } of output)
    if (moduleIds.some((id) => /[/]worker-text\.generated\.js$/.test(id))) fetch(fileName);
  const all = weigh([...fetched]);
  return [
    {
      name: 'first load of the ten-line map',
      value: all,
      unit: 'kB',
      target: 100,
      limit: 150,
      detail: `gzip; ${page.toFixed(1)} kB before the worker of tiles`,
    },
  ];
}
