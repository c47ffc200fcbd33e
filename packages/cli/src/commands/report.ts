import type { ReadingOptions } from './reading.js';
import { boundsOfAll, kindNames, valueAt, type FeatureBlock } from '@flintwright/core';
import { hiddenMark } from '@flintwright/core/internal';
import { degrees, paint, table, type Terminal } from '../terminal.js';
import { compileFilter, tryFilter, type FilterReport } from './filter.js';

export interface InspectOptions extends ReadingOptions {
  readonly crs?: string;
  readonly from?: string;
  readonly json?: boolean;
  readonly tile?: string;
  readonly where?: string;
}

export interface FieldReport {
  readonly name: string;
  readonly type: string;
  readonly filled: number;
  readonly samples: readonly string[];
}

export interface LayerReport {
  readonly layer: string;
  readonly features: number;
  readonly kinds: Readonly<Record<string, number>>;
  readonly vertices: number;
  readonly extent?: number;
  readonly bounds?: readonly number[];
  readonly fields: readonly FieldReport[];
}

/** The features that pass the filter of the call, layer by layer; undefined when there is none. */
export function filtered(blocks: readonly FeatureBlock[], { where }: InspectOptions): FilterReport[] | undefined {
  if (where === undefined) return undefined;
  const filter = compileFilter(where);
  return blocks.map((block) => tryFilter(block, filter));
}

/**
 * Contents of a block: counts, kinds of geometry, attributes with types and samples.
 *
 * @param features the features of the file, where a block has several for one (geometry collections); default those of the block
 */
export function reportOf(
  block: FeatureBlock,
  features?: readonly { readonly properties: Readonly<Record<string, unknown>> }[],
): LayerReport {
  const kinds: Record<string, number> = {};
  for (const kind of block.kinds) kinds[kindNames[kind]] = (kinds[kindNames[kind]] ?? 0) + 1;
  const shown = block.columns.filter(({ name }) => !name.startsWith(hiddenMark));
  const fields = shown.map((column): FieldReport => {
    const types = new Set<string>();
    const samples = new Set<string>();
    let [filled, least, most] = [0, Infinity, -Infinity];
    for (let f = 0; f < block.count; f++) {
      const value = valueAt(column, f);
      if (value === undefined || value === null) continue;
      filled++;
      types.add(typeof value === 'number' && Number.isInteger(value) ? 'integer' : typeof value);
      if (samples.size < 4) samples.add(String(value));
      if (typeof value === 'number') [least, most] = [Math.min(least, value), Math.max(most, value)];
    }
    if (types.has('number')) types.delete('integer');
    const range = least < most ? [`${least} to ${most}`] : undefined;
    return {
      name: column.name,
      type: [...types].join(' or ') || 'empty',
      filled:
        features?.reduce((sum, { properties }) => sum + ((properties[column.name] ?? null) === null ? 0 : 1), 0) ??
        filled,
      samples: range && types.size === 1 ? range : [...samples],
    };
  });
  return {
    layer: block.name,
    features: block.count,
    kinds,
    vertices: block.coords.length / 2,
    ...(block.space === 'tile' ? { extent: block.extent } : block.coords.length ? { bounds: boundsOfAll(block) } : {}),
    fields: fields.filter((field) => field.filled > 0),
  };
}

export function printLayers(layers: readonly LayerReport[], out: Terminal): void {
  for (const { layer, features, kinds, vertices, extent, bounds, fields } of layers) {
    const shapes = Object.entries(kinds)
      .map(([kind, n]) => `${n.toLocaleString('en')} ${kind === 'none' ? 'row' : kind}${n === 1 ? '' : 's'}`)
      .join(', ');
    out.say('');
    out.say(
      `${paint.yellow('◆')} ${paint.bold(layer)}  ${shapes || 'nothing'}, ${vertices.toLocaleString('en')} ${vertices === 1 ? 'vertex' : 'vertices'}${extent ? `, extent ${extent}` : ''}${bounds ? `\n  bounds ${degrees(bounds)}` : ''}`,
    );
    if (fields.length) {
      const rows = fields.map((field) => [
        `  ${field.name}`,
        field.type,
        field.filled === features ? 'all' : `${Math.round((100 * field.filled) / features)} %`,
        short(field.samples.join(' · ')),
      ]);
      out.say(table(['  attribute', 'type', 'filled', 'values'], rows, [2]));
    }
  }
}

const short = (text: string) => (text.length > 60 ? `${text.slice(0, 57)}…` : text);
