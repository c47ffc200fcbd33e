import type { TileAddress } from '@flintwright/core';

/** How a set of tiles is looked up while one settles what to draw. */
export interface Shelf<E> {
  /** The drawable entry of a tile. */
  find(z: number, x: number, y: number): E | undefined;
  /** Whether a tile is known to hold nothing. */
  isEmpty(z: number, x: number, y: number): boolean;
}

/**
 * The tiles to draw for those wanted: each of them, or else its nearest loaded ancestor and its loaded descendants.
 * Each entry comes once a copy of the world, coarse ones first, so that finer ones are laid over them.
 */
export function covering<E extends { readonly key: number; readonly tile: TileAddress }>(
  wanted: readonly (TileAddress & { readonly copy: number })[],
  shelf: Shelf<E>,
): { readonly entry: E; readonly copy: number }[] {
  const out = new Map<string, { entry: E; copy: number }>();
  const put = (entry: E, copy: number) => out.set(`${entry.key}/${copy}`, { entry, copy });
  const below = (z: number, x: number, y: number, depth: number, copy: number): void => {
    for (let k = 0; k < 4; k++) {
      const [cx, cy] = [2 * x + (k & 1), 2 * y + (k >> 1)];
      const child = shelf.find(z + 1, cx, cy);
      if (child) put(child, copy);
      else if (depth > 1) below(z + 1, cx, cy, depth - 1, copy);
    }
  };
  for (const { z, x, y, copy } of wanted) {
    const entry = shelf.find(z, x, y);
    if (entry) {
      put(entry, copy);
      continue;
    }
    if (shelf.isEmpty(z, x, y)) continue;
    for (let up = 1; up <= z; up++) {
      const ancestor = shelf.find(z - up, x >> up, y >> up);
      if (!ancestor) continue;
      put(ancestor, copy);
      break;
    }
    below(z, x, y, 3, copy);
  }
  return [...out.values()].sort((a, b) => a.entry.tile.z - b.entry.tile.z);
}

/** What is kept of tiles: how many the view needs, the present frame, and how many bytes all may hold. */
export interface Keeping<E> {
  readonly wanted: number;
  readonly frame: number;
  /** Bytes that tiles may hold together; those that serve the present frame may hold more. */
  readonly room: number;
  bytes(entry: E): number;
  busy(entry: E): boolean;
}

/**
 * The entries to let go of: those unused for longest, beyond three times what the view needs, or beyond the room that there is.
 * An entry that serves the present frame, or is busy, stays.
 */
export function idle<E extends { readonly used: number }>(
  entries: ReadonlyMap<number, E>,
  { wanted, frame, room, bytes, busy }: Keeping<E>,
): E[] {
  let over = entries.size - Math.max(64, 3 * wanted);
  let heavy = -room;
  for (const entry of entries.values()) heavy += bytes(entry);
  if (over <= 0 && heavy <= 0) return [];
  const out: E[] = [];
  const unused = [...entries.values()].filter((entry) => entry.used < frame && !busy(entry));
  for (const entry of unused.sort((a, b) => a.used - b.used)) {
    if (over <= 0 && heavy <= 0) break;
    out.push(entry);
    over--;
    heavy -= bytes(entry);
  }
  return out;
}
