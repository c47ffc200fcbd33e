import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  parseCql2,
  readCql2Json,
  readSheet,
  readSld,
  writeCql2,
  writeSld,
  type Expression,
  type Sheet,
} from '@flintwright/core';
import { compileTree, selectFeatures } from '@flintwright/core/internal';
import { block, kinds, tonnages } from './sample-attributes.ts';

const kindIs = { property: 'kind' };

const tonnes = { property: 'tonnes' };

const text = fc.constantFrom(...kinds);

const number = fc.oneof(fc.constantFrom(...tonnages), fc.integer({ min: -9, max: 30 }));

const sum = fc.oneof(
  number,
  fc.constant(tonnes),
  fc.record({
    op: fc.constantFrom('+', '-', '*'),
    args: fc.tuple(fc.constantFrom(tonnes, { property: 'fee' }), number),
  }),
) as fc.Arbitrary<Expression>;

/** Conditions that Filter Encoding can say as well. */
const condition: fc.Arbitrary<Expression> = fc.letrec<{ any: Expression; leaf: Expression }>((tie) => ({
  leaf: fc.oneof(
    fc.record({ op: fc.constantFrom('=', '<>'), args: fc.tuple(fc.constant(kindIs), text) }),
    fc.record({ op: fc.constantFrom('=', '<>', '<', '<=', '>', '>='), args: fc.tuple(fc.constant(tonnes), sum) }),
    fc.record({
      op: fc.constant('between'),
      args: fc.tuple(fc.constant(tonnes), number, number),
    }),
    fc.record({
      op: fc.constant('in'),
      args: fc.tuple(fc.constant(kindIs), fc.uniqueArray(text, { minLength: 1, maxLength: 3 })),
    }),
    fc.record({
      op: fc.constant('like'),
      args: fc.tuple(fc.constant(kindIs), fc.constantFrom('%e%', 'f___y', 'a\\_b', '50 \\%', "O'%", '%')),
    }),
    fc.record({ op: fc.constant('isNull'), args: fc.tuple(fc.constantFrom(kindIs, tonnes)) }),
  ) as fc.Arbitrary<Expression>,
  any: fc.oneof(
    { maxDepth: 3, withCrossShrink: true },
    tie('leaf'),
    fc.record({
      op: fc.constantFrom('and', 'or'),
      args: fc.array(tie('any'), { minLength: 2, maxLength: 3 }),
    }),
    fc.record({ op: fc.constant('not'), args: fc.tuple(tie('any')) }),
  ) as fc.Arbitrary<Expression>,
})).any;

const holding = (tree: Expression) => {
  const evaluate = compileTree(tree).bind({ block, zoom: 10 });
  return [...Array(block.count).keys()].filter((f) => evaluate(f) === true);
};

describe('conditions', () => {
  test('mean the same written as text and as JSON, and read again', () => {
    fc.assert(
      fc.property(condition, (tree) => {
        const written = writeCql2(tree);
        const again = parseCql2(written);
        expect(holding(again)).toEqual(holding(tree));
        // What is written is written so again.
        expect(writeCql2(again)).toBe(written);
        expect(holding(readCql2Json(JSON.parse(JSON.stringify(tree))))).toEqual(holding(tree));
      }),
      { numRuns: 300, seed: 21 },
    );
  });

  test('hold or do not hold, as the three values of the standard have it', () => {
    // OGC 21-065r2, clause 6.3: what compares with nothing is neither true nor false, and its opposite is neither.
    fc.assert(
      fc.property(condition, (tree) => {
        const own = new Set(holding(tree));
        const opposite = holding({ op: 'not', args: [tree] });
        expect(opposite.some((f) => own.has(f))).toBe(false);
        const both = new Set([...own, ...opposite]);
        for (let f = 0; f < block.count; f++) {
          const { kind, tonnes: t } = properties(f);
          // Only features that lack an attribute may be left over.
          if (kind !== undefined && t !== undefined) expect(both.has(f)).toBe(true);
        }
      }),
      { numRuns: 200, seed: 22 },
    );
  });

  test('select the same features after a journey through a style document', () => {
    fc.assert(
      fc.property(condition, (tree) => {
        const sheet = layered({ where: writeCql2(tree), fill: '#336699' });
        const { sld, lost } = writeSld(readSheet(sheet));
        expect(lost).toEqual([]);
        const back = readSld(sld);
        expect(back.lost).toEqual([]);
        const layers = readSheet(withAddress(back.sheet)).layers;
        const drawn = new Set(layers.flatMap((layer) => [...drawnBy(layer)]));
        expect([...drawn].sort((a, b) => a - b)).toEqual(holding(tree));
      }),
      { numRuns: 150, seed: 23 },
    );
  });
});

function properties(f: number): { kind?: string; tonnes?: number } {
  const [i, k] = [Math.floor(block.ids[f] / 100), block.ids[f] % 100];
  return { ...(i ? { kind: kinds[i - 1] } : {}), ...(k ? { tonnes: tonnages[k - 1] } : {}) };
}

const layered = (layer: object): Sheet =>
  ({ sheet: 1, data: { beds: { features: 'beds.geojson' } }, layers: [{ id: 'l', of: 'beds', ...layer }] }) as Sheet;

/** A sheet that was read from a style names its data and does not know where they are. */
const withAddress = (sheet: Sheet): Sheet => ({
  ...sheet,
  data: Object.fromEntries(Object.keys(sheet.data ?? {}).map((name) => [name, { features: 'beds.geojson' }])),
});

/** Features that a layer draws, by its filter and those of its rules. */
function drawnBy(layer: ReturnType<typeof readSheet>['layers'][number]): number[] {
  const where = layer.where?.bind({ block, zoom: 10 });
  const rules = layer.rules.map((rule) => rule.where?.bind({ block, zoom: 10 }));
  return [...selectFeatures(layer, block)].filter(
    (f) => (!where || where(f) === true) && rules.some((rule) => !rule || rule(f) === true),
  );
}
