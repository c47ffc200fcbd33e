import type { Crs } from '@flintwright/core';
import type { FeatureFileText, FileFeature } from './feature-file.js';

/** A collection as its file is at one time. */
export interface CollectionState {
  readonly file: FeatureFileText;
  /** Coordinate system of the file. */
  readonly storage: Crs;
  /** Why features cannot be changed; undefined where they can. */
  readonly readOnly: string | undefined;
  /** West, south, east and north in degrees; undefined without a place. */
  readonly box: readonly [number, number, number, number] | undefined;
  /** First and last millisecond of a feature; undefined where no attribute says when. */
  readonly timeOf: ((feature: FileFeature) => readonly [number, number] | undefined) | undefined;
  /** First and last time of all, as texts of the file; null for an open end. */
  readonly interval: readonly [string | null, string | null] | undefined;
}
