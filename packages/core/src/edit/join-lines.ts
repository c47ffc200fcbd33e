import { Fault } from '../base/fault.js';
import { pathsOf, type EditGeometry, type EditPosition } from './shape.js';

/**
 * Lines in one: end to end where their ends meet, in whatever direction they run; else as several lines of one feature.
 *
 * @param lines two or more
 * @throws Fault `edit.join` where one is no line
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
        ? [...path, ...next.slice(1)]
        : same(last, end)
          ? [...path, ...next.toReversed().slice(1)]
          : same(first, end)
            ? [...next, ...path.slice(1)]
            : same(first, start)
              ? [...next.toReversed(), ...path.slice(1)]
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
