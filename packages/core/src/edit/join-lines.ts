import { Fault } from '../base/fault.js';
import { heightBetween, raised } from './heights.js';
import { pathsOf, type EditGeometry, type EditPosition } from './shape.js';

/** Two lines in one, from the end of the first on; where both have a height there, the mean of the two. */
function chain(one: readonly EditPosition[], other: readonly EditPosition[]): readonly EditPosition[] {
  const [end, start] = [one[one.length - 1], other[0]];
  const height = heightBetween(end, start, 0.5) ?? end[2] ?? start[2];
  return [...one.slice(0, -1), raised(end, height), ...other.slice(1)];
}

/**
 * Joins lines: end to end where their ends coincide, regardless of direction; otherwise as several lines of one feature.
 *
 * @param lines two or more lines
 * @throws Fault `edit.join` for a feature that is not a line
 */
export function joinLines(lines: readonly EditGeometry[]): EditGeometry {
  const open = lines.flatMap((line) => {
    if (!line.type.endsWith('LineString'))
      throw new Fault('edit.join', `a ${line.type} is no line`, 'Choose lines alone, or areas alone.');
    return pathsOf(line).map(({ spots }) => spots);
  });
  const whole: (readonly EditPosition[])[] = [];
  const same = (a: EditPosition, b: EditPosition) => a[0] === b[0] && a[1] === b[1];
  while (open.length) {
    let path = open.shift()!;
    for (let k = 0; k < open.length;) {
      const next = open[k];
      const [first, last] = [path[0], path[path.length - 1]];
      const [start, end] = [next[0], next[next.length - 1]];
      const joined = same(last, start)
        ? chain(path, next)
        : same(last, end)
          ? chain(path, next.toReversed())
          : same(first, end)
            ? chain(next, path)
            : same(first, start)
              ? chain(next.toReversed(), path)
              : undefined;
      if (!joined) k++;
      else {
        path = joined;
        open.splice(k, 1);
        k = 0;
      }
    }
    whole.push(path);
  }
  return whole.length === 1
    ? { type: 'LineString', coordinates: whole[0] }
    : { type: 'MultiLineString', coordinates: whole };
}
