import { asFault, Fault } from '@flintwright/core';
import { fetchPart } from '../base/fetch-part.js';
import type { FoundPlace } from './finder.js';

/**
 * The places that a text gives in coordinates: degrees in either order, UTM, MGRS, or the code of a coordinate system and two numbers; none for any
 * other text.
 *
 * @param text as somebody types it
 * @param kind what such a place is called
 */
export async function placesIn(text: string, kind: string): Promise<FoundPlace[]> {
  if (!/\d/.test(text)) return [];
  const { positionsInText } = await fetchPart(() => import('@flintwright/core/places'));
  try {
    return (await positionsInText(text)).map(({ at, as }) => ({
      name: `${hemispheres(at[1], 'N', 'S')}, ${hemispheres(at[0], 'E', 'W')}`,
      kind: as === 'UTM' || as === 'MGRS' ? `${kind} (${as})` : kind,
      at,
      zoom: 16,
    }));
  } catch (error) {
    // A word with a colon and numbers need not be a coordinate system.
    const fault = asFault(error, 'search.failed', 'Try again later.');
    if (fault instanceof Fault && fault.code.startsWith('crs.')) return [];
    throw fault;
  }
}

/** An angle such as `44.62000° N`. */
const hemispheres = (angle: number, positive: string, negative: string) =>
  `${Math.abs(angle).toFixed(5)}° ${angle < 0 ? negative : positive}`;
