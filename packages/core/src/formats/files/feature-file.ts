// Feature files: what every format's reader hands over, before it is made into columns for the map or written in another format.
import type { AddressOrder } from '../../places/common-words.js';
import type { Crs } from '../../crs/crs.js';
import type { FileWarning, WarningList } from './warnings.js';

/** A position: x (longitude or east), y (latitude or north), and a height in meters if the file has one. */
export type FilePosition = readonly number[];

/** A geometry in the form of RFC 7946, section 3.1, in the coordinate system of its layer. */
export type FileGeometry =
  | { readonly type: 'Point'; readonly coordinates: FilePosition }
  | { readonly type: 'MultiPoint' | 'LineString'; readonly coordinates: readonly FilePosition[] }
  | { readonly type: 'MultiLineString' | 'Polygon'; readonly coordinates: readonly (readonly FilePosition[])[] }
  | { readonly type: 'MultiPolygon'; readonly coordinates: readonly (readonly (readonly FilePosition[])[])[] }
  | { readonly type: 'GeometryCollection'; readonly geometries: readonly FileGeometry[] };

/** One feature of a file. */
export interface FileFeature {
  readonly type: 'Feature';
  readonly id?: string | number;
  readonly geometry: FileGeometry | null;
  /** Attributes; lists and objects stay as they are. */
  readonly properties: Readonly<Record<string, unknown>>;
  /** Bounding box from the file (RFC 7946, section 5), recomputed when written; default none. */
  readonly bbox?: readonly number[];
  /** Foreign members (RFC 7946, section 6.1), kept only by GeoJSON; default none. */
  readonly foreign?: Readonly<Record<string, unknown>>;
}

/** The style that a file contains, as symbols of a layer. */
export type FileLook = Readonly<Record<string, unknown>>;

/** The features of one layer of a file: all of a simple format, one table or folder of another. */
export interface FileLayer {
  readonly name: string;
  readonly features: readonly FileFeature[];
  /** Coordinate system of the positions, x (east) first; undefined if unknown. */
  readonly crs: Crs | undefined;
  /** How the coordinate system was determined, in words. */
  readonly crsSource: string;
  /** Whether the file declares that positions are not degrees, in an unnamed system; default false. */
  readonly planar?: boolean;
  /** Whether the file declares its axis order; default false. */
  readonly axesNamed?: boolean;
  /** Name of features in messages, such as `line 7`; default `feature 7`. */
  readonly placeOf?: (feature: number) => string;
  /** Style from the file; default none. */
  readonly look?: FileLook;
  /** Bounding box of the whole file; default none. */
  readonly bbox?: readonly number[];
  /** Foreign members of the whole file; default none. */
  readonly foreign?: Readonly<Record<string, unknown>>;
}

/** A file that was read: its format, its layers, and warnings about all that was repaired or looks wrong. */
export interface FeatureFile {
  readonly format: string;
  readonly layers: readonly FileLayer[];
  readonly warnings: readonly FileWarning[];
}

/** The bytes of a file, and its sidecar files. */
export interface FileInput {
  /** File name with its extension. */
  readonly name: string;
  readonly bytes: Uint8Array;
  /** Path of an SQLite database that is read in place (Node.js only); `bytes` then need only be its first MiB. */
  readonly path?: string | undefined;
  /** Sidecar files by their extensions in lower case, such as `dbf` and `prj` of a shapefile; default none. */
  readonly siblings?: Readonly<Record<string, Uint8Array>>;
}

/** Options of reading. */
export interface ReadFileOptions {
  /** Coordinate system of the positions, regardless of what the file declares; default that of the file. */
  readonly crs?: Crs | undefined;
  /** Whether to stop at the first broken record; by default it is kept without a geometry and listed in the warnings. */
  readonly strict?: boolean;
  /** Columns of a table with x (longitude, easting) and y (latitude, northing); default found by their names. */
  readonly x?: string | undefined;
  readonly y?: string | undefined;
  /** Maximum decompressed size of an archive in bytes; default 1 GiB. */
  readonly unpacked?: number;
  /** Called regularly with the progress, 0 to 1; default none. */
  readonly progress?: (share: number) => void;
  /**
   * The part of a file that is read in parts.
   *
   * @internal
   */
  readonly part?: FilePart;
}

/** Where a part of a file stands in it, and what the first part settled for all. */
export interface FilePart {
  /** Lines and features before it. */
  readonly lines: number;
  readonly features: number;
  /** Choices of the reader that hold for the whole file, by their names. */
  readonly settled: Map<string, unknown>;
}

/** A choice that the first part of a file makes for all; each file makes its own where it is read whole. */
export function settle<T>(part: FilePart | undefined, name: string, choose: () => T): T {
  if (!part) return choose();
  if (!part.settled.has(name)) part.settled.set(name, choose());
  return part.settled.get(name) as T;
}

/** Features between two calls of `progress`. */
export const often = 4096;

/** A reader of one format. */
export interface FileReader {
  /** @throws Fault with the line, byte, record or feature at fault */
  read(input: FileInput, warnings: WarningList, options: ReadFileOptions): Promise<readonly FileLayer[]>;
}

/** The bytes of a file, or of several that belong together, by what follows the stem of the name: `.shp`, `_lines.shp`. */
export type FileBytes = Uint8Array | Readonly<Record<string, Uint8Array>>;

/** A writer of one format. It returns the bytes of the whole file. */
export interface FileWriter {
  write(
    layers: readonly FileLayer[],
    warnings: WarningList,
    options?: WriteFileOptions & {
      /** File name extension, for formats with several forms. */
      readonly ending?: string;
    },
  ): Promise<FileBytes>;
}

/** Options that only some formats use. */
export interface WriteFileOptions {
  /** Gazetteer: order in which addresses are written, `number-first` or `number-last`; default as the names of the streets suggest. */
  readonly addressOrder?: AddressOrder;
}
