// Changes of a layer: what they do not name stays, and joined they come to the same as one after the other.
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { LayerChange, SheetLayer } from '@flintwright/core';
import { changeLayer, withChange } from '@flintwright/core/internal';

const layer: SheetLayer = {
  id: 'roads',
  of: 'reach/roads',
  title: 'Roads',
  opacity: 0.8,
  fill: '#ffffff',
  stroke: [
    { name: 'casing', color: '#000000', width: 6 },
    { name: 'core', color: '#ffffff', width: 4, dash: [4, 2] },
  ],
  mark: { shape: 'circle', size: 12, color: '#c5523a' },
  label: { text: 'name', size: 13, halo: { color: '#ffffff', width: 2 } },
  states: { hover: { stroke: { width: 9 }, mark: { size: 20 } }, selected: { fill: { opacity: 1 } } },
  popup: { title: 'name', lines: { Class: 'class' } },
};

const after = (...changes: LayerChange[]) => changes.reduce(changeLayer, layer);

describe('a change of a layer', () => {
  test('leaves what it does not name, and the layer itself', () => {
    const before = structuredClone(layer);
    expect(after({})).toEqual(layer);
    expect(after({ opacity: 0.5 })).toEqual({ ...layer, opacity: 0.5 });
    expect(after({ mark: { size: 20 } }).mark).toEqual({ shape: 'circle', size: 20, color: '#c5523a' });
    expect(after({ label: { halo: { color: '#000000' } } }).label).toEqual({
      ...layer.label,
      halo: { color: '#000000' },
    });
    expect(after({ popup: { title: 'class' } }).popup).toEqual({ title: 'class', lines: { Class: 'class' } });
    expect(layer).toEqual(before);
  });

  test('takes keys off by null, at the layer and within its parts', () => {
    const { title: _, mark: __, ...rest } = layer;
    expect(after({ title: null, mark: null })).toEqual(rest);
    expect(after({ label: { halo: null } }).label).toEqual({ text: 'name', size: 13 });
    expect(after({ states: { hover: null } }).states).toEqual({ selected: { fill: { opacity: 1 } } });
    expect(after({ states: null })).not.toHaveProperty('states');
  });

  test('knows the short forms: a color alone is the color of the part', () => {
    expect(after({ fill: { opacity: 0.5 } }).fill).toEqual({ color: '#ffffff', opacity: 0.5 });
    expect(after({ fill: { opacity: 0.5 } }, { fill: '#123456' }).fill).toEqual({ color: '#123456', opacity: 0.5 });
    expect(changeLayer({ id: 'a', of: 'b' }, { stroke: '#123456' }).stroke).toEqual({ color: '#123456' });
    expect(changeLayer({ id: 'a', of: 'b', stroke: '#000000' }, { stroke: { width: 3 } }).stroke).toEqual({
      color: '#000000',
      width: 3,
    });
  });

  describe('of strokes', () => {
    const [casing, core] = layer.stroke as [object, object];

    test('one changes the topmost', () => {
      expect(after({ stroke: { width: 5 } }).stroke).toEqual([casing, { ...core, width: 5 }]);
      expect(after({ stroke: { dash: null } }).stroke).toEqual([casing, { name: 'core', color: '#ffffff', width: 4 }]);
      expect(after({ stroke: '#ff0000' }).stroke).toEqual([casing, { ...core, color: '#ff0000' }]);
    });

    test('a list goes by position, by name where it gives one, and null removes', () => {
      expect(after({ stroke: [{ width: 8 }] }).stroke).toEqual([{ ...casing, width: 8 }, core]);
      expect(after({ stroke: [{ name: 'core', width: 2 }] }).stroke).toEqual([casing, { ...core, width: 2 }]);
      expect(after({ stroke: [null] }).stroke).toEqual([core]);
      expect(after({ stroke: [{}, null, { color: '#ff0000' }] }).stroke).toEqual([casing, { color: '#ff0000' }]);
      expect(after({ stroke: [{ name: 'glow', width: 20 }] }).stroke).toEqual([
        casing,
        core,
        { name: 'glow', width: 20 },
      ]);
    });
  });

  test('of states goes by their names, key by key', () => {
    expect(after({ states: { hover: { mark: { color: '#ffffff' } }, lost: { fill: '#cccccc' } } }).states).toEqual({
      hover: { stroke: { width: 9 }, mark: { size: 20, color: '#ffffff' } },
      selected: { fill: { opacity: 1 } },
      lost: { fill: { color: '#cccccc' } },
    });
  });
});

describe('changes one after the other', () => {
  const width = fc.integer({ min: 1, max: 20 });
  const color = fc.constantFrom('#ff0000', '#00ff00', '#0000ff');
  const part = (keys: Record<string, fc.Arbitrary<unknown>>) =>
    fc.record(Object.fromEntries(Object.entries(keys).map(([key, value]) => [key, fc.option(value)])), {
      requiredKeys: [],
    });
  const stroke = fc.oneof(
    color,
    part({ color: color, width, dash: fc.constant([4, 2]) }),
    fc.array(
      fc.oneof(
        fc.constant(null),
        part({ color: color, width }),
        fc.record({ name: fc.constantFrom('core', 'casing'), width }),
      ),
      {
        maxLength: 3,
      },
    ),
  );
  const symbols = {
    fill: fc.oneof(color, part({ color: color, opacity: fc.constantFrom(0, 0.5, 1) })),
    stroke,
    mark: part({ size: width, color: color }),
    label: part({ size: width, color: color }),
  };
  const change = fc.record(
    {
      ...Object.fromEntries(Object.entries(symbols).map(([key, value]) => [key, fc.option(value)])),
      opacity: fc.option(fc.constantFrom(0, 0.5, 1)),
      states: fc.option(
        fc.dictionary(fc.constantFrom('hover', 'lost'), fc.option(fc.record(symbols, { requiredKeys: [] }))),
      ),
    },
    { requiredKeys: [] },
  ) as unknown as fc.Arbitrary<LayerChange>;

  test('come to the same when they are joined, whatever they are', () => {
    fc.assert(
      fc.property(fc.array(change, { minLength: 1, maxLength: 6 }), (changes) => {
        const joined = changes.reduce<readonly LayerChange[]>(withChange, []);
        expect(joined.reduce(changeLayer, layer)).toEqual(after(...changes));
      }),
      { numRuns: 400 },
    );
  });

  test('a list of strokes of a state stays as it is where nothing lies below it', () => {
    const core = { name: 'core', width: 1 };
    const changes = [{ fill: {} }, { states: { hover: { stroke: [core, null, core] } } }] as readonly LayerChange[];
    expect(changes.reduce<readonly LayerChange[]>(withChange, []).reduce(changeLayer, layer)).toEqual(
      after(...changes),
    );
  });

  test('of the same keys do not pile up', () => {
    let changes: readonly LayerChange[] = [];
    for (let i = 0; i < 1000; i++) changes = withChange(changes, { stroke: { width: i }, opacity: i / 1000 });
    expect(changes).toEqual([{ stroke: { width: 999 }, opacity: 0.999 }]);
    for (let i = 0; i < 100; i++) for (const mark of [null, { size: i }]) changes = withChange(changes, { mark });
    expect(changes.length).toBeLessThan(4);
  });
});
