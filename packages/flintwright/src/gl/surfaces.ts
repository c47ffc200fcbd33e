import { getSurface, type SquareGrid, type Surface, type TileAddress } from '@flintwright/core';
import { gridOfMatrixSet, groundOf, latticeMesh, type GroundMesh } from '@flintwright/core/internal';

// Tools of a map beyond web Mercator. Loaded when a sheet first asks for another surface, so that others pay nothing for it.

export { getSurface, gridOfMatrixSet };
export { surfacesWorkerText } from '../worker/surfaces-worker-text.generated.js';

/** The shapes of tiles on one surface, kept while they are in use. */
export class Ground {
  private readonly known = new Map<string, GroundMesh>();

  constructor(readonly surface: Surface) {}

  /** The ground of a tile, to its last corner. */
  area(tile: TileAddress, grid: SquareGrid): GroundMesh {
    return this.kept('a', tile, grid, groundOf);
  }

  /** A lattice over a tile, for pictures. */
  lattice(tile: TileAddress, grid: SquareGrid): GroundMesh {
    return this.kept('l', tile, grid, latticeMesh);
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
