// Builds everything: the grammar and the validator (generated), the packages (tsc), the worker (one file).
import { execFileSync } from 'node:child_process';
import { copyFileSync, existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import Ajv from 'ajv/dist/2020.js';
import standalone from 'ajv/dist/standalone/index.js';
import peggy from 'peggy';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const core = join(root, 'packages/core');
const tsc = createRequire(import.meta.url).resolve('typescript/bin/tsc');
const generatedOnly = process.argv.includes('--generated');

const grammar = join(core, 'src/cql2/grammar');
writeFileSync(
  `${grammar}.js`,
  peggy.generate(readFileSync(`${grammar}.peggy`, 'utf8'), { output: 'source', format: 'es' }),
);

const schemaFile = join(core, 'src/sheet/sheet.schema.json');
const schema = JSON.parse(readFileSync(schemaFile, 'utf8'));
const ajv = new Ajv.default({
  allErrors: true,
  verbose: true,
  inlineRefs: false,
  strictTypes: false,
  strictRequired: false,
  validateFormats: false,
  code: { source: true, esm: true, optimize: 2 },
});
const code = standalone.default(ajv, {
  validate: Object.assign(schema, { $id: 'sheet' }) && 'sheet',
  ...(ajv.addSchema(schema), {}),
});
if (code.includes('require(')) throw new Error('the validator needs a module at run time; simplify the schema');
// The schema's descriptions serve readers, not the validator.
writeFileSync(join(core, 'src/sheet/validator.js'), code.replace(/"description":"(?:[^"\\]|\\.)*",?/g, ''));
await import('./fonts.mjs');
(await import('./register.mjs')).writeRegister();
if (generatedOnly) process.exit(0);

const types = (project) => execFileSync(process.execPath, [tsc, '-b', join(root, project)], { stdio: 'inherit' });
types('packages/core');
mkdirSync(join(core, 'dist/cql2'), { recursive: true });
copyFileSync(schemaFile, join(core, 'dist/sheet/sheet.schema.json'));
if (existsSync(join(root, 'packages/flintwright/src/worker/worker.ts'))) {
  const { buildWhole, buildWorker } = await import('./worker.mjs');
  await buildWorker(root);
  types('packages/flintwright');
  await buildWhole(root);
}
types('packages/cli');
types('demo');
