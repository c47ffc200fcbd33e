import { expect, test } from '@jest/globals';
import { distortionAt, ellipsoids, getSurface } from '@flintwright/core';

test('distortion: none of angles on conformal surfaces, none of areas on equal-area ones', () => {
  expect(distortionAt(getSurface('EPSG:3857'), 10, 60, { ...ellipsoids.wgs84, e2: 0 })).toMatchObject({
    longer: expect.closeTo(2, 4) as unknown as number,
    angle: expect.closeTo(0, 2) as unknown as number,
  });
  expect(distortionAt(getSurface({ method: 'equal-earth' }), 100, 40)?.area).toBeCloseTo(1, 4);
  expect(distortionAt(getSurface({ method: 'orthographic', lat0: 0, lon0: 0 }), 170, 0)).toBeUndefined();
  expect(getSurface({ method: 'equal-earth' }).stretch(100, 40)).toBeCloseTo(1, 4);
  expect(() => getSurface({ method: 'molweide' })).toThrow('the projection method "molweide" is not known');
});
