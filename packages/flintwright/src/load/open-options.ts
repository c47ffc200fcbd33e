import type { FeatureBlock, JoinReport, SheetData } from '@flintwright/core';
import type { Numbering } from './template.js';
import type { LoadTools } from './tools.js';

export interface OpenOptions {
  readonly name: string;
  readonly data: SheetData;
  readonly tools: LoadTools;
  readonly signal: AbortSignal;
  /** How tiles of the entry are numbered. */
  readonly numbering: Numbering;
  /** Whether coordinates are the meters of a plan. */
  readonly plan: boolean;
  /** Features that were read and edited before, in place of those at the address. */
  readonly held: HeldFeatures | undefined;
}

/** Edited features on their way from one worker to another. */
export interface HeldFeatures {
  readonly block: FeatureBlock;
  readonly join: JoinReport | undefined;
}
