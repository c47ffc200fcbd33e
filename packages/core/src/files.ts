// The door for files: readers and writers of features in every format, and the public register of coordinate systems. A map that is
// given none of these loads nothing of it; each format is a chunk of its own.
import { openRegister, type RegisteredCrs } from './crs/register/register.js';

export type { RegisteredCrs };
export { openRegister, provideRegister, type Register } from './crs/register/register.js';
export { provideSqlite } from './formats/geopackage/database.js';
export type { Database, SqlValue, StartEngine, Statement } from './formats/geopackage/engine.js';
export { crsByCode, crsFromText, type MatchedCrs } from './crs/match.js';
export { writeWkt } from './crs/write-wkt.js';
export type {
  FeatureFile,
  FileFeature,
  FileGeometry,
  FileInput,
  FileLayer,
  FileLook,
  FilePosition,
  FileReader,
  FileWriter,
  ReadFileOptions,
} from './formats/files/feature-file.js';
export { assertField, fieldNames, simplified, withFields, withJoin, withRenamed } from './formats/files/change.js';
export { type FileFormat, fileFormats } from './formats/files/formats.js';
export { blockOfLayers } from './formats/files/layer-block.js';
export { readFeatureFile } from './formats/files/read-file.js';
export { inLonLat, inSystem } from './formats/files/system.js';
export { streamedFormats, streamFeatureFile, type StreamOptions } from './formats/files/stream.js';
export { type FileWarning, WarningList } from './formats/files/warnings.js';
export { partWritten, PartWriter } from './formats/files/write-parts.js';
export type { WriteFileOptions } from './formats/files/feature-file.js';
export { formatToWrite, writableFormats, writeFeatureFile, type WrittenFile } from './formats/files/write-file.js';

/**
 * Searches the public register for coordinate systems whose name, area or code contains all words of a text.
 *
 * @param text words in any order, such as `utm 25n` or the name of a country
 * @param most maximum number of results; default 20
 */
export async function findSystems(text: string, most = 20): Promise<RegisteredCrs[]> {
  return (await openRegister()).search(text, most);
}
