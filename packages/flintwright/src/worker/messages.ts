import type {
  ClassesWanted,
  ClusterData,
  Expression,
  FaultLike,
  FeatureBlock,
  JoinReport,
  PreparedTile,
  Sheet,
  SurfaceSpec,
  TileAddress,
} from '@flintwright/core';

/** Class limits wanted, their expression as a tree. */
export type TreeClasses = Omit<ClassesWanted, 'by'> & { readonly by: Expression };

/** How points come together, expressions as trees and kinds in the order of their shares. */
export interface TreeCluster {
  /** Only features that pass come together. */
  readonly where?: Expression;
  readonly within?: number;
  readonly until?: number;
  readonly least?: number;
  readonly share?: { readonly attribute: string; readonly kinds: readonly string[] };
  readonly sum?: Readonly<Record<string, Expression>>;
  readonly low?: Readonly<Record<string, Expression>>;
  readonly high?: Readonly<Record<string, Expression>>;
}

/** A table on its way to the features it is joined to; `at` is where it came from. */
export interface TableJoin {
  readonly table: string | readonly object[];
  readonly match: readonly [string, string];
  readonly at?: string;
}

/** Changes of the features of a layer. */
export interface FeatureEdit {
  /** GeoJSON features to add, or to put in the place of those of the same key. */
  readonly put?: object;
  /** New places of point features, `[longitude, latitude]` by key. */
  readonly move?: Readonly<Record<string, readonly [number, number]>>;
  /** Keys of features to take out. */
  readonly remove?: readonly string[];
}

/** What the map says to a worker. */
export type ToWorker =
  | {
      readonly kind: 'sheet';
      readonly version: number;
      readonly sheet: Sheet;
      readonly sprites: readonly string[];
      readonly surface: SurfaceSpec | undefined;
    }
  | {
      readonly kind: 'features';
      readonly id: number;
      readonly data: string;
      readonly source: string | object;
      readonly idName?: string;
      readonly maxZoom: number;
      /** Coordinate system of the coordinates. */
      readonly crs?: string;
      readonly greatCircles?: boolean;
      readonly join?: TableJoin;
      /** Features as another worker held them, in place of the source: read, joined and edited already. */
      readonly held?: FeatureBlock;
    }
  | { readonly kind: 'hand'; readonly id: number; readonly data: string }
  | {
      readonly kind: 'edit';
      readonly id: number;
      readonly data: string;
      readonly idName?: string | undefined;
      readonly edit: FeatureEdit;
    }
  | { readonly kind: 'clusters'; readonly id: number; readonly data: string; readonly cluster: TreeCluster }
  | {
      readonly kind: 'classes';
      readonly id: number;
      readonly data: string;
      readonly wanted: readonly TreeClasses[];
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
      /** Tile matrix set of the tile, where it is not WebMercatorQuad. */
      readonly grid?: string | object;
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
      readonly join?: JoinReport;
      readonly clusters?: { readonly data: ClusterData; readonly block: FeatureBlock };
      readonly breaks?: readonly (readonly number[])[];
      readonly block?: FeatureBlock;
    }
  | { readonly id: number; readonly ok: false; readonly fault: FaultLike };
