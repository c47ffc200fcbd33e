import type { ClassMethod } from './symbol-types.js';

/** Natural breaks are found among at most this many values, drawn evenly from the sorted ones. */
const sampled = 1500;

/**
 * Computes class limits: `count` classes have `count - 1` limits between them, in increasing order. There are fewer if the values do not
 * allow that many. `equal`: classes of equal width. `quantile`: classes with counts as equal as ties allow. `natural`: least sum of squared
 * deviations within classes (Fisher 1958, "On grouping for maximum homogeneity"; Jenks 1977), exact for up to 1,500 values.
 *
 * @param numbers the values, in any order
 * @param method the method
 * @param count number of classes, one more than that of limits
 */
export function classBreaks(numbers: ArrayLike<number>, method: ClassMethod, count: number): number[] {
  const values = Float64Array.from(Array.from(numbers).filter(Number.isFinite)).sort();
  const n = values.length;
  if (!n) return [];
  // One value makes one class of its own, from that value on.
  if (values[0] === values[n - 1]) return [values[0]];
  const limits =
    method === 'equal'
      ? Array.from({ length: count - 1 }, (_, i) => values[0] + ((values[n - 1] - values[0]) * (i + 1)) / count)
      : method === 'quantile'
        ? Array.from({ length: count - 1 }, (_, i) => quantile(values, (i + 1) / count))
        : natural(
            n > sampled
              ? values.filter((_, i) => Math.floor((i * sampled) / n) !== Math.floor(((i - 1) * sampled) / n))
              : values,
            count,
          );
  return limits.filter((limit, i) => limit > values[0] && (i === 0 || limit > limits[i - 1]));
}

/** Quantile by linear interpolation (Hyndman and Fan 1996, definition 7). */
function quantile(values: Float64Array, share: number): number {
  const at = (values.length - 1) * share;
  const low = Math.floor(at);
  return values[low] + (values[Math.min(values.length - 1, low + 1)] - values[low]) * (at - low);
}

function natural(values: Float64Array, count: number): number[] {
  const n = values.length;
  const k = Math.min(count, new Set(values).size);
  const sums = new Float64Array(n + 1);
  const squares = new Float64Array(n + 1);
  for (let i = 0; i < n; i++) {
    sums[i + 1] = sums[i] + values[i];
    squares[i + 1] = squares[i] + values[i] * values[i];
  }
  const cost = (from: number, to: number) => {
    const sum = sums[to] - sums[from];
    return squares[to] - squares[from] - (sum * sum) / (to - from);
  };
  let best = Float64Array.from({ length: n + 1 }, (_, i) => (i ? cost(0, i) : 0));
  const starts: Int32Array[] = [];
  for (let c = 1; c < k; c++) {
    const next = new Float64Array(n + 1).fill(Infinity);
    const start = new Int32Array(n + 1);
    // The best start of the last class never moves back as the stretch grows.
    for (let i = c + 1, least = c; i <= n; i++) {
      for (let j = least; j < i; j++) {
        const sum = best[j] + cost(j, i);
        if (sum < next[i]) {
          next[i] = sum;
          start[i] = j;
        }
      }
      least = start[i];
    }
    starts.push(start);
    best = next;
  }
  const limits: number[] = [];
  for (let c = k - 2, end = n; c >= 0; c--) {
    end = starts[c][end];
    limits.unshift(values[end]);
  }
  return limits;
}
