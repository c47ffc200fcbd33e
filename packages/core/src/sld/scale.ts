/** Scale denominator of WebMercatorQuad at level 0, for pixels of 0.28 mm (OGC 17-083r4, Annex D.1). */
const denominatorAt0 = 559082264.0287178;

const rounded = (v: number, digits: number) => Number(v.toFixed(digits));

/** Zoom level at which the equator is drawn at a scale denominator, to a hundredth. */
export const zoomOfDenominator = (denominator: number) =>
  Math.max(0, Math.min(25, rounded(Math.log2(denominatorAt0 / denominator), 2)));

/** Scale denominator at the equator of a zoom level. */
export const denominatorOfZoom = (zoom: number) => rounded(denominatorAt0 / 2 ** zoom, 2);
