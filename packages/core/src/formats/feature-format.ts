import type { FeatureBlock } from '../features/block.js';

/** Options for reading features. */
export interface FeatureTextOptions {
  /** Name of the block. */
  readonly name: string;
  /** Coordinates are degrees of longitude and latitude (`lonlat`), or meters (`plan`) that nothing checks. */
  readonly space: 'lonlat' | 'plan';
  /** Attribute whose whole, non-negative number becomes the feature's id; default none. */
  readonly id?: string | undefined;
  /** Whether a table without places is read as features without geometry, in place of a fault; default false. */
  readonly placeless?: boolean | undefined;
}

/** A text format of features. The list `featureFormats` is the only place that knows which there are. */
export interface FeatureFormat {
  /** Its name, for people. */
  readonly name: string;
  /** Endings of its files, in lower case, without the dot. Several formats may share one. */
  readonly endings: readonly string[];
  /** Whether a text of unknown origin is of this format. It sees the whole text, and must be quick. */
  recognizes(text: string): boolean;
  /** @throws Fault with the place that is at fault */
  read(text: string, options: FeatureTextOptions): FeatureBlock;
}
