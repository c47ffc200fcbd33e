// Bundles the workers, each into one file and into a module that holds its text: the map starts them from a Blob unless the
// application serves the file itself (option `worker`, for pages with a strict content security policy). The plain worker knows
// web Mercator and plans, the other every surface; the file that is served is the latter.
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { join, relative, resolve } from 'node:path';
import { rolldown } from 'rolldown';

/** Writes a generated source, unless it is the same already: a watcher would reload without need. */
function writeSource(file, text) {
  if (!existsSync(file) || readFileSync(file, 'utf8') !== text) writeFileSync(file, text);
}

export async function buildWorker(root) {
  const home = join(root, 'packages/flintwright');
  mkdirSync(join(home, 'dist'), { recursive: true });
  for (const [entry, name, what] of [
    ['worker-plain', 'plainWorkerText', 'The worker of tiles for plain sheets, bundled.'],
    ['worker-overlay', 'overlayWorkerText', 'The worker of tiles and GeoJSON for plain sheets, bundled.'],
    ['worker-overlay-values', 'overlayValuesWorkerText', 'The worker of tiles and GeoJSON, bundled.'],
    ['worker', 'workerText', 'The worker of tiles, bundled.'],
    ['worker-features', 'featuresWorkerText', 'The worker of tiles and features, bundled.'],
    ['worker-surfaces', 'surfacesWorkerText', 'The worker that knows every surface, bundled.'],
  ]) {
    const bundle = await rolldown({
      input: join(home, `src/worker/${entry}.ts`),
      platform: 'browser',
      logLevel: 'warn',
    });
    const { output } = await bundle.generate({ format: 'iife', minify: true });
    await bundle.close();
    // The table reader carries the source of a worker of its own, which is never started here; its `global` makes checkers of
    // packages take this file for CommonJS.
    const code = output[0].code.trim().replaceAll('global.IS_PAPA_WORKER', 'self.IS_PAPA_WORKER');
    const file = `${entry.replace(/^worker-?(.*)$/, (_, kind) => (kind ? `${kind}-worker` : 'worker'))}-text`;
    writeSource(
      join(home, `src/worker/${file}.generated.ts`),
      `/** ${what} */\nexport const ${name}: string = ${JSON.stringify(code)};\n`,
    );
    if (entry === 'worker-surfaces') writeFileSync(join(home, 'dist/worker.bundle.js'), code);
  }
  await buildFileWorker(home);
  await buildTileWorker(home);
}

/** Bundles the worker that cuts tiles. */
async function buildTileWorker(home) {
  const bundle = await rolldown({
    input: join(home, 'src/publish/tile-worker.ts'),
    platform: 'browser',
    logLevel: 'warn',
  });
  const { output } = await bundle.generate({ format: 'iife', minify: true });
  await bundle.close();
  const code = output[0].code.trim().replaceAll('global.IS_PAPA_WORKER', 'self.IS_PAPA_WORKER');
  writeSource(
    join(home, 'src/publish/tile-worker-text.generated.ts'),
    `/** The worker that cuts tiles, bundled. */\nexport const tileWorkerText: string = ${JSON.stringify(code)};\n`,
  );
}

/** Bundles the worker that reads files; the register and the database engine are handed to it when it asks. */
async function buildFileWorker(home) {
  const bundle = await rolldown({
    input: join(home, 'src/files/file-worker.ts'),
    platform: 'browser',
    logLevel: 'warn',
    external: [/table\.generated/, /^#sqlite-engine$/],
  });
  const { output } = await bundle.generate({ format: 'iife', minify: true, codeSplitting: false });
  await bundle.close();
  const code = output[0].code.trim().replaceAll('global.IS_PAPA_WORKER', 'self.IS_PAPA_WORKER');
  writeSource(
    join(home, 'src/files/file-worker-text.generated.ts'),
    `/** The worker that reads files, bundled. */\nexport const fileWorkerText: string = ${JSON.stringify(code)};\n`,
  );
  const wasm = readFileSync(createRequire(import.meta.url).resolve('sql.js/dist/sql-wasm-browser.wasm'));
  writeSource(
    join(home, 'src/files/sqlite.generated.ts'),
    `/** The database engine (SQLite, public domain, as sql.js builds it, MIT). */\nexport const sqliteBase64: string = '${wasm.toString('base64')}';\n`,
  );
}

/** What is fetched only when a file comes: data in modules of their own, which stand beside the whole library. */
const apart = [
  {
    ending: 'file-worker-text.generated.js',
    from: 'dist/files/file-worker-text.generated.js',
    to: 'flintwright-reader.js',
  },
  { ending: 'sqlite.generated.js', from: 'dist/files/sqlite.generated.js', to: 'flintwright-sqlite.js' },
  {
    ending: '@flintwright/core/register',
    inside: './table.generated.js',
    from: '../core/dist/crs/register/table.generated.js',
    to: 'flintwright-register.js',
  },
  { ending: '@flintwright/core/places', bundle: '../core/dist/places.js', to: 'flintwright-places.js' },
];

/** Searching and drawing, each as one module that a page loads beside the whole library. */
const beside = [
  { from: 'dist/search/search-box.js', to: 'flintwright-search.js' },
  { from: 'dist/draw/draw-bar.js', to: 'flintwright-draw.js' },
];

/** Bundles into one module; what stands apart is left to be fetched. */
async function buildOne(input, file) {
  const bundle = await rolldown({ input, platform: 'browser', logLevel: 'warn', plugins: [leaveApart] });
  const { output } = await bundle.generate({ format: 'esm', minify: true, codeSplitting: false });
  await bundle.close();
  writeFileSync(file, output[0].code);
}

const leaveApart = {
  name: 'apart',
  resolveId: (id, importer) => {
    const other = importer && apart.find(({ ending, inside = ending }) => id.endsWith(ending) || id.endsWith(inside));
    return other ? { id: `./${other.to}`, external: true } : null;
  },
};

/** The path of a source beside the installed package, from its folder `dist`. */
const installedPath = (path) =>
  path
    .replaceAll('\\', '/')
    .replace(/^packages\/flintwright\//, '../')
    .replace(/^packages\/core\//, '../../@flintwright/core/')
    .replace(/^node_modules\//, '../../');

/** Bundles the whole library, elements and workers included, into one module that a page loads without any tool. */
export async function buildWhole(root) {
  const home = join(root, 'packages/flintwright');
  const doors = ['index.js', 'element/flint-map.js', 'controls/drop-zone.js']
    .map((door) => `export * from './${door}';\n`)
    .concat("import './base/expressions.js';\n")
    .join('');
  const entry = join(home, 'dist/whole.js');
  const bundle = await rolldown({
    input: entry,
    platform: 'browser',
    logLevel: 'warn',
    plugins: [
      {
        name: 'doors',
        resolveId: (id) => {
          const other = apart.find(({ ending }) => id.endsWith(ending));
          if (other) return { id: `./${other.to}`, external: true };
          return id === entry ? id : null;
        },
        load: (id) => {
          if (id === entry) return doors;
          // One worker that knows all serves for every kind.
          const kind = /\/(?:(plain|overlay|overlay-values|features)-)?worker-text\.generated\.js$/.exec(id);
          const name = `${kind?.[1] ?? ''}WorkerText`.replace(/^W/, 'w').replace('-v', 'V');
          if (kind) return `export { surfacesWorkerText as ${name} } from './surfaces-worker-text.generated.js';`;
          // The compiler's own map leads on to the source.
          return existsSync(`${id}.map`)
            ? { code: readFileSync(id, 'utf8'), map: readFileSync(`${id}.map`, 'utf8') }
            : null;
        },
      },
    ],
  });
  const { output } = await bundle.generate({ format: 'esm', minify: true, codeSplitting: false, sourcemap: true });
  await bundle.close();
  const [{ code, map }] = output;
  if (output.filter(({ type }) => type === 'chunk').length !== 1)
    throw new Error('the whole library came as more than one file');
  // Our sources are in the packages: the map names them and does not repeat them. Those of dependencies may differ where the package is installed.
  const paths = map.sources.map((source) => installedPath(relative(root, resolve('dist', source))));
  const isOurs = (path) => path.startsWith('../src/') || path.startsWith('../../@flintwright/');
  const named = {
    ...map,
    sources: paths,
    sourcesContent: map.sourcesContent.map((text, index) => (isOurs(paths[index]) ? null : text)),
  };
  writeFileSync(
    join(home, 'dist/flintwright.js'),
    code.replace(/^\/\/# sourceMappingURL=.*$/m, '//# sourceMappingURL=flintwright.js.map'),
  );
  writeFileSync(join(home, 'dist/flintwright.js.map'), JSON.stringify(named));
  writeFileSync(join(home, 'dist/flintwright.d.ts'), doors.replace(/^import .*\n/m, ''));
  for (const { from, bundle: whole, to } of apart)
    if (whole) await buildOne(join(home, whole), join(home, 'dist', to));
    else
      writeFileSync(
        join(home, 'dist', to),
        readFileSync(join(home, from), 'utf8').replace(/^\/\/# sourceMappingURL=.*$/m, ''),
      );
  for (const { from, to } of beside) await buildOne(join(home, from), join(home, 'dist', to));
}
