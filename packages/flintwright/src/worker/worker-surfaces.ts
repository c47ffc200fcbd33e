import { Fault, getCrs, getSurface, transformer, type SquareGrid } from '@flintwright/core';
import { projectTile, gridOfMatrixSet, useShapeFunctions } from '@flintwright/core/internal';
import { allShapeFunctions } from '@flintwright/core/internal/shapes';
import { featureTools } from './features.js';
import { serve } from './handler.js';
import { HeldFeatures } from './held-features.js';
import { valueTools } from './value-tools.js';

useShapeFunctions(allShapeFunctions);

const grids = new Map<string, SquareGrid>();

/** The worker that knows every surface, grid and coordinate system. */
serve({
  surface: getSurface,
  values: valueTools,
  hold: (scene) => new HeldFeatures(scene, featureTools),
  projectTile,
  grid(spec) {
    const key = JSON.stringify(spec);
    let grid = grids.get(key);
    if (!grid) grids.set(key, (grid = gridOfMatrixSet(spec).grid));
    return grid;
  },
  toDegrees(crs) {
    const system = getCrs(crs);
    const to = transformer(system, getCrs('OGC:CRS84'));
    const out: [number, number] = [0, 0];
    return (x, y) => {
      if (to(x, y, out)) return [out[0], out[1]];
      throw new Fault(
        'crs.domain',
        `the position [${x}, ${y}] lies outside the domain of ${system.id}`,
        `Check that the coordinates are in ${system.id}, x (east) first.`,
      );
    };
  },
});
