import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { readSheet, readSld, writeSld, type Sheet } from '@flintwright/core';
import { Portrayer, stepOf } from '@flintwright/core/internal';
import { block } from './sample-attributes.ts';

const layered = (layer: object): Sheet =>
  ({ sheet: 1, data: { beds: { features: 'beds.geojson' } }, layers: [{ id: 'l', of: 'beds', ...layer }] }) as Sheet;

/** A sheet that was read from a style names its data and does not know where they are. */
const withAddress = (sheet: Sheet): Sheet => ({
  ...sheet,
  data: Object.fromEntries(Object.keys(sheet.data ?? {}).map((name) => [name, { features: 'beds.geojson' }])),
});

const color = fc
  .tuple(fc.nat(255), fc.nat(255), fc.nat(255))
  .map((rgb) => `#${rgb.map((v) => v.toString(16).padStart(2, '0')).join('')}`);

const scaleOf = <T>(value: fc.Arbitrary<T>, isColor: boolean) =>
  fc.oneof(
    value,
    fc.record({
      by: fc.constant('tonnes'),
      classes: fc.record({ breaks: fc.constant([0, 5, 20]), values: fc.array(value, { minLength: 4, maxLength: 4 }) }),
      other: value,
    }),
    fc.record({
      by: fc.constant('kind'),
      categories: fc.record({ ferry: value, "O'Hara's": value, 'low & <wide>': value }),
      other: value,
    }),
    fc.record({
      by: fc.constant('fee'),
      ramp: fc.tuple(value, value, value).map(([a, b, c]) => [
        [0, a],
        [6, b],
        [16, c],
      ]),
      ...(isColor ? { space: fc.constant('rgb') } : {}),
      other: value,
    }),
  );

const share = fc.constantFrom(0.25, 0.5, 0.75, 1);

const symbols = fc.record(
  {
    fill: fc.record({ color: scaleOf(color, true), opacity: scaleOf(share, false) }),
    stroke: fc.array(
      fc.record({
        color: scaleOf(color, true),
        width: scaleOf(fc.integer({ min: 1, max: 9 }), false),
        opacity: share,
        cap: fc.constantFrom('butt', 'round', 'square'),
        join: fc.constantFrom('round', 'bevel', 'miter'),
      }),
      { minLength: 1, maxLength: 2 },
    ),
    mark: fc.record({
      shape: fc.constantFrom('circle', 'square', 'triangle', 'star', 'cross'),
      color: scaleOf(color, true),
      size: scaleOf(fc.integer({ min: 3, max: 30 }), false),
      opacity: share,
    }),
  },
  { requiredKeys: ['fill'] },
);

/** The appearance rows of all features, as the map would draw them. */
function rowsOf(sheet: Sheet): Float32Array {
  const [layer] = readSheet(sheet).layers;
  const all = Uint32Array.from({ length: block.count }, (_, f) => f);
  return new Portrayer(layer, block, stepOf(layer, 10), () => 3).rows(all);
}

describe('looks', () => {
  test('are the same after a journey through a style document, whatever they go by', () => {
    fc.assert(
      fc.property(symbols, (look) => {
        const sheet = layered(look);
        const { sld, lost } = writeSld(readSheet(sheet));
        expect(lost).toEqual([]);
        const back = readSld(sld);
        expect(back.lost).toEqual([]);
        expect(back.sheet.layers.length).toBe(1);
        const [before, after] = [rowsOf(sheet), rowsOf(withAddress(back.sheet))];
        expect(after.length).toBe(before.length);
        // Colors are bytes in the document, and halfs on the GPU.
        let worst = 0;
        for (let i = 0; i < before.length; i++)
          if (before[i] !== after[i] && !(Number.isNaN(before[i]) && Number.isNaN(after[i])))
            worst = Math.max(worst, Math.abs(before[i] - after[i]));
        expect(worst).toBeLessThan(0.003);
      }),
      { numRuns: 150, seed: 24 },
    );
  });
});
