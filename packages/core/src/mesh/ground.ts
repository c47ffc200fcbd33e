import earcut from 'earcut';
import type { TileAddress } from '../grid/address.js';
import { gridHalf, type SquareGrid } from '../grid/square.js';
import type { Surface } from '../view/surface.js';
import { projectedGround } from './project-tile.js';
import {
  closesPoles,
  localFrameOf,
  projectPlace,
  toLocal,
  tilePlace,
  towardsPole,
  type LocalFrame,
} from './local-frame.js';

/** A piece of the ground in the frame of its tile: x to the east and y to the north by turns, in meters, and three indices a triangle. */
export interface GroundMesh {
  readonly frame: LocalFrame;
  readonly places: Float64Array;
  readonly indices: Uint32Array;
  /** Where each place lies in the tile, 0 to 1 from its upper left corner, where that is asked for. */
  readonly uv?: Float32Array;
}

/** The ground of a tile as the surface shows it, cut off where the surface ends. */
export function groundOf(tile: TileAddress, grid: SquareGrid, surface: Surface): GroundMesh {
  if (surface.radius) return latticeMesh(tile, grid, surface);
  const { frame, rings } = projectedGround(tile, grid, surface);
  const places: number[] = [];
  const indices: number[] = [];
  for (const ring of rings) {
    const base = places.length / 2;
    for (let i = 0; i < ring.length; i += 2) places.push(ring[i], -ring[i + 1]);
    for (const k of earcut(ring)) indices.push(base + k);
  }
  return { frame, places: Float64Array.from(places), indices: Uint32Array.from(indices) };
}

/** A tile as a lattice, fine enough to bend with the surface, for pictures and for the sphere. Cells that the surface tears apart are left out. */
export function latticeMesh(tile: TileAddress, grid: SquareGrid, surface: Surface): GroundMesh {
  const frame = localFrameOf(surface, grid, tile);
  const cells = tile.z < 4 ? 32 : tile.z < 9 ? 16 : 8;
  const side = cells + 1;
  const closes = closesPoles(grid, surface);
  const places = new Float64Array(2 * side * side).fill(NaN);
  const uv = new Float32Array(2 * side * side);
  const at: [number, number, number] = [0, 0, 0];
  for (let k = 0; k < side * side; k++) {
    const [u, v] = [(k % side) / cells, Math.floor(k / side) / cells];
    uv.set([u, v], 2 * k);
    const [lon, given] = tilePlace(grid, tile, u, v);
    const lat = closes ? towardsPole(given) : given;
    if (projectPlace(surface, lon, lat, at)) places.set(toLocal(frame, at), 2 * k);
  }
  const indices: number[] = [];
  const meters = (2 * gridHalf) / 2 ** tile.z / cells;
  for (let j = 0; j < cells; j++) {
    for (let i = 0; i < cells; i++) {
      const quad = [0, 1, side, side + 1].map((k) => j * side + i + k);
      const span = Math.max(
        ...[
          [0, 3],
          [1, 2],
        ].map(([p, q]) =>
          Math.hypot(places[2 * quad[p]] - places[2 * quad[q]], places[2 * quad[p] + 1] - places[2 * quad[q] + 1]),
        ),
      );
      // A cell many times as wide as it should be reaches from one edge of the surface to the other.
      if (!(span < meters * 12)) continue;
      indices.push(quad[0], quad[2], quad[1], quad[1], quad[2], quad[3]);
    }
  }
  return { frame, places, indices: Uint32Array.from(indices), uv };
}
