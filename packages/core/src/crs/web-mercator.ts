/** Equatorial radius of the WGS 84 ellipsoid in meters, taken as the radius of the sphere (EPSG:3857). */
export const webMercatorRadius = 6378137;
/** Half the width of the square world in meters: π × radius. */
export const webMercatorHalf = Math.PI * webMercatorRadius;
/** The latitude at which the square world ends, in degrees: atan(sinh(π)). */
export const webMercatorLatitude = (Math.atan(Math.sinh(Math.PI)) * 180) / Math.PI;

const toRadians = Math.PI / 180;

/**
 * Easting in meters of a longitude in degrees (EPSG method 1024, IOGP Guidance Note 7-2, section 3.2.1.2).
 */
export const mercatorX = (lon: number) => webMercatorRadius * lon * toRadians;

/** Northing in meters of a latitude in degrees; latitudes beyond the square world are held at its edge. */
export function mercatorY(lat: number): number {
  const held = Math.max(-webMercatorLatitude, Math.min(webMercatorLatitude, lat));
  const sin = Math.sin(held * toRadians);
  return (webMercatorRadius * Math.log((1 + sin) / (1 - sin))) / 2;
}

/** Longitude in degrees of an easting in meters. */
export const mercatorLon = (x: number) => x / webMercatorRadius / toRadians;

/** Latitude in degrees of a northing in meters. */
export const mercatorLat = (y: number) => Math.atan(Math.sinh(y / webMercatorRadius)) / toRadians;
