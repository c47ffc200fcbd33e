// The door for files: readers and writers of features in every format, and the public register of coordinate systems. A map that is
// given none of these loads nothing of it; each format is a chunk of its own.
export { crsByCode, crsFromText, type MatchedCrs } from './crs/match.js';
export { type RegisteredCrs } from './crs/register/register.js';
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
export { type FileWarning, WarningList } from './formats/files/warnings.js';
export { formatToWrite, writableFormats, writeFeatureFile, type WrittenFile } from './formats/files/write-file.js';

/** Searches the public register: see {@link RegisteredCrs}. */
export async function findSystems(text: string, most?: number) {
  const { searchRegister } = await import('./crs/register/register.js');
  return searchRegister(text, most);
}
