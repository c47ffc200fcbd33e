import type { CompiledLayer } from '@flintwright/core';
import { isSame, type PickedFeature } from '../base/picked-feature.js';

/** Tools of selection. */
export interface SelectionHost {
  layers(): readonly CompiledLayer[];
  flag(feature: PickedFeature, state: string, on: boolean): void;
  changed(features: readonly PickedFeature[]): void;
}

/** Which features are selected, as the sheet's layers allow: none, one at a time, or several. */
export class Selection {
  private held: readonly PickedFeature[] = [];

  constructor(private readonly host: SelectionHost) {}

  get features(): readonly PickedFeature[] {
    return this.held;
  }

  /** A press on some features, topmost first: the first that may be selected is, or no longer is; a press beside all clears. */
  press(found: readonly PickedFeature[]): void {
    const target = found.find((feature) => this.modeOf(feature) && feature.key !== undefined);
    if (!target) {
      this.set(this.held.filter((feature) => this.modeOf(feature) === 'several'));
      return;
    }
    const others = this.held.filter((feature) => !isSame(feature, target));
    const chosen = others.length < this.held.length;
    if (this.modeOf(target) === 'several') this.set(chosen ? others : [...this.held, target]);
    else this.set(chosen ? [] : [target]);
  }

  /** Puts other features in place of those selected; the same list when nothing differs. */
  set(features: readonly PickedFeature[]): void {
    const gone = this.held.filter((feature) => !features.some((other) => isSame(feature, other)));
    const come = features.filter((feature) => !this.held.some((other) => isSame(feature, other)));
    if (!gone.length && !come.length) return;
    for (const feature of gone) this.host.flag(feature, 'selected', false);
    for (const feature of come) this.host.flag(feature, 'selected', true);
    this.held = [...features];
    this.host.changed(this.held);
  }

  private modeOf(feature: PickedFeature): 'one' | 'several' | undefined {
    return this.host.layers().find(({ id }) => id === feature.layer)?.source.select;
  }
}
