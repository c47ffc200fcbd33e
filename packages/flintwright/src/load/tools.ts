import type { SquareGrid } from '@flintwright/core';
import type { Camera, MatrixGrid, TileInView } from '@flintwright/core/internal';
import type { MapContext } from '../base/map-context.js';
import type { Graphics } from '../gl/graphics.js';
import type { WorkerPool } from '../worker/pool.js';
import type { RequestHook } from './request.js';

/** Tools of loading. */
export interface LoadTools {
  readonly context: MapContext;
  readonly pool: WorkerPool;
  readonly graphics: Graphics;
  /** Address that others are relative to. */
  readonly base: string;
  readonly hook: RequestHook | undefined;
  /** Bytes that the tiles of one data entry may hold. */
  readonly tileMemory: number;
  /** Archives handed over as `File` or `Blob`, by data name. */
  readonly files: Readonly<Record<string, Blob>>;
  /** The grid of a tile matrix set. @throws Fault `grid.*` */
  gridOf(spec: string | object): MatrixGrid;
  /** The tiles of a grid that a view needs, on whatever surface; see `tilesInView` of the core. */
  tilesInView(camera: Camera, span: number, zooms: readonly [number, number], grid: SquareGrid): TileInView[];
}

/** Tiles of one data entry that are asked for at the same time. */
export const loadingAtOnce = 8;
/** Milliseconds after which a tile that failed is asked for again. */
export const retryAfter = 30000;
