// Builds everything: the sheet's schema without its words (generated), the packages (tsc), the worker (one file).
import { execFileSync } from 'node:child_process';
import { copyFileSync, existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const core = join(root, 'packages/core');
// The native compiler: it builds in a tenth of the time, and the same code.
const tsc = join(root, 'node_modules/typescript-native/bin/tsc');
const generatedOnly = process.argv.includes('--generated');

// The schema's descriptions serve readers, not the check of a sheet; and it may say only what the check understands.
const schemaFile = join(core, 'src/sheet/sheet.schema.json');
const known = new Set(
  '$ref $defs type enum const if then else anyOf required properties additionalProperties items'.split(' '),
);
for (const bound of ['minItems', 'maxItems', 'minimum', 'maximum', 'exclusiveMinimum']) known.add(bound);
const notes = new Set(['$schema', '$id', 'title', 'description']);
const bare = (schema) => {
  if (typeof schema !== 'object') return schema;
  const out = {};
  for (const [key, value] of Object.entries(schema)) {
    if (notes.has(key)) continue;
    if (!known.has(key)) throw new Error(`packages/core/src/sheet/form.ts does not know the keyword "${key}"`);
    if (key === 'properties' || key === '$defs')
      out[key] = Object.fromEntries(Object.entries(value).map(([name, one]) => [name, bare(one)]));
    else if (key === 'anyOf') out[key] = value.map(bare);
    else out[key] = ['if', 'then', 'else', 'items', 'additionalProperties'].includes(key) ? bare(value) : value;
  }
  return out;
};
writeFileSync(
  join(core, 'src/sheet/schema.generated.ts'),
  `// Made from sheet.schema.json by scripts/build.mjs.
import type { FormSchema } from './form.js';

export const sheetSchema: FormSchema = ${JSON.stringify(bare(JSON.parse(readFileSync(schemaFile, 'utf8'))))};
`,
);
await import('./fonts.mjs');
(await import('./register.mjs')).writeRegister();
if (generatedOnly) process.exit(0);

const types = (project) => execFileSync(process.execPath, [tsc, '-b', join(root, project)], { stdio: 'inherit' });
/** Takes comments and indentation out of the shaders, which are texts that every map is sent; their lines stay where they are. */
function thinShaders(folder) {
  for (const name of readdirSync(folder).filter((name) => name.endsWith('.js'))) {
    const text = readFileSync(join(folder, name), 'utf8');
    const thin = text.replace(/^[ \t]+/gm, '').replace(/(?:^|[ \t]+)\/\/(?!#).*$/gm, '');
    if (thin !== text) writeFileSync(join(folder, name), thin);
  }
}
types('packages/core');
copyFileSync(schemaFile, join(core, 'dist/sheet/sheet.schema.json'));
if (existsSync(join(root, 'packages/flintwright/src/worker/worker.ts'))) {
  const { buildWhole, buildWorker } = await import('./worker.mjs');
  await buildWorker(root);
  types('packages/flintwright');
  thinShaders(join(root, 'packages/flintwright/dist/gl/shaders'));
  await buildWhole(root);
}
types('packages/cli');
types('demo');
