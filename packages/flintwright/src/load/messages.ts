import type { FaultLike, PreparedTile, Sheet, TileAddress } from '@flintwright/core';

/** What the map says to a worker. */
export type ToWorker =
  | { readonly kind: 'sheet'; readonly version: number; readonly sheet: Sheet; readonly sprites: readonly string[] }
  | {
      readonly kind: 'features';
      readonly id: number;
      readonly data: string;
      readonly source: string | object;
      readonly idName?: string;
      readonly maxZoom: number;
    }
  | { readonly kind: 'forget'; readonly data: string }
  | {
      readonly kind: 'tile';
      readonly id: number;
      readonly data: string;
      readonly tile: TileAddress;
      readonly zoom: number;
      readonly shown: readonly [number, number];
      readonly bytes?: Uint8Array;
    };

/** What a worker answers. */
export type FromWorker =
  | {
      readonly id: number;
      readonly ok: true;
      readonly version: number;
      readonly tile?: PreparedTile;
      readonly names?: readonly string[];
      readonly bounds?: readonly [number, number, number, number] | undefined;
      readonly notes?: readonly FaultLike[];
    }
  | { readonly id: number; readonly ok: false; readonly fault: FaultLike };
