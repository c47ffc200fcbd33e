import { compileCql2, Fault, type CompiledExpression, type FeatureBlock } from '@flintwright/core';
import { hiddenMark, nearestSpelling } from '@flintwright/core/internal';
import { paint, type Terminal } from '../terminal.js';

/** The features of one layer that pass a filter. */
export interface FilterReport {
  readonly layer: string;
  readonly features: number;
  readonly matches: number;
  /** Features for which the filter is neither true nor false, mostly because a value is missing. */
  readonly unknown: number;
  /** Numbers of the matching features in the file, from 0. */
  readonly indices: readonly number[];
  /** Attributes that the filter names and no feature has, with the nearest that there is. */
  readonly missing: readonly { readonly name: string; readonly near?: string }[];
}

/** @throws Fault `cql2.*` */
export function compileFilter(text: string): CompiledExpression {
  const filter = compileCql2(text);
  if (filter.sort !== 'boolean' && filter.sort !== 'any')
    throw new Fault(
      'cql2.filter',
      `"${text}" gives ${filter.sort === 'text' ? 'a text' : `a ${filter.sort}`}, but a filter must be true or false`,
      'Compare it with something.',
    );
  return filter;
}

/** Tries a filter on a block, at zoom 0 where it asks for the zoom. */
export function tryFilter(block: FeatureBlock, filter: CompiledExpression): FilterReport {
  const evaluate = filter.bind({ block, zoom: 0 });
  const indices: number[] = [];
  let unknown = 0;
  for (let f = 0; f < block.count; f++) {
    const answer = evaluate(f);
    if (answer === true) indices.push(f);
    else if (answer !== false) unknown++;
  }
  const names = block.columns.map(({ name }) => name).filter((name) => !name.startsWith(hiddenMark));
  const missing = filter.properties
    .filter((name) => !names.includes(name))
    .map((name) => {
      const near = nearestSpelling(name, names);
      return near ? { name, near } : { name };
    });
  return { layer: block.name, features: block.count, matches: indices.length, unknown, indices, missing };
}

/** Says in a line a layer how many features match. */
export function sayFilter(text: string, reports: readonly FilterReport[], out: Terminal): void {
  out.say(`\n${paint.dim('where')} ${text}`);
  for (const { layer, features, matches, unknown, missing } of reports) {
    const share = features
      ? ` (${((100 * matches) / features).toFixed(matches === features || !matches ? 0 : 1)} %)`
      : '';
    const mark = matches ? paint.green('✓') : paint.yellow('○');
    const without = unknown ? paint.dim(`, ${unknown.toLocaleString('en')} unknown for want of a value`) : '';
    out.say(
      `${mark} ${paint.bold(layer)}  ${matches.toLocaleString('en')} of ${features.toLocaleString('en')} features match${share}${without}`,
    );
    for (const { name, near } of missing)
      out.say(
        `  ${paint.yellow('!')} no feature has the attribute "${name}"${near ? `; did you mean "${near}"?` : ''}`,
      );
  }
}
