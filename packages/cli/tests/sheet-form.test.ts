// The form of sheets: the small interpreter of the schema against a full validator of the same standard.
import { readdirSync, readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { describe, expect, test } from '@jest/globals';
import { Ajv2020 } from 'ajv/dist/2020.js';
import { formErrors } from '../../core/src/sheet/form.js';
import { sheetSchema } from '../../core/src/sheet/schema.generated.js';
import { randomFrom } from '../../core/tests/sample-random.ts';

const demo = fileURLToPath(new URL('../../../demo/data/', import.meta.url));
const schemaFile = new URL('../../core/src/sheet/sheet.schema.json', import.meta.url);
const schema = JSON.parse(readFileSync(schemaFile, 'utf8')) as object;
const ajv = new Ajv2020({ allErrors: true, strict: false, validateFormats: false });
const validate = ajv.compile(schema);

/** What a value does not fit, as the full validator says it. */
const theirs = (sheet: unknown): string[] => {
  validate(sheet);
  return (validate.errors ?? [])
    .filter(({ keyword }) => keyword !== 'if')
    .map(({ keyword, instancePath, params }) => {
      const { additionalProperty, missingProperty } = params as Record<string, string | undefined>;
      return `${instancePath} ${keyword} ${additionalProperty ?? missingProperty ?? ''}`;
    })
    .toSorted();
};
const ours = (sheet: unknown): string[] =>
  formErrors(sheetSchema, sheet)
    .map(({ keyword, path, key = '' }) => {
      const place = path.map((step) => `/${String(step).replaceAll('~', '~0').replaceAll('/', '~1')}`).join('');
      return `${place} ${keyword} ${key}`;
    })
    .toSorted();

const sheets = readdirSync(demo)
  .filter((name) => name.endsWith('.sheet.json'))
  .map((name) => [name, JSON.parse(readFileSync(demo + name, 'utf8')) as object] as const);

describe('the form of a sheet', () => {
  test.each(sheets)('%s is sound', (_, sheet) => {
    expect(ours(sheet)).toEqual([]);
  });

  test('what does not fit is what a full validator finds, in sheets changed by chance', () => {
    const random = randomFrom(17);
    const odd: readonly unknown[] = [null, '', 'none', -1, 1e9, true, [], {}, [1, 'a', null], { by: 'x' }, { is: 3 }];
    const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)];
    /** Changes a place of a value: takes a key away, adds one, or puts something odd there. */
    const spoil = (node: unknown): unknown => {
      if (typeof node !== 'object' || node === null || random() < 0.12) return pick(odd);
      if (Array.isArray(node)) {
        if (!node.length || random() < 0.1) return [...(node as unknown[]), pick(odd)];
        const at = Math.floor(random() * node.length);
        return (node as unknown[]).map((one, i) => (i === at ? spoil(one) : one));
      }
      const keys = Object.keys(node);
      const way = random();
      if (way < 0.1 || !keys.length) return { ...node, [pick(['colr', 'constructor', '__proto__x', 'a/b~c'])]: 1 };
      const key = pick(keys);
      const { [key]: own, ...rest } = node as Record<string, unknown>;
      return way < 0.2 ? rest : { ...node, [key]: spoil(own) };
    };
    let wrong = 0;
    for (let k = 0; k < 3000; k++) {
      let sheet: unknown = pick(sheets)[1];
      for (let m = 0; m < 1 + random() * 3; m++) sheet = spoil(sheet);
      const found = theirs(sheet);
      wrong += found.length ? 1 : 0;
      expect(ours(sheet)).toEqual(found);
    }
    expect(wrong).toBeGreaterThan(1500);
  });
});
