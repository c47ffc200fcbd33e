import { attributesOf, type FeatureBlock } from '@flintwright/core';

/** Returns whether a feature with these attributes is shown. */
export type FeatureTest = (properties: Readonly<Record<string, unknown>>) => boolean;

/** The application's own tests of what layers show, by layer. */
export class FeatureFilters {
  private readonly tests = new Map<string, FeatureTest>();

  /** Gives a layer a test; undefined takes it off. */
  set(layer: string, test: FeatureTest | undefined): void {
    if (test) this.tests.set(layer, test);
    else this.tests.delete(layer);
  }

  of(layer: string): FeatureTest | undefined {
    return this.tests.get(layer);
  }

  /** Whether a feature passes the test of a layer. */
  shows(layer: string, block: FeatureBlock, feature: number): boolean {
    return this.tests.get(layer)?.(attributesOf(block, feature)) ?? true;
  }
}
