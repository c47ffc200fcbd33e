// Writes the generated sources: the schema of sheets without its descriptions, the register of coordinate systems, the fonts of the examples.
import { existsSync, readFileSync, statSync } from 'node:fs';
import { writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { rolldown } from 'rolldown';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const core = join(root, 'packages/core');
const sqlJs = join(root, 'node_modules/sql.js/dist/sql-wasm-inline.js');
export const schemaFile = join(core, 'src/sheet/sheet.schema.json');

// The descriptions serve readers, not validation. A keyword that the validator does not know is an error.
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

async function writeSchema() {
  await writeFile(
    join(core, 'src/sheet/schema.generated.ts'),
    `// Made from sheet.schema.json by scripts/build.mjs.
  import type { FormSchema } from './form.js';
  
  export const sheetSchema: FormSchema = ${JSON.stringify(bare(JSON.parse(readFileSync(schemaFile, 'utf8'))))};
  `,
  );
}

/** SQLite for pages: one module with the engine in it, so that no package with 30 MB of other builds is installed for it. */
async function writeSqlite() {
  const bundle = await rolldown({ input: sqlJs, platform: 'browser', logLevel: 'silent' });
  const { output } = await bundle.generate({ format: 'esm', minify: true });
  await bundle.close();
  const notice = '// SQLite (public domain), as sql.js (MIT) builds it; bundled by scripts/generated.mjs.';
  await writeFile(
    join(core, 'src/formats/geopackage/sql-engine.generated.ts'),
    `// @ts-nocheck\n${notice}\n${output[0].code}`,
  );
}

/** Generated sources, what each is made from, and the function that writes it. */
const generated = [
  { file: join(core, 'src/sheet/schema.generated.ts'), from: [schemaFile], write: writeSchema },
  {
    file: join(core, 'src/crs/register/table.generated.ts'),
    from: ['scripts/register.mjs', 'node_modules/epsg-index/package.json'].map((name) => join(root, name)),
    write: async () => (await import('./register.mjs')).writeRegister(),
  },
  { file: join(core, 'src/formats/geopackage/sql-engine.generated.ts'), from: [sqlJs], write: writeSqlite },
];

/**
 * Writes the generated sources that are missing, or older than what they are made from.
 *
 * @param all whether to write all of them, and the fonts of the examples
 */
export async function makeGenerated({ all = false } = {}) {
  const time = (file) => (existsSync(file) ? statSync(file).mtimeMs : Number.NEGATIVE_INFINITY);
  for (const { file, from, write } of generated)
    if (all || from.some((source) => time(source) > time(file))) await write();
  if (all) await import('./fonts.mjs');
}
