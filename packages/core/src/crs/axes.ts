import type { Crs, Pair } from './crs.js';

/** Turns a pair in place. */
type Turn = (xy: Pair) => void;

/**
 * Coordinates in the order and directions of a system's authority as x east and y north, and back.
 *
 * @param crs a system; polar ones, both of whose axes lead to or from the pole, have x first unless they say `northFirst`
 */
export function authorityAxes({ definition: { axes, method, northFirst } }: Crs): {
  readonly toXY: Turn;
  readonly fromXY: Turn;
} {
  const [first, second] = axes ?? (method ? ['east', 'north'] : ['north', 'east']);
  const isPolar = first === second;
  const swap = isPolar
    ? northFirst === true
    : (first === 'north' || first === 'south') && (second === 'east' || second === 'west');
  // Along the axes of a polar system, x and y grow as they do anyway.
  const signX = !isPolar && (swap ? second : first) === 'west' ? -1 : 1;
  const signY = !isPolar && (swap ? first : second) === 'south' ? -1 : 1;
  return {
    toXY(xy) {
      const [a, b] = swap ? [xy[1], xy[0]] : xy;
      [xy[0], xy[1]] = [a * signX, b * signY];
    },
    fromXY(xy) {
      const [x, y] = [xy[0] * signX, xy[1] * signY];
      [xy[0], xy[1]] = swap ? [y, x] : [x, y];
    },
  };
}
