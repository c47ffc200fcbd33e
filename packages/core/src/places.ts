// The door for gazetteers: names and addresses gathered from features, kept in one file, and searched as somebody types.
export {
  type Candidate,
  type FindFields,
  type FindOptions,
  Gazetteer,
  type ReverseOptions,
} from './places/gazetteer.js';
export type { AddressOrder } from './places/common-words.js';
export { foldText, wordsOf } from './places/fold.js';
export type { PlaceFeature, PlaceGeometry, PlaceList } from './places/gather.js';
export type { GazetteerContents, PlaceField, PlaceRole } from './places/record.js';
export type { WordFound } from './places/score.js';
export type { PlaceSource } from './places/store.js';
export { type BuiltGazetteer, buildGazetteer, type GazetteerOptions } from './places/write.js';
export { positionsInText, type TextPosition } from './places/positions.js';
