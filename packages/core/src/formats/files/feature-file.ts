// Feature files: what every format's reader hands over, before it is made into columns for the map or written in another format.
import type { AddressOrder } from '../../places/common-words.js';
import type { Crs } from '../../crs/crs.js';
import type { FileWarning, WarningList } from './warnings.js';

/** A place: x (longitude, or east), y (latitude, or north), and a height in meters where the file has one. */
export type FilePosition = readonly number[];

/** A geometry in the form of RFC 7946, section 3.1, in whatever coordinate system its layer has. */
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
  /** The box that the file gives (RFC 7946, section 5), worked out anew where it is written; default none. */
  readonly bbox?: readonly number[];
  /** Foreign members (RFC 7946, section 6.1), which only GeoJSON has and keeps; default none. */
  readonly foreign?: Readonly<Record<string, unknown>>;
}

/** The look that a file gives its features, as symbols of a sheet's layer. */
export type FileLook = Readonly<Record<string, unknown>>;

/** The features of one layer of a file: all of a simple format, one table or folder of another. */
export interface FileLayer {
  readonly name: string;
  readonly features: readonly FileFeature[];
  /** Coordinate system of the positions, x (east) first; undefined where nothing says it. */
  readonly crs: Crs | undefined;
  /** Whence the coordinate system is known, in words. */
  readonly crsSource: string;
  /** Whether the file itself says that the positions are no degrees, in a system without a name; default false. */
  readonly planar?: boolean;
  /** Whether the file itself says which number of a pair is x and which is y; default false. */
  readonly axesNamed?: boolean;
  /** What the features are called in messages, such as `line 7`; default `feature 7`. */
  readonly placeOf?: (feature: number) => string;
  /** Look that the file itself gives; default none. */
  readonly look?: FileLook;
  /** The box of the whole, as of a feature; default none. */
  readonly bbox?: readonly number[];
  /** Foreign members of the whole, as of a feature; default none. */
  readonly foreign?: Readonly<Record<string, unknown>>;
}

/** A file as read: its format, its layers, and a word on all that was mended or looks wrong. */
export interface FeatureFile {
  readonly format: string;
  readonly layers: readonly FileLayer[];
  readonly warnings: readonly FileWarning[];
}

/** The bytes of a file, and what stands beside it. */
export interface FileInput {
  /** Its name, with its ending. */
  readonly name: string;
  readonly bytes: Uint8Array;
  /** Path of an SQLite database that is read in place (Node.js only); `bytes` then need only be its first MiB. */
  readonly path?: string | undefined;
  /** Files that belong to it, by their endings in lower case, such as `dbf` and `prj` of a shapefile; default none. */
  readonly siblings?: Readonly<Record<string, Uint8Array>>;
}

/** Limits and choices of reading. */
export interface ReadFileOptions {
  /** Coordinate system of the positions, whatever the file says; default the file's own. */
  readonly crs?: Crs | undefined;
  /** Whether the first broken record ends the read; by default it is kept without a geometry, and listed. */
  readonly strict?: boolean;
  /** Columns of a table that hold x (longitude, easting) and y (latitude, northing); default those whose names say so. */
  readonly x?: string | undefined;
  readonly y?: string | undefined;
  /** Most bytes that an archive may unpack to; default 1 GiB. */
  readonly unpacked?: number;
  /** Called now and then with the share done, 0 to 1; default nobody. */
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

/** A writer of one format. It answers the bytes of the whole file. */
export interface FileWriter {
  write(
    layers: readonly FileLayer[],
    warnings: WarningList,
    options?: WriteFileOptions & {
      /** Ending of the name of the file, where a format has several forms. */
      readonly ending?: string;
    },
  ): Promise<FileBytes>;
}

/** What only some formats ask for when they are written. */
export interface WriteFileOptions {
  /** Gazetteer: order in which addresses are written, `number-first` or `number-last`; default as the names of the streets suggest. */
  readonly addressOrder?: AddressOrder;
}
