// Room "files": reading files of features in a worker that is started when one comes, and let go when it is read.
import type { FaultLike, FeatureBlock, Value } from '@flintwright/core';
import type { FileLook, FileWarning } from '@flintwright/core/files';

/** What a worker is asked to read. */
export interface ReadRequest {
  readonly name: string;
  readonly bytes: Uint8Array;
  /** Files that belong to it, by their endings in lower case. */
  readonly siblings: Readonly<Record<string, Uint8Array>>;
  /** Coordinate system, as a code or a description; default the file's own. */
  readonly crs: string | undefined;
  /** Columns of a table that hold x and y; default those whose names say so. */
  readonly x?: string | undefined;
  readonly y?: string | undefined;
  /** For features that a map draws: the name of their data entry, and the attribute that is their id. */
  readonly block?: { readonly name: string; readonly id: string | undefined } | undefined;
}

/** One attribute of a layer. */
export interface FileField {
  readonly name: string;
  /** `number`, `string`, `boolean`, or several of them. */
  readonly type: string;
  /** Number of features that have it. */
  readonly filled: number;
  /** Minimum and maximum; only for numbers. */
  readonly range?: readonly [number, number];
  /** Distinct values by descending frequency, at most twelve. */
  readonly values: readonly Value[];
  /** Number of distinct values, counted up to 1000. */
  readonly different: number;
}

/** One layer of a file, in longitude and latitude. */
export interface ReadLayer {
  readonly name: string;
  /** GeoJSON (RFC 7946), longitude and latitude in degrees; coordinates of the file if its coordinate system is unknown. */
  readonly features: { readonly type: 'FeatureCollection'; readonly features: readonly object[] };
  /** Number of features for each type of geometry. */
  readonly kinds: Readonly<Record<'point' | 'line' | 'polygon' | 'none', number>>;
  /** `[west, south, east, north]` in degrees; undefined if no feature has a geometry. */
  readonly bounds: readonly [number, number, number, number] | undefined;
  /** Coordinate system of the file; undefined if unknown. The features cannot be drawn before it is set. */
  readonly crs: string | undefined;
  /** How the coordinate system was determined. */
  readonly crsSource: string;
  readonly fields: readonly FileField[];
  /** The style that the file contains, as symbols of a layer. */
  readonly look?: FileLook;
}

/** A file that was read. */
export interface ReadFile {
  readonly format: string;
  readonly layers: readonly ReadLayer[];
  /** What was repaired, left out or looks wrong. */
  readonly warnings: readonly FileWarning[];
}

/** Features for the map, and what there is to say of them. */
export interface ReadBlock {
  readonly format: string;
  readonly block: FeatureBlock;
  readonly warnings: readonly FileWarning[];
}

export type ToFileWorker =
  | { readonly read: ReadRequest }
  | { readonly register: readonly string[] }
  | { readonly sqlite: Uint8Array };

export type FromFileWorker =
  | { readonly file: ReadFile }
  | { readonly read: ReadBlock }
  | { readonly progress: number }
  | { readonly wants: 'register' | 'sqlite' }
  | { readonly fault: FaultLike };
