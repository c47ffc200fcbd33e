import { describe, expect, jest, test } from '@jest/globals';
import { readGeoJson, readSheet, type Sheet, type SheetLayer } from '@flintwright/core';
import { FeatureFilters } from '../../src/base/feature-filters.js';
import { FeatureStates } from '../../src/base/feature-states.js';
import { dispose, removable } from '../../src/base/removable.js';
import { assembled, partsOf, rebased } from '../../src/base/sheet-parts.js';
import { ClassBreaks } from '../../src/map/class-breaks.js';

const layer = (id: string, more: object = {}): SheetLayer =>
  ({ id, of: 'beds', fill: '#112233', ...more }) as SheetLayer;
const beds = readGeoJson({
  type: 'FeatureCollection',
  features: ['A1', 'A2', 'A3'].map((code, i) => ({
    type: 'Feature',
    properties: { code, tonnes: i * 10 },
    geometry: { type: 'Point', coordinates: [-31.2 + i / 100, 44.6] },
  })),
});

describe('a sheet and what was laid over it', () => {
  const base: Sheet = {
    sheet: 1,
    data: { beds: { features: '' } },
    layers: [layer('land'), layer('roads'), layer('names')],
  };

  test('make one sheet, in drawing order', () => {
    const parts = {
      ...partsOf(base),
      data: { own: { features: 'own.geojson' } },
      order: ['land', 'own', 'names'],
      added: { own: layer('own', { of: 'own' }) },
      changed: { land: [{ fill: '#ffffff' }], own: [{ zoom: [3, 9] as const }] },
    };
    const sheet = assembled(parts);
    expect(sheet.layers.map(({ id }) => id)).toEqual(['land', 'own', 'names']);
    expect(sheet.layers[0]).toEqual({ ...layer('land'), fill: { color: '#ffffff' } });
    expect(sheet.layers[1]).toEqual({ ...layer('own', { of: 'own' }), zoom: [3, 9] });
    expect(Object.keys(sheet.data!)).toEqual(['beds', 'own']);
    expect(base.layers[0]).toEqual(layer('land'));
  });

  test('another sheet below keeps what was added, changed and removed', () => {
    const parts = {
      ...partsOf(base),
      order: ['own', 'land', 'names'],
      added: { own: layer('own') },
      changed: { names: [{ zoom: [5, 9] as const }] },
      removed: ['roads'],
    };
    const other: Sheet = {
      sheet: 1,
      data: base.data!,
      layers: [layer('sea'), layer('roads'), layer('names'), layer('own')],
    };
    const sheet = assembled(rebased(parts, other));
    expect(sheet.layers.map(({ id }) => id)).toEqual(['sea', 'names', 'own']);
    expect(sheet.layers[1]).toEqual({ ...layer('names'), zoom: [5, 9] });
  });
});

describe('states of features', () => {
  const sheet: Sheet = {
    sheet: 1,
    data: { beds: { features: '', id: 'code' } },
    layers: [layer('beds', { states: { selected: { fill: '#ff0000' }, hover: { fill: '#00ff00' } } })],
  };
  const compiled = readSheet(sheet);

  test('are held by key, told once, and joined in the order of the sheet', () => {
    const states = new FeatureStates();
    expect(states.of(compiled, 'beds', '', beds)).toBeUndefined();
    expect(states.set({ data: 'beds', key: 'A2' }, 'hover', true)).toBe(true);
    expect(states.set({ data: 'beds', key: 'A2' }, 'hover', true)).toBe(false);
    expect(states.set({ data: 'beds', key: 'A2' }, 'selected', true)).toBe(true);
    const of = states.of(compiled, 'beds', '', beds)!;
    expect([0, 1, 2].map(of)).toEqual(['', 'selected+hover', '']);
    expect(states.of(compiled, 'beds', 'other layer', beds)).toBeUndefined();
    states.set({ data: 'beds', key: 'A2' }, 'hover', false);
    states.set({ data: 'beds', key: 'A2' }, 'selected', false);
    // A highlight that went off leaves nothing behind.
    expect(states.of(compiled, 'beds', '', beds)).toBeUndefined();
  });

  test('need a key', () => {
    expect(() => new FeatureStates().set({ data: 'beds', key: undefined }, 'hover', true)).toThrow(
      expect.objectContaining({ code: 'flag.key', hint: expect.stringContaining('data.beds.id') }),
    );
  });
});

test('filters of the application see attributes, and one taken off shows everything', () => {
  const filters = new FeatureFilters();
  filters.set('beds', ({ tonnes }) => Number(tonnes) > 5);
  expect([0, 1, 2].map((f) => filters.shows('beds', beds, f))).toEqual([false, true, true]);
  expect(filters.shows('other', beds, 0)).toBe(true);
  filters.set('beds', undefined);
  expect(filters.shows('beds', beds, 0)).toBe(true);
});

describe('what can be ended', () => {
  test('ends once: by remove, by a signal, or at the end of a block', () => {
    for (const by of ['remove', 'signal', 'block']) {
      const end = jest.fn();
      const leaving = new AbortController();
      const one = removable(end, leaving.signal);
      expect(end).not.toHaveBeenCalled();
      if (by === 'remove') one.remove();
      else if (by === 'signal') leaving.abort();
      else one[dispose]();
      one.remove();
      leaving.abort();
      expect([by, end.mock.calls.length]).toEqual([by, 1]);
    }
  });

  test('a signal that has aborted ends it at once', () => {
    const end = jest.fn();
    removable(end, AbortSignal.abort());
    expect(end).toHaveBeenCalledTimes(1);
  });
});

test('class limits found in the data are written into the sheet; where there are none, that is told', () => {
  const scale = { by: 'tonnes', classes: { method: 'quantile' as const, count: 2, values: ['#111111', '#222222'] } };
  const sheet: Sheet = {
    sheet: 1,
    data: { beds: { features: '' } },
    layers: [layer('beds', { fill: { color: scale } })],
  };
  const limits = new ClassBreaks();
  const wanted = [{ by: 'tonnes', method: 'quantile' as const, count: 2 }];
  const take = (breaks: number[][]) =>
    limits.take({ data: 'beds', wanted, breaks } as Parameters<ClassBreaks['take']>[0]);
  expect(take([[]])).toEqual([expect.objectContaining({ code: 'classes.none', at: 'data "beds"' })]);
  expect(limits.into(sheet)).toEqual(sheet);
  // The lowest and the highest value come with the limits between them.
  expect(take([[3, 15, 40]])).toEqual([]);
  expect(JSON.stringify(limits.into(sheet))).toContain('"breaks":[15],"extent":[3,40]');
});
