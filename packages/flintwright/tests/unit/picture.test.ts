import { describe, expect, test } from '@jest/globals';
import { boxIn, getMapAddress, shareOfBounds, shareOfCorners } from '../../src/load/picture.js';
import { checkPlaceholders } from '../../src/load/template.js';

type Pair = [number, number];
const at = (share: ReturnType<typeof shareOfCorners>, x: number, y: number): Pair => {
  const out: Pair = [NaN, NaN];
  share(x, y, out);
  return out.map((v) => Math.round(v * 1e9) / 1e9 + 0) as Pair;
};
const codeOf = (act: () => unknown) => {
  try {
    act();
  } catch (error) {
    return (error as { code: string }).code;
  }
  return undefined;
};

describe('where a picture lies', () => {
  test('four corners go onto the corners of the picture, the crossing of the diagonals onto its middle', () => {
    const quads: [Pair, Pair, Pair, Pair][] = [
      [
        [0, 10],
        [10, 10],
        [10, 0],
        [0, 0],
      ],
      [
        [2, 9],
        [12, 7],
        [14, -3],
        [1, 1],
      ],
      [
        [5, 5],
        [0, 5],
        [0, 0],
        [5, 0],
      ],
      [
        [0, 4],
        [6, 10],
        [10, 4],
        [4, -3],
      ],
    ];
    for (const corners of quads) {
      const share = shareOfCorners(corners);
      expect(corners.map(([x, y]) => at(share, x, y))).toEqual([
        [0, 0],
        [1, 0],
        [1, 1],
        [0, 1],
      ]);
      // A projective mapping takes the diagonals to the diagonals.
      const [[ax, ay], [bx, by], [cx, cy], [dx, dy]] = corners;
      const den = (cx - ax) * (dy - by) - (cy - ay) * (dx - bx);
      const t = ((bx - ax) * (dy - by) - (by - ay) * (dx - bx)) / den;
      expect(at(share, ax + (cx - ax) * t, ay + (cy - ay) * t)).toEqual([0.5, 0.5]);
    }
  });

  test('bounds, also across the antimeridian, where both sides of the picture are near', () => {
    const share = shareOfBounds([170, -10, -170, 10], true);
    expect([at(share, 170, 10), at(share, 180, 0), at(share, -180, 0), at(share, -170, -10)]).toEqual([
      [0, 0],
      [0.5, 0.5],
      [0.5, 0.5],
      [1, 1],
    ]);
    expect(at(share, -165, 0)[0]).toBe(1.25);
    expect(at(share, 165, 0)[0]).toBe(-0.25);
    expect(at(shareOfBounds([400000, 0, 500000, 50000], false), 425000, 12500)).toEqual([0.25, 0.75]);
  });

  test('corners without an area and bounds the wrong way round are refused', () => {
    expect(
      codeOf(() =>
        shareOfCorners([
          [0, 0],
          [1, 1],
          [2, 2],
          [3, 3],
        ]),
      ),
    ).toBe('picture.corners');
    expect(
      codeOf(() =>
        shareOfCorners([
          [0, 0],
          [0, 0],
          [0, 0],
          [0, 0],
        ]),
      ),
    ).toBe('picture.corners');
    expect(codeOf(() => shareOfBounds([0, 10, 10, 0], true))).toBe('picture.bounds');
    expect(codeOf(() => shareOfBounds([10, 0, 0, 10], false))).toBe('picture.bounds');
  });
});

describe('a map of a service (OGC 06-042)', () => {
  const query = (address: string) => Object.fromEntries(new URL(address).searchParams);
  const wms = { layers: ['depth', 'wrecks'], styles: ['blue', ''] };

  test('is asked for with its box in the order of the axes that the authority gives', () => {
    const box = [-32, 44, -31, 45] as const;
    const asked = (crs: string) => query(getMapAddress('https://maps.example/wms', { ...wms, crs }, box));
    expect(asked('EPSG:4326')).toMatchObject({ CRS: 'EPSG:4326', BBOX: '44,-32,45,-31' });
    expect(asked('CRS:84')).toMatchObject({ CRS: 'CRS:84', BBOX: '-32,44,-31,45' });
    expect(asked('EPSG:32625')).toMatchObject({ CRS: 'EPSG:32625', BBOX: '-32,44,-31,45' });
    expect(asked('EPSG:3857')).toEqual({
      SERVICE: 'WMS',
      VERSION: '1.3.0',
      REQUEST: 'GetMap',
      LAYERS: 'depth,wrecks',
      STYLES: 'blue,',
      CRS: 'EPSG:3857',
      BBOX: '-32,44,-31,45',
      WIDTH: '256',
      HEIGHT: '256',
      FORMAT: 'image/png',
      TRANSPARENT: 'TRUE',
    });
  });

  test('keeps what the address says already, in whatever letters, but not twice', () => {
    const address = getMapAddress('https://maps.example/wms?map=reach&service=WMS&layers=old', wms, [0, 0, 1, 1]);
    const names = [...new URL(address).searchParams.keys()];
    expect(names).toHaveLength(new Set(names.map((name) => name.toUpperCase())).size);
    expect(query(address)).toMatchObject({ map: 'reach', LAYERS: 'depth,wrecks' });
  });

  test('of a tile: half the equator to each side for the first, a quarter below, and in degrees all of it', () => {
    const half = 20037508.342789244;
    expect(boxIn('EPSG:3857', { z: 0, x: 0, y: 0 }).map(Math.round)).toEqual(
      [-half, -half, half, half].map(Math.round),
    );
    expect(boxIn('EPSG:3857', { z: 1, x: 1, y: 0 }).map(Math.round)).toEqual([0, 0, half, half].map(Math.round));
    const [west, south, east, north] = boxIn('EPSG:4326', { z: 0, x: 0, y: 0 });
    expect(west).toBeCloseTo(-180, 9);
    expect(east).toBeCloseTo(180, 9);
    // Web Mercator ends where its square does: atan(sinh π).
    const end = (Math.atan(Math.sinh(Math.PI)) * 180) / Math.PI;
    expect(north).toBeCloseTo(end, 9);
    expect(south).toBeCloseTo(-end, 9);
  });

  test('in a system that is not known is refused', () => {
    expect(codeOf(() => getMapAddress('https://maps.example/wms', { ...wms, crs: 'EPSG:99' }, [0, 0, 1, 1]))).toBe(
      'crs.unknown',
    );
  });
});

describe('places for numbers in an address', () => {
  test.each([
    ['https://{s}.tiles.example/{z}/{x}/{y}.png', '{s}', 'one host'],
    ['https://tiles.example/{z}/{x}/{y}{r}.png', '{r}', '@2x'],
    ['https://tiles.example/{z}/{x}/{-y}.png', '{-y}', '"rows": "up"'],
    ['https://tiles.example/{quadkey}.png', '{quadkey}', '{z}, {x} and {y}'],
  ])('%s: %s is named', (address, odd, hint) => {
    const fault = checkPlaceholders('base', address, '$.data.base.images')!;
    expect([fault.code, fault.message.includes(odd), fault.hint.includes(hint)]).toEqual([
      'address.placeholder',
      true,
      true,
    ]);
  });

  test('an address with the known ones, and one without any, are fine', () => {
    expect(checkPlaceholders('base', 'https://tiles.example/{z}/{x}/{y}.png', '$')).toBeUndefined();
    expect(checkPlaceholders('base', 'https://tiles.example/plan.png', '$')).toBeUndefined();
  });
});
