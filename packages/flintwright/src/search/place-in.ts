import { fetchPart } from '../base/fetch-part.js';
import type { FoundPlace } from './finder.js';

/** The place that a text gives in coordinates, in decimal degrees or degrees, minutes and seconds; none for any other text. */
export async function placeIn(text: string, kind: string): Promise<FoundPlace[]> {
  if (!/\d/.test(text) || !/^[-+−\d\s.,;:°º'′’"″”NSEWnsew/]+$/.test(text)) return [];
  const { placeInText } = await fetchPart(() => import('@flintwright/core/places'));
  const at = placeInText(text);
  if (!at || Math.abs(at[1]) > 90 || Math.abs(at[0]) > 360) return [];
  return [{ name: `${at[1].toFixed(5)}, ${at[0].toFixed(5)}`, kind, at, zoom: 16 }];
}
