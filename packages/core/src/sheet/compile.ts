import { Fault } from '../base/fault.js';
import { nearestSpelling } from '../base/spelling.js';
import { checkIcons, checkPalettes, checkPopup } from './compile-checks.js';
import {
  compileHeat,
  compileImage,
  compileSymbols,
  drawsNothing,
  mergeSymbols,
  pickSymbols,
  valuesOf,
  type CompiledHeat,
  type CompiledImage,
  type CompiledLabel,
  type CompiledSymbols,
  type SymbolTools,
} from './symbols.js';
import {
  colourKind,
  compileFilter,
  type ClassesWanted,
  type CompiledValue,
  type ExpressionCompiler,
  type Report,
  type Schemes,
} from './value-kinds.js';
import { compileValue } from './value.js';
import type { Rgba } from './colour.js';
import { compileTree, type CompiledExpression } from '../cql2/compile.js';
import type { Expression } from '../cql2/tree.js';
import type { PartialSymbols } from './symbol-types.js';
import type { Sheet, SheetData, SheetLayer, SheetRule } from './types.js';

export type * from './symbols.js';

export interface CompiledRule {
  readonly where?: CompiledExpression;
  readonly zoom: readonly [number, number];
  readonly title?: string;
  readonly symbols: CompiledSymbols;
  /** The symbols in a state, or in several: names joined by `+` in the order of the sheet. */
  inStates(names: string): CompiledSymbols;
}

export interface CompiledLayer {
  readonly id: string;
  readonly title: string;
  readonly index: number;
  readonly data: string;
  /** Layer of the tiles; empty for features without layers. */
  readonly from: string;
  readonly where?: CompiledExpression;
  readonly zoom: readonly [number, number];
  readonly visible: boolean;
  readonly opacity: number;
  readonly rules: readonly CompiledRule[];
  /** How pictures are drawn, where the layer's data are pictures. */
  readonly image?: CompiledImage;
  /** How clusters look, where the sheet says so: a layer whose features are clusters. */
  readonly clusterLook?: CompiledLayer;
  readonly heat?: CompiledHeat;
  readonly hasFill: boolean;
  /** Whether fills may carry a hatch or icons. */
  readonly hasPattern: boolean;
  readonly strokePasses: number;
  /** Whether strokes are coloured along the line, so that vertices carry shares of its length in place of distances. */
  readonly hasGradient: boolean;
  /** Whether strokes may carry gradients or marks. */
  readonly hasFancyStroke: boolean;
  readonly hasMark: boolean;
  readonly hasLabel: boolean;
  readonly hasExtrusion: boolean;
  /** Whether the marks come together in clusters, and are drawn as these stand and not tile by tile. */
  readonly clustered: boolean;
  /** RGBA texels in one appearance row. */
  readonly texels: number;
  /** Texel of the row at which each part begins. */
  readonly parts: { readonly stroke: number; readonly mark: number; readonly heat: number; readonly extrusion: number };
  /** Attributes that decide the appearance. */
  readonly properties: readonly string[];
  /** Zoom levels between which appearance runs smoothly, in rising order. */
  readonly breaks: readonly number[];
  readonly usesZoom: boolean;
  readonly usesGeometry: boolean;
  /** All expressions of filters and values. */
  readonly expressions: readonly CompiledExpression[];
  /** Class limits that are still to be found in the data. */
  readonly wanted: readonly ClassesWanted[];
  readonly stateNames: readonly string[];
  /** Equal for layers whose geometry is the same whatever their appearance. */
  readonly signature: string;
  readonly source: SheetLayer;
}

/** What a sheet takes beyond the common: the colour schemes, or the functions that measure shapes and compare them. */
export type SheetNeed = 'schemes' | 'shapes';

export interface CompiledSheet {
  readonly sheet: Sheet;
  /** What it takes beyond the common. */
  readonly needs: ReadonlySet<SheetNeed>;
  readonly layers: readonly CompiledLayer[];
  readonly background: CompiledValue<Rgba>;
  /** Colours of gradients and heat: 256 RGBA bytes each, multiplied by alpha, by the numbers that strokes and heats name. */
  readonly ramps: readonly Uint8Array[];
}

/** Texels of each part of an appearance row. */
export const fillTexels = 2;
export const patternTexels = 2;
export const strokeTexels = 4;
export const markTexels = 5;
export const heatTexels = 1;
export const extrusionTexels = 3;

const always: readonly [number, number] = [0, 25];

/** Tools of a compiler of sheets. A sheet that has been made {@link selfContained} needs none of it. */
export interface CompileTools {
  /** Colour schemes by name. */
  readonly schemes?: Schemes;
  /** Reads CQL2 text; without it only trees are understood. */
  readonly expression?: ExpressionCompiler;
}

/** Compiles a sheet of the right form; faults in its values go to `report` with their JSON paths. */
export function compileSheet(
  sheet: Sheet,
  report: Report,
  { schemes, expression = compileTree }: CompileTools = {},
): CompiledSheet {
  const colours = colourKind(sheet.palette ?? {});
  const names = Object.keys(sheet.palette ?? {});
  checkPalettes(sheet, colours, report);
  checkIcons(sheet, report);
  const seen = new Set<string>();
  const ramps: Uint8Array[] = [];
  const needs = new Set<SheetNeed>();
  const rampNumbers = new Map<string, number>();
  const tools = {
    colours,
    names,
    report,
    expression: (source: string | Expression) => {
      const compiled = expression(source);
      if (compiled.usesShapes) needs.add('shapes');
      return compiled;
    },
    scheme: schemeFinder(schemes, report, needs),
    // Ramps are known by what the sheet says, so that whoever compiles it gives them the same numbers.
    ramp: (key: string, bake: () => Uint8Array) => {
      let number = rampNumbers.get(key);
      if (number === undefined) rampNumbers.set(key, (number = ramps.push(bake()) - 1));
      return number;
    },
  };
  const layers = sheet.layers.map((layer, index) => {
    const path = `$.layers[${index}]`;
    if (seen.has(layer.id))
      report(
        new Fault(
          'sheet.layer.twice',
          `two layers are called "${layer.id}"`,
          'Give each layer a name of its own.',
          `${path}.id`,
        ),
      );
    seen.add(layer.id);
    return compileLayer(sheet, layer, index, path, { ...tools, wanted: () => {} });
  });
  const background = compileValue(sheet.background, colours, [0, 0, 0, 0] as Rgba, '$.background', {
    ...tools,
    wanted: () => {},
  });
  if (background.properties.length)
    report(
      new Fault(
        'sheet.background',
        'the background has no attributes to go by',
        'Use a colour, or a scale by zoom.',
        '$.background',
      ),
    );
  return { sheet, needs, layers, background, ramps };
}

/** Finds the colours of a scheme and reports one that there is not; without schemes all goes unsaid. */
function schemeFinder(schemes: Schemes | undefined, report: Report, needs: Set<SheetNeed>): SymbolTools['scheme'] {
  return (name, count, at) => {
    needs.add('schemes');
    if (schemes && !schemes.names.includes(name)) {
      const near = nearestSpelling(name, schemes.names);
      report(
        new Fault(
          'sheet.scheme',
          `there is no scheme "${name}"`,
          near ? `Did you mean "${near}"?` : `Schemes: ${schemes.names.join(', ')}.`,
          at,
        ),
      );
      return undefined;
    }
    // Something stands in for colours that are not there yet, so that all else is looked at.
    return schemes?.find(name, count) ?? (schemes && Array<string>(count).fill('#888'));
  };
}

/** Checks that a layer fits the data it draws. */
function checkData(
  data: SheetData | undefined,
  name: string,
  layer: SheetLayer,
  path: string,
  sheet: Sheet,
  report: Report,
): void {
  const known = Object.keys(sheet.data ?? {});
  if (!data) {
    const near = nearestSpelling(name, known);
    report(
      new Fault(
        'sheet.data',
        `there is no data called "${name}"`,
        near ? `Did you mean "${near}"?` : `The sheet's data: ${known.join(', ') || 'none'}.`,
        `${path}.of`,
      ),
    );
    return;
  }
  if (data.tiles !== undefined && !layer.of.includes('/'))
    report(
      new Fault(
        'sheet.of',
        `"${name}" holds tiles, which have layers, and "of" names none`,
        `Write "${name}/…" with the name of a layer; flintwright inspect lists them.`,
        `${path}.of`,
      ),
    );
  if (data.cluster && data.features === undefined)
    report(
      new Fault(
        'sheet.cluster',
        `"${name}" is to be clustered, and holds no features`,
        'Points come together only where all of them are there; give them as "features".',
        `$.data.${name}.cluster`,
      ),
    );
  if ((data.images !== undefined) !== (layer.image !== undefined))
    report(
      new Fault(
        'sheet.image',
        data.images === undefined
          ? `layer "${layer.id}" has an image, and "${name}" holds no pictures`
          : `"${name}" holds pictures, and layer "${layer.id}" has no image`,
        data.images === undefined
          ? 'Give the data "images", or draw its features with fill, stroke, mark or label.'
          : 'Write "image": {} in the layer.',
        path,
      ),
    );
}

function compileLayer(
  sheet: Sheet,
  layer: SheetLayer,
  index: number,
  path: string,
  shared: SymbolTools,
): CompiledLayer {
  const { report } = shared;
  const slash = layer.of.indexOf('/');
  const name = slash < 0 ? layer.of : layer.of.slice(0, slash);
  const data = sheet.data?.[name];
  checkData(data, name, layer, path, sheet, report);
  const wanted: ClassesWanted[] = [];
  const tools: SymbolTools = {
    ...shared,
    wanted: (classes, at) => {
      wanted.push(classes);
      if (data?.tiles !== undefined)
        report(
          new Fault(
            'sheet.classes.tiles',
            `class limits cannot be found in tiles, which never are there all at once`,
            'Give the limits as "breaks"; flintwright inspect shows the range of each attribute.',
            `${at}.classes`,
          ),
        );
    },
  };
  const rawRules: readonly SheetRule[] = layer.rules ?? [{ otherwise: true }];
  const states =
    layer.select && !layer.states?.['selected'] ? { ...layer.states, selected: chosen(layer) } : layer.states;
  const stateNames = Object.keys(states ?? {});
  checkZoom(layer.zoom, path, tools);
  const rules = rawRules.map((rule, i) =>
    compileRule(
      { ...layer, ...(states ? { states } : {}) },
      rule,
      i,
      layer.rules ? `${path}.rules[${i}]` : path,
      path,
      tools,
    ),
  );
  const where = layer.where === undefined ? undefined : compileFilter(layer.where, `${path}.where`, tools);
  const all = rules.flatMap((rule) => [rule.symbols, ...stateNames.map((state) => rule.inStates(state))]);
  checkPopup(layer, path, tools);
  const clusterLook = layer.clusters && compileClusters(sheet, layer, index, path, shared);
  const image = layer.image ? compileImage(layer.image, `${path}.image`, tools) : undefined;
  const heat = layer.heat ? compileHeat(layer.heat, `${path}.heat`, tools) : undefined;
  if (!image && !heat && all.every(drawsNothing)) {
    report(
      new Fault(
        'sheet.layer.empty',
        `layer "${layer.id}" says nothing to draw`,
        'Give it a fill, a stroke, a mark, a label, a heat or an extrusion.',
        path,
      ),
    );
  }
  if (data?.tiles !== undefined && all.some(({ strokes }) => strokes.some((s) => s.gradient !== undefined)))
    report(
      new Fault(
        'sheet.gradient.tiles',
        'a gradient runs along whole lines, and tiles hold only pieces of them',
        'Give the lines as "features".',
        path,
      ),
    );
  const values = [...all.flatMap(valuesOf), ...(heat ? [heat.weight, heat.radius] : [])];
  const filters = [where, ...rules.map((rule) => rule.where)].filter((filter) => filter !== undefined);
  const expressions = [...filters, ...values.flatMap((value) => value.expressions)];
  const usesZoom =
    values.some((v) => v.usesZoom) ||
    filters.some((filter) => filter.usesZoom) ||
    rules.some((rule) => rule.zoom !== always);
  const hasFill = all.some((s) => s.fill);
  const hasPattern = all.some((s) => s.fill?.pattern);
  const hasMark = all.some((s) => s.mark);
  const hasLabel = all.some((s) => s.label);
  const hasExtrusion = all.some((s) => s.extrusion);
  const strokes = all.flatMap((s) => s.strokes);
  const hasGradient = strokes.some((s) => s.gradient !== undefined);
  if (hasGradient && strokes.some((s) => s.dash.length || s.marks))
    report(
      new Fault(
        'sheet.stroke',
        'a layer has a gradient along its lines beside dashes or marks',
        'Give the one and the other layers of their own.',
        path,
      ),
    );
  const strokePasses = Math.max(0, ...all.map((s) => s.strokes.length));
  const stroke = hasFill ? fillTexels + (hasPattern ? patternTexels : 0) : 0;
  const mark = stroke + strokePasses * strokeTexels;
  const heatAt = mark + (hasMark ? markTexels : 0);
  const extrusion = heatAt + (heat ? heatTexels : 0);
  const wholes = Array.from({ length: 26 }, (_, i) => i);
  return {
    id: layer.id,
    title: layer.title ?? layer.id,
    index,
    data: name,
    from: slash < 0 ? '' : layer.of.slice(slash + 1),
    ...(where ? { where } : {}),
    zoom: layer.zoom ?? always,
    visible: layer.visible ?? true,
    opacity: layer.opacity ?? 1,
    rules,
    ...(image ? { image } : {}),
    ...(heat ? { heat } : {}),
    ...(clusterLook ? { clusterLook } : {}),
    hasFill,
    hasPattern,
    strokePasses,
    hasGradient,
    hasFancyStroke: hasGradient || strokes.some((s) => s.marks),
    hasMark,
    hasLabel,
    hasExtrusion,
    clustered: data?.cluster !== undefined && hasMark,
    texels: extrusion + (hasExtrusion ? extrusionTexels : 0),
    parts: { stroke, mark, heat: heatAt, extrusion },
    properties: [...new Set(expressions.flatMap((e) => e.properties))],
    breaks: usesZoom ? [...new Set([...wholes, ...rules.flatMap((rule) => rule.zoom)])].sort((a, b) => a - b) : [0, 25],
    usesZoom,
    usesGeometry: expressions.some((e) => e.usesGeometry),
    expressions,
    wanted,
    stateNames,
    // Of trees alone, so that whoever compiles the sheet, from texts or from trees, comes to the same.
    signature: JSON.stringify([
      layer.of,
      where?.tree,
      rules.map((rule, i) => [rule.where?.tree, rawRules[i].otherwise]),
      [hasFill, hasPattern, strokePasses, hasGradient, hasMark, heat !== undefined, hasExtrusion, hasLabel],
      expressions.filter((e) => e.usesGeometry).map((e) => e.tree),
      all.map(({ label }) => label && [labelContent(label), label.upper, label.along]),
    ]),
    source: layer,
  };
}

/** How clusters look: a layer of its own, whose features are clusters. */
function compileClusters(
  sheet: Sheet,
  { id, of, clusters }: SheetLayer,
  index: number,
  path: string,
  tools: SymbolTools,
): CompiledLayer {
  const { report } = tools;
  if (!sheet.data?.[of]?.cluster)
    report(
      new Fault(
        'sheet.clusters',
        `layer "${id}" says how clusters look, and the points of "${of}" do not come together`,
        `Give the data its "cluster": {}.`,
        `${path}.clusters`,
      ),
    );
  const { mark, label } = clusters!;
  const look = { id, of, mark, ...(label ? { label: { anchor: 'center' as const, ...label } } : {}) };
  return compileLayer({ ...sheet, data: { [of]: { features: '' } } }, look, index, `${path}.clusters`, tools);
}

/** How selected features stand out where the sheet allows selection and does not say how it looks. */
function chosen({ mark, rules }: SheetLayer): PartialSymbols {
  const marked = mark !== undefined || rules?.some((rule) => rule.mark);
  return marked ? { mark: { outline: { color: '#d98a2b', width: 3 } } } : { stroke: { color: '#d98a2b', width: 3 } };
}

/** Inputs of the text of a label: its expressions, and the values of a scale. */
const labelContent = ({ text, content }: CompiledLabel) => [text.expressions.map((e) => e.tree), content];

function checkZoom(zoom: readonly [number, number] | undefined, path: string, { report }: SymbolTools): void {
  if (zoom && !(zoom[0] < zoom[1]))
    report(
      new Fault(
        'sheet.zoom',
        `zooms from ${zoom[0]} to ${zoom[1]} hold nothing`,
        'Write [first, end] with first below end.',
        `${path}.zoom`,
      ),
    );
}

function compileRule(
  layer: SheetLayer,
  rule: SheetRule,
  index: number,
  path: string,
  layerPath: string,
  tools: SymbolTools,
): CompiledRule {
  const { report } = tools;
  const { where: text, zoom, otherwise, title, ...own } = rule;
  if (text !== undefined && otherwise)
    report(new Fault('sheet.rule', 'a rule has both where and otherwise', 'Keep one of them.', path));
  if (otherwise && layer.rules && index < layer.rules.length - 1)
    report(new Fault('sheet.rule', 'rules after an "otherwise" are never reached', 'Put "otherwise" last.', path));
  checkZoom(zoom, path, tools);
  const base = mergeSymbols(pickSymbols(layer), pickSymbols(own));
  const symbols = compileSymbols(base, path, tools);
  const made = new Map<string, CompiledSymbols>();
  const where = text === undefined ? undefined : compileFilter(text, `${path}.where`, tools);
  return {
    ...(where ? { where } : {}),
    zoom: zoom ?? always,
    ...(title === undefined ? {} : { title }),
    symbols,
    inStates: (names) => {
      let found = made.get(names);
      if (!found) {
        const merged = names.split('+').reduce((sum, name) => mergeSymbols(sum, layer.states?.[name] ?? {}), base);
        made.set(names, (found = compileSymbols(merged, `${layerPath}.states.${names}`, tools)));
      }
      return found;
    },
  };
}
