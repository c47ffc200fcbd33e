import type {
  ClusterData,
  Expression,
  FaultLike,
  FeatureBlock,
  JoinReport,
  Sheet,
  SurfaceSpec,
  TileAddress,
} from '@flintwright/core';
import type { ClassesWanted, PlainLayer, PreparedTile } from '@flintwright/core/internal';

/** Class limits wanted, their expression as a tree. */
export type ClassesQuery = Omit<ClassesWanted, 'by'> & { readonly by: Expression };

type Trees = Readonly<Record<string, Expression>>;

/** How points come together, expressions as trees and categories in the order of their shares. */
export interface ClusterQuery {
  /** Only features that pass come together. */
  readonly where?: Expression;
  readonly within?: number;
  readonly until?: number;
  readonly least?: number;
  readonly share?: { readonly attribute: string; readonly categories: readonly string[] };
  readonly sum?: Trees;
  readonly min?: Trees;
  readonly max?: Trees;
}

/** A table on its way to the features it is joined to; `at` is where it came from. */
export interface TableJoin {
  readonly table: string | readonly object[];
  readonly match: readonly [string, string];
  readonly at?: string;
}

/** Changes of the features of a layer. */
export interface FeatureEdit {
  /** GeoJSON features to add, or to replace those with the same key. */
  readonly put?: object;
  /** New positions of point features, `[longitude, latitude]` in degrees, by key. */
  readonly move?: Readonly<Record<string, readonly [number, number]>>;
  /** Keys of features to delete. */
  readonly remove?: readonly string[];
}

/** Features to be read by a worker, which then holds them. */
export interface FeaturesRequest {
  readonly data: string;
  /** GeoJSON or a table: its text, or the GeoJSON itself; or features in arrays. */
  readonly source: string | object;
  /** The bytes of GeoJSON or a table in place of the source; they are handed over. */
  readonly pieces?: readonly Uint8Array[] | undefined;
  /** Features read already, in longitude and latitude, in place of the source. */
  readonly block?: FeatureBlock | undefined;
  readonly idName?: string | undefined;
  readonly maxZoom: number;
  /** Coordinate system of the coordinates. */
  readonly crs?: string | undefined;
  readonly greatCircles?: boolean;
  readonly join?: TableJoin | undefined;
  /** Features as another worker held them, in place of the source: read, joined and edited already. */
  readonly held?: FeatureBlock | undefined;
}

/** A tile to be prepared: of bytes, or cut from features that the worker holds. */
export interface TileRequest {
  readonly data: string;
  readonly tile: TileAddress;
  readonly zoom: number;
  /** Zoom levels at which the tile may be seen. */
  readonly shown: readonly [number, number];
  readonly bytes?: Uint8Array;
  /** Tile matrix set of the tile, where it is not WebMercatorQuad. */
  readonly grid?: string | object;
}

/** Code of the fault of a tile that a worker cannot unpack: the map does so, and tells what is wrong where it cannot either. */
export const stillPacked = 'worker.packed';

/** Features that a worker holds from now on. */
export interface AddedFeatures {
  /** `[west, south, east, north]`; undefined where there are no coordinates. */
  readonly bounds: readonly [number, number, number, number] | undefined;
  /** Names of the attributes that the features have. */
  readonly attributes: readonly string[];
  readonly join?: JoinReport;
  /** Set where they could not be read. */
  readonly unread?: UnreadFeatures;
}

/** Bytes that a worker could not read, given back for other readers. */
export interface UnreadFeatures {
  readonly fault: FaultLike;
  readonly pieces: readonly Uint8Array[];
}

/** Requests to a worker, and their replies. */
export interface WorkerCalls {
  readonly features: {
    readonly request: FeaturesRequest;
    readonly reply: AddedFeatures;
  };
  readonly export: { readonly request: { readonly data: string }; readonly reply: { readonly block: FeatureBlock } };
  readonly edit: {
    readonly request: { readonly data: string; readonly idName?: string | undefined; readonly edit: FeatureEdit };
    readonly reply: object;
  };
  readonly has: {
    readonly request: { readonly data: string; readonly keys: readonly string[]; readonly idName?: string | undefined };
    /** The keys that no feature has. */
    readonly reply: { readonly missing: readonly string[] };
  };
  readonly clusters: {
    readonly request: { readonly data: string; readonly query: ClusterQuery };
    readonly reply: { readonly data: ClusterData; readonly block: FeatureBlock };
  };
  readonly classes: {
    readonly request: { readonly data: string; readonly wanted: readonly ClassesQuery[] };
    readonly reply: { readonly breaks: readonly (readonly number[])[] };
  };
  readonly tile: {
    readonly request: TileRequest;
    readonly reply: { readonly tile: PreparedTile; readonly notes: readonly FaultLike[] };
  };
}

export type CallName = keyof WorkerCalls;
export type RequestOf<K extends CallName> = WorkerCalls[K]['request'];
export type ReplyOf<K extends CallName> = WorkerCalls[K]['reply'];

/** A call on its way to a worker. */
export interface CallMessage<K extends CallName = CallName> {
  readonly call: K;
  readonly id: number;
  readonly request: RequestOf<K>;
}

/** The sheet in force, for all work that follows. */
export interface SheetMessage {
  readonly version: number;
  readonly sheet: Sheet;
  /** Its layers, where it is plain. */
  readonly plain: readonly PlainLayer[] | undefined;
  readonly sprites: readonly string[];
  readonly surface: SurfaceSpec | undefined;
}

/** Messages to a worker: a call, the sheet in force, or data that are no longer wanted. */
export type ToWorker = CallMessage | { readonly sheet: SheetMessage } | { readonly forget: string };

/** What a worker says first: that it is there. */
export const isHere = 'here';

/** The answer of a worker to a call; `version` is that of the sheet it worked by. */
export type FromWorker =
  | { readonly id: number; readonly ok: true; readonly version: number; readonly reply: ReplyOf<CallName> }
  | { readonly id: number; readonly ok: false; readonly fault: FaultLike };
