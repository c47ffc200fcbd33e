import type { Shape, Spot } from '../geometry/shape.js';

// WGS 84 (EPSG:7030).
const a = 6378137;
const f = 1 / 298.257223563;
const b = a * (1 - f);
const e2 = f * (2 - f);
const e = Math.sqrt(e2);
const radians = Math.PI / 180;

/**
 * Length in metres of the geodesic between two places in degrees, on the ellipsoid of WGS 84 (Vincenty 1975, "Direct and
 * inverse solutions of geodesics on the ellipsoid", Survey Review XXIII, inverse formula). Good to a tenth of a
 * millimetre; for nearly antipodal places, where the formula does not settle, the distance on the mean sphere.
 */
export function geodesicLength([lon1, lat1]: Spot, [lon2, lat2]: Spot): number {
  if (lon1 === lon2 && lat1 === lat2) return 0;
  const L = (lon2 - lon1) * radians;
  const U1 = Math.atan((1 - f) * Math.tan(lat1 * radians));
  const U2 = Math.atan((1 - f) * Math.tan(lat2 * radians));
  const [sinU1, cosU1, sinU2, cosU2] = [Math.sin(U1), Math.cos(U1), Math.sin(U2), Math.cos(U2)];
  let lambda = L;
  for (let round = 0; round < 100; round++) {
    const [sinL, cosL] = [Math.sin(lambda), Math.cos(lambda)];
    const sinS = Math.hypot(cosU2 * sinL, cosU1 * sinU2 - sinU1 * cosU2 * cosL);
    if (sinS === 0) return 0;
    const cosS = sinU1 * sinU2 + cosU1 * cosU2 * cosL;
    const sigma = Math.atan2(sinS, cosS);
    const sinA = (cosU1 * cosU2 * sinL) / sinS;
    const cos2A = 1 - sinA * sinA;
    const cosM = cos2A === 0 ? 0 : cosS - (2 * sinU1 * sinU2) / cos2A;
    const C = (f / 16) * cos2A * (4 + f * (4 - 3 * cos2A));
    const before = lambda;
    lambda = L + (1 - C) * f * sinA * (sigma + C * sinS * (cosM + C * cosS * (2 * cosM * cosM - 1)));
    if (Math.abs(lambda - before) > 1e-12) continue;
    const u2 = (cos2A * (a * a - b * b)) / (b * b);
    const A = 1 + (u2 / 16384) * (4096 + u2 * (u2 * (320 - 175 * u2) - 768));
    const B = (u2 / 1024) * (256 + u2 * (u2 * (74 - 47 * u2) - 128));
    const delta =
      B *
      sinS *
      (cosM +
        (B / 4) * (cosS * (2 * cosM * cosM - 1) - (B / 6) * cosM * (4 * sinS * sinS - 3) * (4 * cosM * cosM - 3)));
    return b * A * (sigma - delta);
  }
  const h = Math.sin(((lat2 - lat1) * radians) / 2) ** 2;
  const k = Math.cos(lat1 * radians) * Math.cos(lat2 * radians) * Math.sin(L / 2) ** 2;
  return 2 * 6371008.8 * Math.asin(Math.min(1, Math.sqrt(h + k)));
}

/** q of the authalic latitude (Snyder, USGS PP 1395, equation 3-12). */
function authalic(lat: number): number {
  const s = Math.sin(lat * radians);
  return (1 - e2) * (s / (1 - e2 * s * s) - (1 / (2 * e)) * Math.log((1 - e * s) / (1 + e * s)));
}

/**
 * Area in square metres on the ellipsoid of WGS 84 of a shape in degrees, its holes taken out. Worked out in the cylindrical
 * equal-area projection (Snyder, USGS PP 1395, equations 10-14 and 10-15), whose edges are straight where the longitude and
 * the authalic latitude are; on edges of a few kilometres that differs from geodesics by less than one part in a million.
 */
export function areaOf({ polygons }: Shape): number {
  let sum = 0;
  for (const polygon of polygons) {
    polygon.forEach((ring, i) => {
      let double = 0;
      for (let k = 0, j = ring.length - 1; k < ring.length; j = k++)
        double += (ring[k][0] - ring[j][0]) * radians * (authalic(ring[j][1]) + authalic(ring[k][1]));
      sum += ((i ? -1 : 1) * Math.abs(double) * a * a) / 4;
    });
  }
  return sum;
}

/** Length in metres of the lines of a shape in degrees, or of the rims of its areas, holes included. */
export function lengthOf({ lines, polygons }: Shape): number {
  let sum = 0;
  const path = (spots: readonly Spot[], closed: boolean) => {
    for (let i = closed ? 0 : 1; i < spots.length; i++) sum += geodesicLength(spots[(i || spots.length) - 1], spots[i]);
  };
  for (const line of lines) path(line, false);
  for (const polygon of polygons) for (const ring of polygon) path(ring, true);
  return sum;
}
