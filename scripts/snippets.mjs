// Compiles every TypeScript snippet of the README and the docs against the packed packages, in strict mode, with our TypeScript and the
// newest one: npm run snippets
import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join, relative } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const home = mkdtempSync(join(tmpdir(), 'snippets-'));
const modules = join(home, 'node_modules');
mkdirSync(join(modules, '@flintwright'), { recursive: true });

// The packages as they would be published, unpacked; what they use is that of this repository.
for (const [name, at] of [
  ['core', '@flintwright/core'],
  ['flintwright', 'flintwright'],
]) {
  const [{ filename }] = JSON.parse(
    execFileSync('npm', ['pack', '--json', '--pack-destination', home], {
      cwd: join(root, 'packages', name),
      encoding: 'utf8',
      stdio: ['ignore', 'pipe', 'ignore'],
    }),
  );
  mkdirSync(join(modules, at), { recursive: true });
  execFileSync('tar', ['xzf', join(home, filename), '-C', join(modules, at), '--strip-components=1']);
}
for (const name of readdirSync(join(root, 'node_modules')))
  // The framework of a snippet is made below; a link would have it written into this repository's own.
  if (!name.startsWith('.') && !['@flintwright', 'flintwright', '@types', 'react'].includes(name))
    symlinkSync(join(root, 'node_modules', name), join(modules, name));

const markdown = [
  'README.md',
  ...readdirSync(join(root, 'docs'), { recursive: true }).map((file) => join('docs', file)),
]
  .filter(
    (file) =>
      file.endsWith('.md') && !file.startsWith(join('docs', 'reference')) && !file.startsWith(join('docs', 'api')),
  )
  .sort();
// Components are compiled with the real framework, in a folder of their own.
const components = join(home, 'components');
mkdirSync(join(components, 'node_modules/@types'), { recursive: true });
for (const name of ['react', 'react-dom', '@types/react', '@types/react-dom'])
  symlinkSync(join(root, 'node_modules', name), join(components, 'node_modules', name));
const written = [];
for (const file of markdown) {
  const text = readFileSync(join(root, file), 'utf8');
  for (const { 1: kind, 2: code, index } of text.matchAll(/^```(tsx?)\n([\s\S]*?)^```/gm)) {
    const line = text.slice(0, index).split('\n').length;
    const name = `${file.replace(/\W+/g, '-')}-${line}.${kind}`;
    writeFileSync(join(kind === 'tsx' ? components : home, name), `${code}\nexport {};\n`);
    written.push([name, `${file}, line ${line}`]);
  }
}
// The surroundings of snippets: an application's own things, and those of a snippet above.
writeFileSync(
  join(home, 'given.d.ts'),
  `import type * as Flintwright from 'flintwright';
import type * as Core from '@flintwright/core';
import 'react';
declare global {
  const map: Flintwright.FlintMap;
  const other: Flintwright.FlintMap;
  const panel: HTMLElement;
  const own: HTMLElement;
  const sheet: Flintwright.Sheet;
  const otherSheet: Flintwright.Sheet;
  const features: object[];
  const wktText: string;
  const out: [number, number];
  const createMap: typeof Flintwright.createMap;
  const forHost: typeof Flintwright.forHost;
  const syncViews: typeof Flintwright.syncViews;
  const Position: typeof Flintwright.Position;
  const getCrs: typeof Core.getCrs;
  const readWmts: typeof Core.readWmts;
  function save(at: readonly [number, number]): void;
  function card(properties: object): string;
  interface ImportMeta { readonly env: Record<string, string> }
}
`,
);
// A framework with a namespace of its own for elements, as the snippet on JSX has it.
mkdirSync(join(modules, 'react'), { recursive: true });
writeFileSync(join(modules, 'react/package.json'), JSON.stringify({ name: 'react', types: 'index.d.ts' }));
writeFileSync(
  join(modules, 'react/index.d.ts'),
  'export declare const version: string;\nexport declare namespace JSX { interface IntrinsicElements { div: object } }\n',
);
const config = {
  compilerOptions: {
    target: 'ES2022',
    module: 'ESNext',
    moduleResolution: 'Bundler',
    lib: ['ES2023', 'DOM', 'DOM.Iterable'],
    strict: true,
    exactOptionalPropertyTypes: true,
    noEmit: true,
    types: [],
    skipLibCheck: false,
  },
  include: ['*.ts'],
};
writeFileSync(join(home, 'tsconfig.json'), JSON.stringify(config));
writeFileSync(
  join(components, 'tsconfig.json'),
  JSON.stringify({ compilerOptions: { ...config.compilerOptions, jsx: 'react-jsx' }, include: ['*.tsx'] }),
);
let failed = false;
for (const compiler of ['typescript', 'typescript-native']) {
  const tsc = join(root, 'node_modules', compiler, 'bin/tsc');
  const version = execFileSync(process.execPath, [tsc, '--version'], { encoding: 'utf8' }).trim();
  try {
    for (const project of [home, components])
      execFileSync(process.execPath, [tsc, '-p', project], { encoding: 'utf8', stdio: 'pipe' });
    console.log(`${written.length} snippets compile (${version})`);
  } catch (error) {
    failed = true;
    let said = String(error.stdout);
    for (const [name, place] of written) said = said.replaceAll(name, place);
    console.error(`${version}:\n${said.replaceAll(`${relative(process.cwd(), home)}/`, '')}`);
  }
}
rmSync(home, { recursive: true });
process.exit(failed ? 1 : 0);
