import { getSurface, type SquareGrid, type Surface, type TileAddress } from '@flintwright/core';
import {
  gridOfMatrixSet,
  groundOf,
  latticeMesh,
  tilesInView,
  type Camera,
  type GroundMesh,
} from '@flintwright/core/internal';

import type { Device } from './device.js';
import { eyeIn, isRound } from './globe-view.js';
import { Globe } from './globe.js';
import type { Patch } from './mask.js';

// Tools of a map beyond web Mercator. Loaded when a sheet first asks for another surface, so that others pay nothing for it.

export { getSurface, gridOfMatrixSet, tilesInView };
export { surfacesWorkerText } from '../worker/surfaces-worker-text.generated.js';

/** The shapes of tiles on one surface, kept while they are in use. */
export class Ground {
  private readonly known = new Map<string, GroundMesh>();

  constructor(readonly surface: Surface) {}

  /** The ground of a tile, to its last corner. */
  private area(tile: TileAddress, grid: SquareGrid): GroundMesh {
    return this.kept('a', tile, grid, groundOf);
  }

  /** A lattice over a tile, for pictures. */
  private lattice(tile: TileAddress, grid: SquareGrid): GroundMesh {
    return this.kept('l', tile, grid, latticeMesh);
  }

  /**
   * The ground of a tile in clip space.
   *
   * @param lattice whether pictures lie on it
   */
  patch(camera: Camera, tile: TileAddress, copy: number, grid: SquareGrid, lattice: boolean): Patch {
    return bentPatch(camera, lattice ? this.lattice(tile, grid) : this.area(tile, grid), copy);
  }

  /** Draws the sphere itself. */
  makeGlobe(device: Device): Globe {
    return new Globe(device);
  }

  private kept(kind: string, tile: TileAddress, grid: SquareGrid, make: typeof groundOf): GroundMesh {
    const key = `${kind}${grid.id}/${tile.z}/${tile.x}/${tile.y}`;
    let mesh = this.known.get(key);
    if (!mesh) {
      if (this.known.size > 800) this.known.clear();
      this.known.set(key, (mesh = make(tile, grid, this.surface)));
    }
    return mesh;
  }
}

const bend = new Float64Array(16);

/** A piece of ground that bends with its surface. */
function bentPatch(camera: Camera, { frame, places, indices, uv }: GroundMesh, copy: number): Patch {
  const m = bend;
  const { wrap, radius } = camera.surface;
  camera.frameMatrix(frame, copy * wrap, m);
  const clip = new Float32Array(2 * places.length);
  const round = isRound(camera);
  const [ex, ey, ez] = camera.eye ? eyeIn(camera, frame) : [0, 0, 0];
  for (let i = 0; i < places.length; i += 2) {
    const [x, y] = [places[i], places[i + 1]];
    const p2 = x * x + y * y;
    const z = radius ? -p2 / (radius + Math.sqrt(Math.max(0, radius * radius - p2))) : 0;
    for (let row = 0; row < 4; row++) clip[2 * i + row] = m[row] * x + m[4 + row] * y + m[8 + row] * z + m[12 + row];
    // As in the shaders, the horizon is where the depth ends.
    if (round) clip[2 * i + 2] = clip[2 * i + 3] - ((x * ex + y * ey + (radius + z) * ez) / radius - 1);
  }
  return { clip, indices, ...(uv ? { uv } : {}) };
}
