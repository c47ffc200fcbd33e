import type { FeatureBlock, JoinReport, SheetData } from '@flintwright/core';
import { sameData } from './same-data.js';
import type { HeldFeatures } from './open-options.js';

interface Kept extends HeldFeatures {
  readonly data: SheetData;
  readonly plan: boolean;
}

/**
 * Edits of the features of one data entry, one after the other; edited features are kept for the workers that come with
 * another surface.
 */
export class FeatureEdits {
  private turn: Promise<void> | undefined;
  private edited = false;
  private kept: Kept | undefined;

  /** Does something when all that was asked for before is done. */
  inTurn(work: () => Promise<void>): Promise<void> {
    const before = this.turn ?? Promise.resolve();
    const turn: Promise<void> = before
      // Whoever asked for what went wrong is told of it; the next is not concerned.
      .catch(() => {})
      .then(async () => {
        try {
          await work();
        } finally {
          if (this.turn === turn) this.turn = undefined;
        }
      });
    this.turn = turn;
    return turn;
  }

  /** Whether edits have to be kept before the workers may go. */
  get unkept(): boolean {
    return this.edited && (!this.kept || this.turn !== undefined);
  }

  /** The features were changed by hand. */
  touched(): void {
    this.edited = true;
    this.kept = undefined;
  }

  /** Keeps edited features in their turn. */
  keep(
    plan: boolean,
    features: () => Promise<{ data: SheetData; block: FeatureBlock; join: JoinReport | undefined } | undefined>,
  ): Promise<void> {
    return this.inTurn(async () => {
      const found = await features();
      if (found) this.kept = { ...found, plan };
    });
  }

  /** Hands over what was kept, once, where the description is still that of what was edited. */
  take(data: SheetData, plan: boolean): HeldFeatures | undefined {
    const { kept } = this;
    const held = kept?.plan === plan && sameData(kept.data, data) ? kept : undefined;
    if (!held) this.edited = false;
    this.kept = undefined;
    return held;
  }

  forget(): void {
    this.edited = false;
    this.kept = undefined;
  }
}
