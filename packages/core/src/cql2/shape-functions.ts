import type { Shape } from '../geometry/shape.js';
import type { SpatialName } from './spatial-names.js';

/** The functions of expressions that measure shapes and tell how they lie to one another. Few expressions call them, and they are large. */
export interface ShapeFunctions {
  /** See `spatialTest`. */
  readonly spatialTest: (name: SpatialName) => (a: Shape, b: Shape) => boolean;
  /** Meters. */
  readonly lengthOf: (shape: Shape) => number;
  /** Square meters. */
  readonly areaOf: (shape: Shape) => number;
}

let known: ShapeFunctions | undefined;

/** The functions; undefined in a program that fetches them only when an expression calls one. What they would answer is unknown until then. */
export const shapeFunctions = (): ShapeFunctions | undefined => known;

/** Has all expressions call these from now on; those that are bound already have to be bound again. */
export function useShapeFunctions(functions: ShapeFunctions): void {
  known = functions;
}
