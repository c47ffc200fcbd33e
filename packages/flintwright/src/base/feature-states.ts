import { Fault, type CompiledSheet, type FeatureBlock } from '@flintwright/core';
import { featureKeys } from '@flintwright/core';
import type { PickedFeature } from './picked-feature.js';

/** A feature whose state is set: a picked feature, or its data entry, tile layer (none for features without layers) and key. */
export type FeatureName = Pick<PickedFeature, 'data' | 'key'> & Partial<Pick<PickedFeature, 'from'>>;

/** States of features, such as hover and selected: held by data, layer of the tiles, and key. */
export class FeatureStates {
  private readonly groups = new Map<string, Map<string, ReadonlySet<string>>>();

  /**
   * Sets or clears a state; false when it stood so already.
   *
   * @throws Fault `flag.key` when nothing tells the feature apart
   */
  set({ data, from = '', key }: FeatureName, state: string, on: boolean): boolean {
    if (key === undefined) {
      throw new Fault(
        'flag.key',
        'this feature has no key that identifies it',
        `Give the features ids, or name an attribute in data.${data}.id of the sheet.`,
      );
    }
    const group = `${data}/${from}`;
    const held = this.groups.get(group) ?? new Map<string, ReadonlySet<string>>();
    const before = held.get(key) ?? new Set<string>();
    if (before.has(state) === on) return false;
    const after = new Set(before);
    if (on) after.add(state);
    else after.delete(state);
    if (after.size) held.set(key, after);
    else held.delete(key);
    this.groups.set(group, held);
    return true;
  }

  /** Whether some feature of a layer of the tiles is in a state. */
  has({ data, from = '' }: Pick<FeatureName, 'data' | 'from'>): boolean {
    return (this.groups.get(`${data}/${from}`)?.size ?? 0) > 0;
  }

  /** For the features of a block: their states joined by `+` in the order of the sheet. Undefined when none has any. */
  of(
    { layers, sheet }: CompiledSheet,
    data: string,
    from: string,
    block: FeatureBlock,
  ): ((feature: number) => string) | undefined {
    const held = this.groups.get(`${data}/${from}`);
    if (!held?.size) return undefined;
    const keyOf = featureKeys(block, sheet.data?.[data]?.id);
    const names = layers.flatMap((layer) => (layer.data === data && layer.from === from ? layer.stateNames : []));
    const order = [...new Set(names)];
    return (feature) => {
      const states = held.get(keyOf(feature) ?? '');
      return states ? order.filter((name) => states.has(name)).join('+') : '';
    };
  }
}
