import { describe, expect, test } from '@jest/globals';
import type { Sheet, SheetData } from '@flintwright/core';
import { gridOfMatrixSet } from '@flintwright/core/internal';
import { forHost } from '../../src/load/for-host.js';
import type { RequestPlan } from '../../src/load/request.js';
import { otherFeatures, sameData } from '../../src/load/same-data.js';
import { withoutFeatures, withWholeAddresses } from '../../src/load/sheet.js';
import { addressOf, levelsOf, wholeAddress } from '../../src/load/template.js';
import { readPermalink, writePermalink } from '../../src/map/permalink.js';

describe('addresses of tiles', () => {
  const plain = { grid: undefined, up: false };

  test('count rows from the north or from the south', () => {
    const tile = { z: 3, x: 5, y: 1 };
    expect(addressOf('https://tiles.example/{z}/{x}/{y}.mvt', tile, plain)).toBe('https://tiles.example/3/5/1.mvt');
    expect(addressOf('/{z}/{y}/{x}?again={z}', tile, { ...plain, up: true })).toBe('/3/6/5?again=3');
  });

  test('name the matrices of a set, and none outside it', () => {
    const grid = gridOfMatrixSet('WorldCRS84Quad');
    const numbering = { grid, up: false };
    // OGC 17-083r4, annex D.2: level 0 is two tiles wide and one high.
    expect(addressOf('{z}/{y}/{x}', { z: grid.shift, x: 1, y: 0 }, numbering)).toBe('0/0/1');
    expect(addressOf('{z}/{y}/{x}', { z: grid.shift, x: 0, y: 1 }, numbering)).toBeUndefined();
    expect(addressOf('{z}/{y}/{x}', { z: grid.shift + 99, x: 0, y: 0 }, numbering)).toBeUndefined();
    expect(levelsOf([0, 4], numbering, 'd')).toEqual([grid.shift, 4 + grid.shift]);
    expect(levelsOf([2, 7], plain, 'd')).toEqual([2, 7]);
  });

  test('levels that cannot be are refused, whoever says them; deeper ones than are drawn are left out', () => {
    for (const zooms of [
      [1e9, 4],
      [5, 4],
      [-1, 3],
      [0.5, 3],
      [0, NaN],
    ] as [number, number][])
      expect(() => levelsOf(zooms, plain, 'd')).toThrow(/the levels of "d" are/);
    expect(levelsOf([0, 30], plain, 'd')).toEqual([0, 24]);
  });

  test('are made whole with their places for numbers left readable', () => {
    expect(wholeAddress('relief/{z}/{x}/{y}.png', 'https://host.example/maps/chalk.json')).toBe(
      'https://host.example/maps/relief/{z}/{x}/{y}.png',
    );
  });
});

describe('a fetched sheet', () => {
  const sheet: Sheet = {
    sheet: 1,
    data: {
      reach: { tiles: 'reach.pmtiles' },
      beds: { features: '../beds.geojson', join: { table: 'yield.csv', match: ['code', 'bed'] } },
      relief: { images: '{z}/{x}/{y}.png' },
      own: { features: { type: 'FeatureCollection', features: [] } },
    },
    layers: [],
  };

  test('has the addresses of its data relative to itself', () => {
    const { data } = withWholeAddresses(sheet, 'https://host.example/maps/chalk.json');
    expect(data!.reach.tiles).toBe('https://host.example/maps/reach.pmtiles');
    expect(data!.beds.features).toBe('https://host.example/beds.geojson');
    expect(data!.beds.join).toEqual({ table: 'https://host.example/maps/yield.csv', match: ['code', 'bed'] });
    expect(data!.relief.images).toBe('https://host.example/maps/{z}/{x}/{y}.png');
    expect(data!.own).toEqual(sheet.data!.own);
  });

  test('travels to workers without the features and tables in it', () => {
    const { data } = withoutFeatures(sheet);
    expect(data!.own.features).toBe('');
    expect(data!.beds).toEqual({ features: '../beds.geojson' });
  });
});

describe('two descriptions of data', () => {
  const beds: SheetData = { features: 'a.geojson', id: 'code', cluster: { within: 40 }, zooms: [0, 9] };

  test('are the same when all that shapes the features is', () => {
    expect(sameData(beds, structuredClone(beds))).toBe(true);
    for (const change of [
      { id: 'name' },
      { cluster: { within: 41 } },
      { zooms: [0, 8] },
      { crs: 'EPSG:32625' },
      { edges: 'great-circle' },
      { features: 'b.geojson' },
      { join: { table: 'yield.csv', match: ['code', 'bed'] } },
    ])
      expect([change, sameData(beds, { ...beds, ...change } as SheetData)]).toEqual([change, false]);
  });

  test('may differ in their features alone, and then the old ones stay until the new ones have come', () => {
    expect(otherFeatures(beds, { ...beds, features: 'b.geojson' })).toBe(true);
    expect(otherFeatures(beds, { ...beds, refresh: 30 })).toBe(true);
    expect(otherFeatures(beds, beds)).toBe(false);
    expect(otherFeatures(beds, { ...beds, features: 'b.geojson', id: 'name' })).toBe(false);
    expect(otherFeatures(beds, { tiles: 'reach.pmtiles' })).toBe(false);
  });
});

test('a key goes to its own host, port included, and to no other', () => {
  const hook = forHost('tiles.example:8443', {
    query: { key: 'a b', v: '2' },
    headers: { 'x-key': 'k' },
    credentials: 'include',
  });
  const plan = (url: string): RequestPlan => ({ url, headers: { accept: 'x' } });
  const own = plan('https://tiles.example:8443/1/2/3?key=old');
  void hook(own);
  expect(own).toEqual({
    url: 'https://tiles.example:8443/1/2/3?key=a+b&v=2',
    headers: { accept: 'x', 'x-key': 'k' },
    credentials: 'include',
  });
  for (const url of ['https://tiles.example/1/2/3', 'https://tiles.example.evil.test:8443/', 'http://127.0.0.1/']) {
    const other = plan(url);
    void hook(other);
    expect(other).toEqual(plan(url));
  }
});

describe('a view in the address of the page', () => {
  test('comes back as it was written', () => {
    const view = { center: [-31.184512, 44.621834] as const, zoom: 13.25, bearing: -42.5, tilt: 55 };
    expect(writePermalink({ ...view, bearing: 0, tilt: 0 })).toBe('#at=-31.184512,44.621834/13.25');
    expect(readPermalink(writePermalink(view))).toEqual(view);
    expect(readPermalink(`#tab=2&${writePermalink(view).slice(1)}`)).toEqual(view);
  });

  test.each(['', '#', '#at=', '#at=1,2', '#at=-31.18,144.6/13', '#elsewhere=1,2/3'])('%j holds none', (hash) => {
    expect(readPermalink(hash)).toBeUndefined();
  });
});
