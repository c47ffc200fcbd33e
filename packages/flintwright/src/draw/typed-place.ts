import type { EditSpace } from '@flintwright/core/edit';
import { fetchPart } from '../base/fetch-part.js';

/**
 * The place that somebody has typed: decimal degrees, degrees, minutes and seconds, or the code of a coordinate system and two numbers,
 * east first. On a plan, two numbers. Undefined for anything else.
 *
 * @param text such as `44.62, -31.18` or `EPSG:32625 641000 4942000`
 * @param space what the numbers of the map are
 * @throws Fault `crs.*` for a system that is not known
 */
export async function typedPlace(text: string, space: EditSpace): Promise<[number, number] | undefined> {
  const [, code, rest] = /^\s*([A-Za-z]+:[\w.-]+)\s+(.*)$/.exec(text) ?? [];
  const numbers = (code === undefined ? text : rest).match(/[-+]?\d+(?:\.\d+)?/g)?.map(Number) ?? [];
  if (code !== undefined && numbers.length === 2) {
    const { crsByCode } = await fetchPart(() => import('@flintwright/core/systems'));
    const crs = await crsByCode(code);
    const out: [number, number] = [0, 0];
    return crs.inverse(numbers[0], numbers[1], out) && out.every(Number.isFinite) ? out : undefined;
  }
  if (space === 'plane') return numbers.length === 2 ? [numbers[0], numbers[1]] : undefined;
  const { placeInText } = await fetchPart(() => import('@flintwright/core/places'));
  const place = placeInText(text);
  return place && Math.abs(place[1]) <= 90 && Math.abs(place[0]) <= 540 ? [place[0], place[1]] : undefined;
}
