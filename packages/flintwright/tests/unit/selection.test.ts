import { beforeEach, describe, expect, test } from '@jest/globals';
import type { PickedFeature } from 'flintwright';
import type { SheetData } from '@flintwright/core';
import { FeatureEdits } from '../../src/load/feature-edits.js';
import { otherFeatures, sameData } from '../../src/load/same-data.js';
import { Selection } from '../../src/input/selection.js';

const feature = (key: string | undefined, layer = 'beds', data = 'beds'): PickedFeature =>
  ({ type: 'Feature', properties: {}, geometry: null, layer, data, from: '', key }) as unknown as PickedFeature;

describe('a selection', () => {
  let told: string[] = [];
  let selection: Selection;
  beforeEach(() => {
    told = [];
    const modes: Record<string, string | undefined> = { beds: 'one', nets: 'several', roads: undefined };
    selection = new Selection({
      layers: () => Object.entries(modes).map(([id, select]) => ({ id, source: { select } })) as never,
      flag: ({ key }, state, on) => told.push(`${on ? '+' : '-'}${key} ${state}`),
      changed: (features) => told.push(features.map(({ key }) => key).join() || 'none'),
    });
  });
  const nets = (key: string) => feature(key, 'nets', 'nets');

  test('of one gives way to another, and to a second press on itself', () => {
    selection.press([feature('a')]);
    selection.press([feature('b')]);
    selection.press([feature('b')]);
    expect(told).toEqual(['+a selected', 'a', '-a selected', '+b selected', 'b', '-b selected', 'none']);
  });

  test('of several takes each press on its own; a press beside all leaves them', () => {
    for (const press of [[nets('a')], [nets('b')], [], [nets('a')]]) selection.press(press);
    expect(selection.features.map(({ key }) => key)).toEqual(['b']);
    expect(told.filter((one) => /^[+-]/.test(one))).toEqual(['+a selected', '+b selected', '-a selected']);
  });

  test('takes the topmost that may be selected and has a key', () => {
    selection.press([feature('r', 'roads'), feature(undefined), feature('a'), feature('b')]);
    expect(selection.features.map(({ key }) => key)).toEqual(['a']);
    selection.press([feature('r', 'roads')]);
    expect(selection.features).toEqual([]);
  });

  test('set by the application tells only of what differs, and nothing when nothing does', () => {
    selection.set([feature('a'), feature('b')]);
    told = [];
    selection.set([feature('b'), feature('c')]);
    expect(told).toEqual(['-a selected', '+c selected', 'b,c']);
    told = [];
    selection.set([feature('b'), feature('c')]);
    expect(told).toEqual([]);
    selection.set([]);
    expect(told).toEqual(['-b selected', '-c selected', 'none']);
  });

  test('keeps features of one key apart that are of different data', () => {
    selection.set([nets('1'), feature('1')]);
    selection.set([nets('1')]);
    expect(told.at(-2)).toBe('-1 selected');
    expect(selection.features[0].data).toBe('nets');
  });
});

describe('edits of features', () => {
  const data = (features: string, more: object = {}): SheetData => ({ features, ...more }) as SheetData;
  const block = { count: 1 } as never;

  test('are made one after the other, and one that fails does not concern the next', async () => {
    const edits = new FeatureEdits();
    const done: string[] = [];
    const work = (name: string, ms: number, fails = false) =>
      edits.inTurn(async () => {
        await new Promise((resolve) => setTimeout(resolve, ms));
        done.push(name);
        if (fails) throw new Error(name);
      });
    const all = await Promise.allSettled([work('slow', 30), work('bad', 5, true), work('quick', 0)]);
    expect(done).toEqual(['slow', 'bad', 'quick']);
    expect(all.map(({ status }) => status)).toEqual(['fulfilled', 'rejected', 'fulfilled']);
  });

  test('are handed over once, to the same data on the same kind of surface', async () => {
    const edits = new FeatureEdits();
    const keep = () => edits.keep(false, () => Promise.resolve({ data: data('a'), block, join: undefined }));
    expect(edits.unkept).toBe(false);
    edits.touched();
    expect(edits.unkept).toBe(true);
    await keep();
    expect(edits.unkept).toBe(false);
    expect(edits.take(data('a'), false)).toMatchObject({ block });
    expect(edits.take(data('a'), false)).toBeUndefined();
    for (const [other, plan] of [
      [data('b'), false],
      [data('a', { crs: 'EPSG:32625' }), false],
      [data('a'), true],
    ] as const) {
      edits.touched();
      await keep();
      expect(edits.take(other, plan)).toBeUndefined();
      expect(edits.unkept).toBe(false);
    }
  });

  test('made after they were kept have to be kept again', async () => {
    const edits = new FeatureEdits();
    edits.touched();
    await edits.keep(false, () => Promise.resolve({ data: data('a'), block, join: undefined }));
    edits.touched();
    expect(edits.unkept).toBe(true);
    edits.forget();
    expect([edits.unkept, edits.take(data('a'), false)]).toEqual([false, undefined]);
  });

  test('of data that differ in their features alone let the old ones stand until the new have come', () => {
    expect(otherFeatures(data('a'), data('b'))).toBe(true);
    expect(otherFeatures(data('a', { refresh: 3 }), data('a'))).toBe(true);
    expect(otherFeatures(data('a'), data('a'))).toBe(false);
    expect(otherFeatures(data('a', { id: 'x' }), data('b'))).toBe(false);
    expect(otherFeatures({ tiles: 'a' } as SheetData, { tiles: 'b' } as SheetData)).toBe(false);
  });

  test('and pictures that lie elsewhere, or are asked for in another way, are other data', () => {
    const picture = (more: object) => ({ images: 'a.png', ...more }) as SheetData;
    const all = [
      picture({ bounds: [0, 0, 1, 1] }),
      picture({ bounds: [0, 0, 2, 1] }),
      picture({
        corners: [
          [0, 1],
          [1, 1],
          [1, 0],
          [0, 0],
        ],
      }),
      picture({ wms: { layers: ['depth'] } }),
      picture({ wms: { layers: ['depth'], crs: 'EPSG:4326' } }),
      picture({}),
    ];
    all.forEach((a, i) =>
      all.forEach((b, k) => expect([i, k, sameData(a, structuredClone(b))]).toEqual([i, k, i === k])),
    );
  });
});
