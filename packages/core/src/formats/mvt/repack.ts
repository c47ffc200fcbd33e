import { WireReader } from './wire.js';

const [tags, geometry] = [2, 4];

/**
 * Features with their lists of numbers in one piece each, as encoders mostly write them. Protocol buffers allow a list that is packed to come in
 * several pieces, or number by number (Encoding, "Packed repeated fields"): parsers have to take either.
 *
 * @param bytes of the tile
 * @param features first byte and end of each feature, by turns
 * @returns the bytes of all features, one behind the other, and where each is
 */
export function repacked(
  bytes: Uint8Array,
  features: readonly number[],
): { readonly bytes: Uint8Array; readonly features: number[] } {
  const out: number[] = [];
  const places: number[] = [];
  for (let f = 0; f < features.length; f += 2) {
    const reader = new WireReader(bytes, features[f], features[f + 1]);
    const lists = new Map<number, number[]>();
    const rest: number[] = [];
    while (reader.pos < reader.end) {
      const from = reader.pos;
      const key = reader.varint();
      const field = key >>> 3;
      if ((field === tags || field === geometry) && ((key & 7) === 0 || (key & 7) === 2)) {
        const list = lists.get(field) ?? [];
        lists.set(field, list);
        const first = (key & 7) === 2 ? reader.length('a list') : 0;
        const at = reader.pos;
        if ((key & 7) === 2) reader.pos += first;
        else reader.varint64();
        for (let i = at; i < reader.pos; i++) list.push(bytes[i]);
      } else {
        reader.skip(key & 7);
        for (let i = from; i < reader.pos; i++) rest.push(bytes[i]);
      }
    }
    places.push(out.length);
    for (const byte of rest) out.push(byte);
    for (const [field, list] of lists) {
      out.push((field << 3) | 2);
      for (let length = list.length; ; length >>>= 7) {
        out.push(length > 127 ? (length & 0x7f) | 0x80 : length);
        if (length < 128) break;
      }
      for (const byte of list) out.push(byte);
    }
    places.push(out.length);
  }
  return { bytes: Uint8Array.from(out), features: places };
}
