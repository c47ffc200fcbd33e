import type { EditSpace } from '@flintwright/core/edit';
import { fetchPart } from '../base/fetch-part.js';

/**
 * The place that somebody has typed: degrees, UTM, MGRS, or the code of a coordinate system and two numbers, east first. On a plan, two numbers.
 * Undefined for anything else.
 *
 * @param text such as `44.62, -31.18` or `EPSG:32625 641000 4942000`
 * @param space what the numbers of the map are
 * @throws Fault `crs.*` for a system that is not known
 */
export async function typedPlace(text: string, space: EditSpace): Promise<[number, number] | undefined> {
  if (space === 'plane' && !/^\s*[A-Za-z]/.test(text)) {
    const numbers = text.match(/[-+]?\d+(?:\.\d+)?/g)?.map(Number) ?? [];
    return numbers.length === 2 ? [numbers[0], numbers[1]] : undefined;
  }
  const { positionsInText } = await fetchPart(() => import('@flintwright/core/places'));
  const [position] = await positionsInText(text);
  return position && [position.at[0], position.at[1]];
}
