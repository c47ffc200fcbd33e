import { plainText } from '../base/describe-value.js';
import { readCql2 } from '../cql2/compile-text.js';
import type { Sheet } from './types.js';
import type { Schemes } from './value-kinds.js';

/**
 * The sheet with the colors of every scheme written out and every expression as a tree, so that whoever compiles it next (a
 * worker) needs neither schemes nor a parser. The sheet must be sound.
 *
 * @param findScheme gives the colors of a scheme
 */
export function selfContained(sheet: Sheet, findScheme: Schemes['find']): Sheet {
  const walk = (node: unknown): unknown => {
    if (Array.isArray(node)) return node.map(walk);
    if (typeof node !== 'object' || node === null) return node;
    const { scheme, breaks, values, categories, ...rest } = node as Record<string, unknown>;
    if (typeof scheme === 'string' && Array.isArray(breaks) && values === undefined)
      return { breaks, values: findScheme(scheme, breaks.length + 1) };
    const out: Record<string, unknown> = {};
    for (const [key, value] of Object.entries(node))
      out[key] = isExpression(key, value) ? readCql2(value as string) : walk(value);
    if (typeof scheme === 'string' && Array.isArray(categories)) {
      const colors = findScheme(scheme, categories.length) ?? [];
      delete out['scheme'];
      out['categories'] = Object.fromEntries(categories.map((kind, i) => [plainText(kind), colors[i]]));
    }
    // A label's text is an expression even without "is".
    const label = out['label'] as { text?: unknown } | undefined;
    const text = (rest['label'] as { text?: unknown } | undefined)?.text;
    if (typeof text === 'string') out['label'] = { ...label, text: { is: readCql2(text) } };
    return out;
  };
  return { ...sheet, layers: walk(sheet.layers) as Sheet['layers'] };
}

const isExpression = (key: string, value: unknown) =>
  (key === 'where' && typeof value === 'string') ||
  (key === 'is' && typeof value === 'string') ||
  (key === 'by' && typeof value === 'string' && value !== 'zoom');
