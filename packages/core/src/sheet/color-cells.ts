import { Fault } from '../base/fault.js';
import type { CompiledExpression } from '../cql2/compile.js';
import type { FeatureBlock } from '../features/block.js';
import { findColor } from './color.js';
import type { CompiledLayer } from './compile.js';
import { selectFeatures } from './portray.js';

/** The expressions that give colors in the symbols of a layer, as `color: { is: … }`. */
function colorExpressions(node: unknown): unknown[] {
  if (typeof node !== 'object' || node === null) return [];
  return Object.entries(node).flatMap(([key, value]) => {
    const is = (value as { is?: unknown } | null)?.is;
    return key === 'color' && is !== undefined ? [is] : colorExpressions(value);
  });
}

/** A column by its name, or the expression as it stands. */
const nameOf = (is: unknown) =>
  String((is as { property?: unknown }).property ?? (typeof is === 'string' ? is : 'its expression'));

/**
 * Counts cells that are to be colors and are none; those features are drawn in the color for what is missing.
 *
 * @param layer a compiled layer
 * @param block features that it may draw
 * @param compile makes an expression of what stands at `is`
 */
export function unusableColors(
  layer: CompiledLayer,
  block: FeatureBlock,
  compile: (is: unknown) => CompiledExpression,
): Fault[] {
  const wanted = new Map(colorExpressions(layer.source).map((is) => [nameOf(is), is]));
  return [...wanted].flatMap(([name, is]) => {
    const evaluate = compile(is).bind({ block, zoom: 0 });
    const bad = new Map<string, number>();
    for (const f of selectFeatures(layer, block)) {
      const value = evaluate(f);
      if (value === undefined || value === null || (typeof value === 'string' && findColor(value))) continue;
      const shown = JSON.stringify(value);
      bad.set(shown, (bad.get(shown) ?? 0) + 1);
    }
    const count = [...bad.values()].reduce((sum, n) => sum + n, 0);
    if (!count) return [];
    const features = count === 1 ? '1 feature' : `${count} features`;
    return new Fault(
      'warn.colour',
      `${features} of layer "${layer.id}" ${count === 1 ? 'has' : 'have'} in "${name}" values that are not colors: ${[...bad.keys()].slice(0, 3).join(', ')}${bad.size > 3 ? ', …' : ''}`,
      'They are drawn in gray. Write CSS colors such as #d98a2b.',
      `$.layers[${layer.index}]`,
    );
  });
}
