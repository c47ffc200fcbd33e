import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { covering, idle } from '../../src/load/cover.js';

type Entry = { readonly key: number; readonly tile: { z: number; x: number; y: number } };
const key = (z: number, x: number, y: number) => z * 1e6 + x * 1000 + y;
const shelfOf = (loaded: readonly (readonly [number, number, number])[], empty: readonly string[] = []) => {
  const entries = new Map(loaded.map(([z, x, y]) => [key(z, x, y), { key: key(z, x, y), tile: { z, x, y } }]));
  return {
    find: (z: number, x: number, y: number): Entry | undefined => entries.get(key(z, x, y)),
    isEmpty: (z: number, x: number, y: number) => empty.includes(`${z}/${x}/${y}`),
  };
};
const names = (found: readonly { entry: Entry; copy: number }[]) =>
  found.map(({ entry: { tile }, copy }) => `${tile.z}/${tile.x}/${tile.y}@${copy}`);

describe('what covers the view while tiles load', () => {
  test('is the tile, or its nearest loaded ancestor with the loaded children over it', () => {
    const shelf = shelfOf([
      [0, 0, 0],
      [1, 0, 0],
      [3, 1, 1],
      [3, 7, 7],
      [2, 3, 3],
    ]);
    const wanted = [
      { z: 2, x: 0, y: 0, copy: 0 },
      { z: 2, x: 3, y: 3, copy: 0 },
      { z: 2, x: 3, y: 0, copy: 1 },
    ];
    expect(names(covering(wanted, shelf))).toEqual(['0/0/0@1', '1/0/0@0', '2/3/3@0', '3/1/1@0']);
  });

  test('is nothing where a tile is known to be empty', () => {
    expect(covering([{ z: 2, x: 1, y: 1, copy: 0 }], shelfOf([[0, 0, 0]], ['2/1/1']))).toEqual([]);
  });

  test('comes coarse first, each tile once a copy, and leaves no wanted tile bare while an ancestor is there', () => {
    const tile = fc.integer({ min: 0, max: 4 }).chain((z) => {
      const side = fc.integer({ min: 0, max: 2 ** z - 1 });
      return fc.tuple(fc.constant(z), side, side);
    });
    fc.assert(
      fc.property(
        fc.array(tile, { maxLength: 30 }),
        fc.array(tile, { minLength: 1, maxLength: 12 }),
        (loaded, wanted) => {
          const shelf = shelfOf([[0, 0, 0], ...loaded]);
          const found = covering(
            wanted.map(([z, x, y]) => ({ z, x, y, copy: 0 })),
            shelf,
          );
          const levels = found.map(({ entry }) => entry.tile.z);
          expect(levels).toEqual([...levels].sort((a, b) => a - b));
          expect(new Set(names(found)).size).toBe(found.length);
          for (const [z, x, y] of wanted) {
            const covered = found.some(
              ({ entry: { tile } }) => tile.z <= z && x >> (z - tile.z) === tile.x && y >> (z - tile.z) === tile.y,
            );
            expect(covered).toBe(true);
          }
        },
      ),
      { numRuns: 200, seed: 5 },
    );
  });
});

interface One {
  readonly used: number;
  readonly number: number;
}

test('tiles let go are the longest unused, beyond three times the view, and never those in use or busy', () => {
  const entries = new Map(Array.from({ length: 100 }, (_, i) => [i, { used: i, number: i }]));
  const keeping = { room: Infinity, bytes: () => 1, busy: () => false };
  const gone = idle<One>(entries, {
    ...keeping,
    wanted: 20,
    frame: 95,
    busy: ({ number }: One) => number === 0,
  });
  expect(gone.map(({ number }) => number)).toEqual(Array.from({ length: 36 }, (_, i) => i + 1));
  expect(idle<One>(entries, { ...keeping, wanted: 34, frame: 95 })).toEqual([]);
  expect(idle<One>(new Map([...entries].slice(0, 64)), { ...keeping, wanted: 1, frame: 1000 })).toEqual([]);
});

test('tiles are let go of beyond the room that they may hold, but for those in use', () => {
  const entries = new Map(Array.from({ length: 40 }, (_, i) => [i, { used: i, number: i }]));
  const keeping = {
    wanted: 20,
    bytes: ({ number }: One) => (number < 10 ? 100 : 10),
    busy: () => false,
  };
  const gone = (room: number, frame: number) =>
    idle<One>(entries, { ...keeping, room, frame }).map(({ number }) => number);
  // All hold 1300.
  expect(gone(1300, 40)).toEqual([]);
  expect(gone(1299, 40)).toEqual([0]);
  expect(gone(1000, 40)).toEqual([0, 1, 2]);
  expect(gone(0, 2)).toEqual([0, 1]);
});
