import type { JoinReport, TileAddress } from '@flintwright/core';
import type { MatrixGrid } from '@flintwright/core/internal';
import type { Credit } from './credit.js';

/** Where the tiles of one data entry come from. */
export interface TileSource {
  readonly zooms: readonly [number, number];
  readonly credit: readonly Credit[];
  /** `[west, south, east, north]` in degrees, where known. */
  readonly bounds: readonly [number, number, number, number] | undefined;
  /** Layer names that the source says it has; undefined where it does not say. */
  readonly layers: readonly string[] | undefined;
  /** Attributes that its features have, by layer of the tiles ("" for features); undefined where that is not known. */
  readonly attributes?: ReadonlyMap<string, readonly string[]> | undefined;
  /** The grid that its tiles belong to, where it is not WebMercatorQuad. */
  readonly grid?: MatrixGrid;
  /** Whether its tiles are cut from features that a worker holds. */
  readonly features?: boolean;
  /** Whether it is known to hold nothing. */
  readonly empty?: boolean;
  /** How the join to a table went, where there is one. */
  readonly join?: JoinReport;
  /** The bytes of a tile; undefined when there is none; `cut` when the worker cuts it from features it holds. */
  fetch(tile: TileAddress, signal: AbortSignal): Promise<Uint8Array | undefined | 'cut'>;
}
