import { describe, expect, test } from '@jest/globals';
import { findTileMatrixSet } from '@flintwright/core';
import { gridOfMatrixSet } from '@flintwright/core/internal';

describe('tile matrix sets', () => {
  const web = () => JSON.parse(JSON.stringify(findTileMatrixSet('WebMercatorQuad'))) as Record<string, unknown>;
  const level = (id: string, cellSize: number, width: number) => ({
    id,
    cellSize,
    scaleDenominator: cellSize / 0.00028,
    pointOfOrigin: [-20037508.342789244, 20037508.342789244],
    tileWidth: 256,
    tileHeight: 256,
    matrixWidth: width,
    matrixHeight: width,
  });

  test.each([
    [{ tileMatrices: [] }, 'grid.form'],
    [{ crs: 'EPSG:3857', tileMatrices: 'all' }, 'grid.form'],
    [{ crs: 'EPSG:999999', tileMatrices: [level('0', 156543, 1)] }, 'crs.unknown'],
    [{ crs: 'EPSG:3857', tileMatrices: [{ ...level('0', 156543, 1), cellSize: -1 }] }, 'grid.form'],
    [{ crs: 'EPSG:3857', tileMatrices: [{ ...level('0', 156543, 1), pointOfOrigin: ['a', 0] }] }, 'grid.form'],
    [{ crs: 'EPSG:3857', tileMatrices: [{ ...level('0', 156543, 1), matrixWidth: 1.5 }] }, 'grid.form'],
    [{ crs: 'EPSG:3857', tileMatrices: [level('0', 156543, 1), level('1', 156543 / 3, 3)] }, 'grid.levels'],
    [{ crs: 'EPSG:3857', tileMatrices: [{ ...level('0', 156543, 1), tileHeight: 512 }] }, 'grid.levels'],
  ])('%j is refused', (given, code) => {
    expect(() => gridOfMatrixSet({ id: 'own', ...given })).toThrow(
      expect.objectContaining({ code }) as unknown as Error,
    );
  });

  test('a set given in full is the set of that name', () => {
    expect(web()['id']).toBe('WebMercatorQuad');
    const own = gridOfMatrixSet({
      id: 'own',
      crs: 'EPSG:3857',
      tileMatrices: [0, 1, 2].map((z) => level(String(z), 156543.03392804097 / 2 ** z, 2 ** z)),
    });
    const named = gridOfMatrixSet('WebMercatorQuad');
    for (const [lon, lat] of [
      [0, 0],
      [-31.18, 44.62],
      [179, -80],
    ])
      expect(own.grid.at(lon, lat).map((v) => Math.round(v * 1e3))).toEqual(
        named.grid.at(lon, lat).map((v) => Math.round(v * 1e3)),
      );
    expect(own.shift).toBe(named.shift);
  });
});
