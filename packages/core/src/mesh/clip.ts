/** Vertices of a ring or line, x and y by turns. */
export type Path = number[];

/** The ring of a tile of an extent, in tile units. */
export const squareOf = (extent: number): Path => [0, 0, extent, 0, extent, extent, 0, extent];

/** Whether the first vertex of a path lies in a ring. */
export function liesIn(inner: Path, ring: Path): boolean {
  const [x, y] = inner;
  let inside = false;
  for (let i = 0, j = ring.length - 2; i < ring.length; j = i, i += 2)
    if (
      ring[i + 1] > y !== ring[j + 1] > y &&
      x < ((ring[j] - ring[i]) * (y - ring[i + 1])) / (ring[j + 1] - ring[i + 1]) + ring[i]
    )
      inside = !inside;
  return inside;
}

/** The part of a ring between two bounds on one axis (Sutherland and Hodgman 1974); the ring itself where all of it is. */
export function cutRing(ring: Path, axis: 0 | 1, low: number, high: number): Path {
  let inside = true;
  for (let i = axis; i < ring.length; i += 2) if (ring[i] < low || ring[i] > high) inside = false;
  return inside ? ring : half(half(ring, axis, low, 1), axis, high, -1);
}

function half(ring: Path, axis: 0 | 1, bound: number, sign: 1 | -1): Path {
  const out: Path = [];
  const n = ring.length;
  for (let i = 0; i < n; i += 2) {
    const j = (i + n - 2) % n;
    const [a, b] = [(ring[j + axis] - bound) * sign, (ring[i + axis] - bound) * sign];
    if (a < 0 !== b < 0) {
      const t = a / (a - b);
      const other = ring[j + 1 - axis] + (ring[i + 1 - axis] - ring[j + 1 - axis]) * t;
      out.push(axis ? other : bound, axis ? bound : other);
    }
    if (b >= 0) out.push(ring[i], ring[i + 1]);
  }
  return out;
}

/** The stretches of a line between two bounds on one axis. */
export function cutLine(line: Path, axis: 0 | 1, low: number, high: number): Path[] {
  const out: Path[] = [];
  let open: Path = [];
  const end = () => {
    if (open.length > 2) out.push(open);
    open = [];
  };
  for (let i = 0; i + 3 < line.length; i += 2) {
    const [a, b] = [line[i + axis], line[i + 2 + axis]];
    const at = (t: number): [number, number] => [
      line[i] + (line[i + 2] - line[i]) * t,
      line[i + 1] + (line[i + 3] - line[i + 1]) * t,
    ];
    const bounds = [low, high].map((bound) => (bound - a) / (b - a));
    const [enter, leave] =
      a === b
        ? a >= low && a <= high
          ? [0, 1]
          : [1, 0]
        : [Math.max(0, Math.min(...bounds)), Math.min(1, Math.max(...bounds))];
    if (enter >= leave) {
      end();
      continue;
    }
    if (enter > 0) end();
    if (!open.length) open.push(...at(enter));
    open.push(...at(leave));
    if (leave < 1) end();
  }
  end();
  return out;
}
