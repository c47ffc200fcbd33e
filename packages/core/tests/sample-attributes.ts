// Features with all there may be to an attribute: texts that need quoting, numbers of both signs, and nothing at all.
import { readGeoJson, type FeatureBlock } from '@flintwright/core';

/** Texts, also such as need quoting. */
export const kinds = ['ferry', "O'Hara's", 'low & <wide>', '50 %', 'a_b', ''];

/** Numbers of both signs. */
export const tonnages = [-3, 0, 0.5, 4, 5, 12.25, 20, 1000];

/** A square for each pair of them, and for none. */
export const block: FeatureBlock = readGeoJson({
  type: 'FeatureCollection',
  features: [undefined, ...kinds].flatMap((kind, i) =>
    [undefined, ...tonnages].map((tonnes, k) => ({
      type: 'Feature',
      id: i * 100 + k,
      properties: { ...(kind === undefined ? {} : { kind }), ...(tonnes === undefined ? {} : { tonnes }), fee: k * 2 },
      geometry: { type: 'Polygon', coordinates: [ring(i, k)] },
    })),
  ),
});

function ring(x: number, y: number): number[][] {
  return [
    [x, y],
    [x + 0.6, y],
    [x + 0.6, y + 0.6],
    [x, y + 0.6],
    [x, y],
  ];
}
