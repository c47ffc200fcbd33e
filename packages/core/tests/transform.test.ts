import { expect, test } from '@jest/globals';
import { getCrs, transformGeoJson } from '@flintwright/core';

test('GeoJSON goes from system to system with everything in it, and says which places cannot', () => {
  const source = {
    type: 'FeatureCollection',
    name: 'kept',
    bbox: [0, 0, 1, 1],
    features: [
      {
        type: 'Feature',
        id: 'a',
        properties: { deep: { list: [1] } },
        geometry: { type: 'Point', coordinates: [3, 52, 17.5] },
      },
      {
        type: 'Feature',
        id: 'b',
        properties: null,
        geometry: {
          type: 'GeometryCollection',
          geometries: [
            {
              type: 'LineString',
              coordinates: [
                [3, 50],
                [4, 51],
              ],
            },
          ],
        },
      },
    ],
  };
  const [wgs, utm] = [getCrs('OGC:CRS84'), getCrs('EPSG:32631')];
  const there = transformGeoJson(source, { from: wgs, to: utm }) as typeof source & { crs: object };
  expect(there.crs).toEqual({ type: 'name', properties: { name: 'urn:ogc:def:crs:EPSG::32631' } });
  expect(there.features[0].geometry.coordinates).toEqual([500000, expect.closeTo(5761038.212, 2), 17.5]);
  expect(there.features[0].properties).toEqual({ deep: { list: [1] } });
  expect(there.bbox[0]).toBeCloseTo(500000, 6);
  const back = transformGeoJson(there, { from: utm, to: wgs }) as typeof source;
  expect(back.features[0].geometry.coordinates).toEqual([expect.closeTo(3, 11), expect.closeTo(52, 11), 17.5]);
  expect(back).not.toHaveProperty('crs');
  // In the authority's order the northing comes first here.
  const swapped = transformGeoJson(source, {
    from: wgs,
    to: getCrs('EPSG:3035'),
    toAxes: 'authority',
  }) as typeof source;
  const plain = transformGeoJson(source, { from: wgs, to: getCrs('EPSG:3035') }) as typeof source;
  const [x, y] = plain.features[0].geometry.coordinates!;
  expect(swapped.features[0].geometry.coordinates!.slice(0, 2)).toEqual([y, x]);
  expect(() => transformGeoJson({ type: 'Point', coordinates: [170, 0] }, { from: wgs, to: utm })).toThrow(
    '[170, 0] at $.coordinates',
  );
});
