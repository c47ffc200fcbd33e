import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  assertSound,
  attributesOf,
  editBlock,
  featureToGeoJson,
  Kind,
  readGeoJson,
  type FeatureBlock,
} from '@flintwright/core';
import { blockOf, type Place, type Thing } from './sample-things.ts';

/** What of a block is there, by name. */
function thingsIn(block: FeatureBlock): Map<string, { at: Place; berths: unknown; isArea: boolean }> {
  const out = new Map<string, { at: Place; berths: unknown; isArea: boolean }>();
  for (let f = 0; f < block.count; f++) {
    if (block.kinds[f] === Kind.none) continue;
    const { name, berths } = attributesOf(block, f);
    expect(out.has(String(name))).toBe(false);
    const { geometry } = featureToGeoJson(block, f) as { geometry: { type: string; coordinates: unknown } };
    const isArea = geometry.type === 'Polygon';
    const at = (isArea ? (geometry.coordinates as Place[][])[0][0] : geometry.coordinates) as Place;
    out.set(String(name), { at, berths, isArea });
  }
  return out;
}

const names = 'abcdefghij'.split('');

const place = fc.tuple(fc.integer({ min: -170, max: 170 }), fc.integer({ min: -80, max: 80 })) as fc.Arbitrary<Place>;

const thing = (name: fc.Arbitrary<string>): fc.Arbitrary<Thing> =>
  fc.record({ name, at: place, berths: fc.option(fc.nat(9), { nil: undefined }), isArea: fc.boolean() });

const things = fc.uniqueArray(thing(fc.constantFrom(...names)), { selector: ({ name }) => name, maxLength: 8 });

describe('edits', () => {
  test('do to features what they would do to a list, number by number', () => {
    const step = fc.record({
      put: things,
      move: fc.dictionary(fc.constantFrom(...names), place, { maxKeys: 3 }),
      remove: fc.uniqueArray(fc.constantFrom(...names), { maxLength: 3 }),
    });
    fc.assert(
      fc.property(things, fc.array(step, { maxLength: 6 }), (first, steps) => {
        let block = blockOf(first);
        const model = new Map(first.map((one) => [one.name, one]));
        for (const { put, move, remove } of steps) {
          const edit = { put: blockOf(put), move, remove };
          const unknown = [...Object.keys(move), ...remove].filter((name) => !model.has(name));
          const areas = Object.keys(move).filter((name) => model.get(name)?.isArea);
          if (unknown.length || areas.length) {
            // Refused as a whole: nothing has changed.
            const before = thingsIn(block);
            expect(() => editBlock(block, edit, 'name')).toThrow(
              expect.objectContaining({ code: unknown.length ? 'edit.key' : 'edit.point' }) as unknown as Error,
            );
            expect(thingsIn(block)).toEqual(before);
            continue;
          }
          const before = block;
          const edited = editBlock(block, edit, 'name');
          block = edited.block;
          assertSound(block);
          for (const [name, at] of Object.entries(move)) model.set(name, { ...model.get(name)!, at });
          for (const name of remove) model.delete(name);
          for (const one of put) model.set(one.name, one);
          expect(thingsIn(block)).toEqual(
            new Map([...model].map(([name, { at, berths, isArea }]) => [name, { at, berths, isArea }])),
          );
          // Features that nothing happened to keep their numbers, and those that came stand at the end.
          const gone = new Set(edited.removed);
          for (let f = 0; f < before.count; f++) {
            if (gone.has(f)) expect(block.kinds[f]).toBe(Kind.none);
            else expect(attributesOf(block, f)).toEqual(attributesOf(before, f));
          }
          expect([...edited.added]).toEqual(put.map((_, i) => before.count + i));
        }
      }),
      { numRuns: 200, seed: 31 },
    );
  });

  test('a move that is also a removal, and a key that two have', () => {
    const block = blockOf([
      { name: 'a', at: [0, 0], isArea: false },
      { name: 'a', at: [5, 5], isArea: false },
    ]);
    // Of two with one key the later one is meant, as it is when they are looked up on the map.
    const { block: after, removed } = editBlock(block, { move: { a: [1, 1] }, remove: ['a'] }, 'name');
    expect(removed).toEqual([1]);
    expect([after.kinds[0], after.kinds[1]]).toEqual([Kind.point, Kind.none]);
  });

  test('a feature without a place is named, taken out and replaced like any other', () => {
    const row = (id: number, name: string) => ({ type: 'Feature', id, geometry: null, properties: { name } });
    const block = readGeoJson({ type: 'FeatureCollection', features: [row(1, 'a'), row(2, 'b')] });
    const without = editBlock(block, { remove: ['1'] }).block;
    expect(() => editBlock(without, { remove: ['1'] })).toThrow(
      expect.objectContaining({ code: 'edit.key' }) as unknown as Error,
    );
    const put = readGeoJson({
      type: 'Feature',
      id: 2,
      geometry: { type: 'Point', coordinates: [3, 4] },
      properties: { name: 'b' },
    });
    expect(editBlock(without, { put })).toMatchObject({ added: [2], removed: [1] });
    expect(() => editBlock(block, { move: { 2: [1, 1] } })).toThrow(
      expect.objectContaining({ code: 'edit.point' }) as unknown as Error,
    );
  });
});
