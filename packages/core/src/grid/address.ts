/** A tile of a quadtree grid: level, column from the west, row from the north (OGC 17-083r4, WebMercatorQuad). */
export interface TileAddress {
  readonly z: number;
  readonly x: number;
  readonly y: number;
}

/** A tile in view, and in which copy of the world (0 for the first, −1 to the west of it, and so on). */
export interface TileInView extends TileAddress {
  readonly copy: number;
}

/** `z/x/y`, the usual way to write a tile address. */
export const addressText = (t: TileAddress) => `${t.z}/${t.x}/${t.y}`;

/** One number for a tile up to level 24, for use as a map key. */
export const addressKey = (z: number, x: number, y: number) => (x * 2 ** 24 + y) * 32 + z;

/** Parses `z/x/y`; undefined if the text is not a tile address or lies outside its level. */
export function parseAddress(text: string): TileAddress | undefined {
  const match = typeof text === 'string' && /^\s*(\d{1,2})\/(\d+)\/(\d+)\s*$/.exec(text);
  if (!match) return undefined;
  const [z, x, y] = match.slice(1).map(Number);
  return z <= 30 && x < 2 ** z && y < 2 ** z ? { z, x, y } : undefined;
}

/** Whether `a` is `b` or holds it. */
export function holds(a: TileAddress, b: TileAddress): boolean {
  const up = b.z - a.z;
  return up >= 0 && Math.floor(b.x / 2 ** up) === a.x && Math.floor(b.y / 2 ** up) === a.y;
}

export const parentOf = ({ z, x, y }: TileAddress): TileAddress => ({ z: z - 1, x: x >> 1, y: y >> 1 });

/**
 * Number of a tile on the Hilbert curves of all levels, one after the other from level 0 (PMTiles 3, section 4).
 * Exact up to level 26.
 */
export function hilbertId(z: number, x: number, y: number): number {
  let id = (4 ** z - 1) / 3;
  let [cx, cy] = [x, y];
  for (let s = 2 ** z / 2; s >= 1; s /= 2) {
    const rx = Math.floor(cx / s) % 2;
    const ry = Math.floor(cy / s) % 2;
    id += s * s * ((3 * rx) ^ ry);
    [cx, cy] = rotate(s, cx % s, cy % s, rx, ry);
  }
  return id;
}

/** The tile of a number made by {@link hilbertId}. */
export function tileOfHilbertId(id: number): TileAddress {
  let z = 0;
  let base = 0;
  while (id >= base + 4 ** z) base += 4 ** z++;
  let rest = id - base;
  let [x, y] = [0, 0];
  for (let s = 1; s < 2 ** z; s *= 2) {
    const quadrant = rest % 4;
    const rx = quadrant >> 1;
    const ry = (quadrant ^ rx) & 1;
    [x, y] = rotate(s, x, y, rx, ry);
    x += s * rx;
    y += s * ry;
    rest = Math.floor(rest / 4);
  }
  return { z, x, y };
}

function rotate(s: number, x: number, y: number, rx: number, ry: number): [number, number] {
  if (ry === 1) return [x, y];
  return rx === 1 ? [s - 1 - y, s - 1 - x] : [y, x];
}
