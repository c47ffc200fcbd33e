/**
 * The so many items of greatest value, greatest first; of equal ones the first.
 *
 * @param items whole numbers: a list, or all from one up to and without another
 * @param value of an item
 * @param most how many
 */
export function largest(
  items: readonly number[] | { readonly from: number; readonly to: number },
  value: (item: number) => number,
  most: number,
): number[] {
  const list = 'from' in items ? range(items.from, items.to) : items;
  const values = new Float32Array(list.length);
  for (let i = 0; i < values.length; i++) values[i] = value(list[i]);
  const bar = barOf(values, most);
  const above: number[] = [];
  for (let i = 0; i < values.length; i++) if (values[i] >= bar) above.push(i);
  return above
    .sort((a, b) => values[b] - values[a] || list[a] - list[b])
    .slice(0, most)
    .map((i) => list[i]);
}

/** A value that a little more than so many reach, by counting them in steps. */
function barOf(values: Float32Array, most: number): number {
  if (values.length <= most) return -Infinity;
  let [low, high] = [Infinity, -Infinity];
  for (const value of values) {
    if (value < low) low = value;
    if (value > high) high = value;
  }
  const steps = 1024;
  const counts = new Uint32Array(steps + 1);
  const scale = steps / Math.max(1e-9, high - low);
  for (const value of values) counts[Math.floor((value - low) * scale)]++;
  let step = steps;
  for (let sum = counts[step]; sum < most && step > 0; sum += counts[step]) step--;
  return low + step / scale - 1e-6;
}

function range(from: number, to: number): Int32Array {
  const out = new Int32Array(Math.max(0, to - from));
  for (let i = 0; i < out.length; i++) out[i] = from + i;
  return out;
}
