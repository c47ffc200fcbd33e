// Geometry that runs on over ±180° is cut there as RFC 7946, section 3.1.9 has it: nothing is lost, nothing lies beyond, every piece is valid.
import { describe, expect, test } from '@jest/globals';
import { getCrs } from '@flintwright/core';
import { cutAtAntimeridian, type LonLatGeometry } from '@flintwright/core/edit';
import { readFeatureFile, writeFeatureFile, type FileGeometry } from '@flintwright/core/files';
import fc from 'fast-check';

type Ring = readonly (readonly number[])[];
const ringsOf = (geometry: LonLatGeometry): Ring[][] =>
  geometry.type === 'Polygon'
    ? [[...geometry.coordinates]]
    : geometry.type === 'MultiPolygon'
      ? geometry.coordinates.map((one) => [...one])
      : [];
const areaOf = (ring: Ring) =>
  ring.reduce((sum, [x, y], i) => sum + x * ring[(i + 1) % ring.length][1] - ring[(i + 1) % ring.length][0] * y, 0) / 2;
const area = (geometry: LonLatGeometry) =>
  ringsOf(geometry)
    .flat()
    .reduce((sum, ring) => sum + areaOf(ring), 0);
const lons = (geometry: LonLatGeometry) =>
  JSON.stringify(geometry)
    .match(/\[-?[\d.e-]+(?=,)/g)!
    .map((one) => Number(one.slice(1)));

describe('cutting at the antimeridian', () => {
  test('points come round, lines and areas become parts, heights are interpolated, and what needs no cut is the same object', () => {
    expect(cutAtAntimeridian({ type: 'Point', coordinates: [191.25, 10, 5] })).toEqual({
      type: 'Point',
      coordinates: [-168.75, 10, 5],
    });
    const line: LonLatGeometry = { type: 'LineString', coordinates: [[170, 0, 0], [190, 20, 100]] }; // prettier-ignore
    expect(cutAtAntimeridian(line)).toEqual({
      type: 'MultiLineString',
      coordinates: [[[170, 0, 0], [180, 10, 50]], [[-180, 10, 50], [-170, 20, 100]]], // prettier-ignore
    });
    const through: LonLatGeometry = { type: 'LineString', coordinates: [[170, 0], [180, 5], [190, 0]] }; // prettier-ignore
    expect(cutAtAntimeridian(through)).toEqual({ type: 'MultiLineString', coordinates: [[[170, 0], [180, 5]], [[-180, 5], [-170, 0]]] }); // prettier-ignore
    // The example of the RFC, drawn as one area.
    const box: LonLatGeometry = { type: 'Polygon', coordinates: [[[170, 40], [190, 40], [190, 50], [170, 50], [170, 40]]] }; // prettier-ignore
    expect(
      ringsOf(cutAtAntimeridian(box)).map(([ring]) => [
        Math.min(...ring.map(([x]) => x)),
        Math.max(...ring.map(([x]) => x)),
        areaOf(ring),
      ]),
    ).toEqual([
      [170, 180, 100],
      [-180, -170, 100],
    ]);
    for (const same of [
      line.coordinates.slice(0, 1),
      [
        [-180, 0],
        [180, 0],
      ],
    ].map((coordinates) => ({ type: 'LineString', coordinates }) as LonLatGeometry))
      // prettier-ignore
      expect(cutAtAntimeridian(same)).toBe(same);
  });

  test('random stars with a hole, wherever they lie: area kept, nothing beyond, every piece valid', () => {
    const star = fc.record({
      lon: fc.integer({ min: -560, max: 560 }),
      radii: fc.array(fc.integer({ min: 20, max: 100 }), { minLength: 5, maxLength: 16 }),
      hole: fc.boolean(),
    });
    let cut = 0;
    fc.assert(
      fc.property(star, ({ lon, radii, hole }) => {
        const ring = (share: number, sign: number) => {
          const out = radii.map((r, i) => {
            const angle = (2 * Math.PI * i) / radii.length;
            return [lon + 0.37 + r * share * Math.cos(angle), 0.8 * r * share * Math.sin(angle)];
          });
          if (sign < 0) out.reverse();
          return [...out, out[0]];
        };
        const geometry: LonLatGeometry = {
          type: 'Polygon',
          coordinates: [ring(1, 1), ...(hole ? [ring(0.4, -1)] : [])],
        };
        const out = cutAtAntimeridian(geometry);
        if (out !== geometry) cut++;
        expect(Math.abs(area(out) / area(geometry) - 1)).toBeLessThan(1e-9);
        expect(lons(out).every((one) => Math.abs(one) <= 180 + 1e-9)).toBe(true);
        for (const [outer, ...holes] of ringsOf(out)) {
          expect(areaOf(outer)).toBeGreaterThan(0);
          expect(holes.every((one) => areaOf(one) < 0)).toBe(true);
        }
      }),
      { numRuns: 1000, seed: 28 },
    );
    expect(cut).toBeGreaterThan(500);
  });

  test('in every file that is written', async () => {
    const geometry = { type: 'Polygon', coordinates: [[[170, 40], [191.25, 40], [191.25, 50], [170, 50], [170, 40]]] } as FileGeometry; // prettier-ignore
    const layer = {
      name: 'x',
      features: [{ type: 'Feature' as const, properties: { n: 1 }, geometry }],
      crs: getCrs('OGC:CRS84'),
      crsSource: '',
    };
    for (const ending of ['geojson', 'geojsonl', 'topojson', 'kml', 'gpkg', 'zip', 'wkt', 'csv']) {
      const { bytes } = await writeFeatureFile([layer], `x.${ending}`);
      const { layers } = await readFeatureFile({ name: `x.${ending}`, bytes });
      const found = layers.flatMap(({ features }) => features).map((one) => one.geometry as LonLatGeometry);
      expect([ending, found.flatMap(lons).every((one) => Math.abs(one) <= 180)]).toEqual([ending, true]);
      expect([ending, Math.round(found.reduce((sum, one) => sum + Math.abs(area(one)), 0) * 10) / 10]).toEqual([
        ending,
        212.5,
      ]);
    }
  });
});
