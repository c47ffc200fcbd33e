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
  colorKind,
  compileFilter,
  type ClassesWanted,
  type CompiledValue,
  still,
  type Report,
  type Schemes,
  type ValueTools,
} from './value-kinds.js';
import { compileValue } from './value.js';
import { findHexColor, type Rgba } from './hex-color.js';
import type { CompiledExpression } from '../cql2/compile.js';
import type { PartialSymbols } from './symbol-types.js';
import type { SheetChecks } from './compile-checks.js';
import type { Sheet, SheetLayer, SheetRule } from './types.js';

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
  /** How pictures are drawn, if the layer's data are pictures. */
  readonly image?: CompiledImage;
  /** Appearance of clusters, if the sheet sets it, for a layer with clusters. */
  readonly clusterLook?: CompiledLayer;
  readonly heat?: CompiledHeat;
  readonly hasFill: boolean;
  /** Whether fills may carry a hatch or icons. */
  readonly hasPattern: boolean;
  /** Whether patterns leave out icons that an edge would cut. */
  readonly hasWholePattern: boolean;
  readonly strokePasses: number;
  /** Whether strokes have gradients, so that vertices carry shares of the line's length in place of distances. */
  readonly hasGradient: boolean;
  /** Whether marks may stand along lines. */
  readonly hasLineMarks: boolean;
  /** Whether strokes may carry gradients or marks. */
  readonly hasFancyStroke: boolean;
  readonly hasMark: boolean;
  readonly hasLabel: boolean;
  readonly hasExtrusion: boolean;
  /** Whether the marks are clustered, and drawn by cluster in place of by tile. */
  readonly clustered: boolean;
  /** RGBA texels in one appearance row. */
  readonly texels: number;
  /** First texel of each part of the row. */
  readonly parts: { readonly stroke: number; readonly mark: number; readonly heat: number; readonly extrusion: number };
  /** Attributes that the appearance depends on. */
  readonly properties: readonly string[];
  /** Zoom levels between which the appearance is interpolated, in increasing order. */
  readonly breaks: readonly number[];
  readonly usesZoom: boolean;
  readonly usesGeometry: boolean;
  /** All expressions of filters and values. */
  readonly expressions: readonly CompiledExpression[];
  /** Class limits that have to be computed from the data. */
  readonly wanted: readonly ClassesWanted[];
  readonly stateNames: readonly string[];
  /** Equal for layers with the same geometry, regardless of their appearance. */
  readonly signature: string;
  readonly source: SheetLayer;
}

/**
 * What a sheet takes beyond the common: what reads expressions, scales and colors that are not in hexadecimal, the color schemes, or the
 * functions that measure shapes and compare them.
 */
export type SheetNeed = 'values' | 'schemes' | 'shapes';

export interface CompiledSheet {
  readonly sheet: Sheet;
  /** What it takes beyond the common. */
  readonly needs: ReadonlySet<SheetNeed>;
  /** Whether no value differs from feature to feature or with the zoom, and every color is written in hexadecimal. */
  readonly plain: boolean;
  readonly layers: readonly CompiledLayer[];
  readonly background: CompiledValue<Rgba>;
  /** Colors of gradients and heat: 256 RGBA bytes each, multiplied by alpha, by the numbers that strokes and heats name. */
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

/** Tools of a compiler of sheets. */
export interface CompileTools {
  /** Reads values of every form; without it, something stands in for those that are not plain. */
  readonly values?: ValueTools | undefined;
  /** Color schemes by name. A sheet that has been made {@link selfContained} names none. */
  readonly schemes?: Schemes;
  /** Looks for what is of the right form and yet wrong. A sheet that was found sound before needs no looking. */
  readonly checks?: SheetChecks;
}

const clear: Rgba = [0, 0, 0, 0];

/** Calls of functions that measure shapes or compare them, as far as a glance tells. */
const callsShapes = /\b(?:area|length|s_[a-z]+)\s*\(|"op":"(?:area|length|s_[a-z]+)"/i;

/** What stands in for what reads values, while that is not there: every value is taken for sound, and shows nothing. */
const standIns: ValueTools = {
  colors: { find: () => clear, mix: () => () => clear },
  expression: (source) => ({
    ...still,
    text: String(source),
    tree: source,
    usesShapes: callsShapes.test(JSON.stringify(source)),
    sort: 'any',
    bind: () => () => undefined,
  }),
  scale: (_, { colors, other }) => ({ ...still, bind: () => () => (colors ? (clear as typeof other) : other) }),
};

/** Compiles a sheet of the right form; faults in its values go to `report` with their JSON paths. */
export function compileSheet(sheet: Sheet, report: Report, { schemes, checks, values }: CompileTools): CompiledSheet {
  const forms = values ?? standIns;
  let plain = true;
  const beyondPlain = <T>(value: T): T => {
    plain = false;
    return value;
  };
  const colors = colorKind(sheet.palette ?? {}, {
    find: (text) => findHexColor(text) ?? beyondPlain(forms.colors.find(text)),
    isUnsupported: (text) => forms.colors.isUnsupported?.(text) === true,
    mix: (from, to, space) => beyondPlain(forms.colors.mix(from, to, space)),
  });
  const names = Object.keys(sheet.palette ?? {});
  checks?.whole(sheet, colors, report);
  const ramps: Uint8Array[] = [];
  const needs = new Set<SheetNeed>();
  const rampNumbers = new Map<string, number>();
  const tools: LayerTools = {
    colors,
    names,
    report,
    checks,
    expression: (source) => {
      const compiled = forms.expression(source);
      if (compiled.usesShapes) needs.add('shapes');
      return compiled;
    },
    scale: (scale, kind, path, context) => beyondPlain(forms.scale(scale, kind, path, context)),
    scheme: (name, count, at) => {
      needs.add('schemes');
      if (checks && schemes && !checks.scheme(name, schemes.names, at, report)) return undefined;
      // Something stands in for colors that are not there yet, so that all else is looked at.
      return schemes?.find(name, count) ?? (schemes && Array<string>(count).fill('#888'));
    },
    // Ramps are known by what the sheet says, so that whoever compiles it gives them the same numbers.
    ramp: (key, bake) => {
      let number = rampNumbers.get(key);
      if (number === undefined) rampNumbers.set(key, (number = ramps.push(bake()) - 1));
      return number;
    },
    wanted: () => {},
  };
  const layers = sheet.layers.map((layer, index) => compileLayer(sheet, layer, index, `$.layers[${index}]`, tools));
  const background = compileValue(sheet.background, colors, [0, 0, 0, 0] as Rgba, '$.background', tools);
  checks?.background(background, report);
  const looks = layers.flatMap(({ clusterLook }) => clusterLook ?? []);
  if ([background, ...layers, ...looks].some(({ expressions, usesZoom }) => usesZoom || expressions.length))
    plain = false;
  if (!plain && !values) needs.add('values');
  return { sheet, needs, plain, layers, background, ramps };
}

/** Tools of a compiler of layers. */
interface LayerTools extends SymbolTools {
  readonly checks: SheetChecks | undefined;
}

function compileLayer(sheet: Sheet, layer: SheetLayer, index: number, path: string, shared: LayerTools): CompiledLayer {
  const { checks, report } = shared;
  const slash = layer.of.indexOf('/');
  const name = slash < 0 ? layer.of : layer.of.slice(0, slash);
  const data = sheet.data?.[name];
  checks?.data(data, name, layer, path, sheet, report);
  const wanted: ClassesWanted[] = [];
  const tools: LayerTools = {
    ...shared,
    wanted: (classes, at) => {
      wanted.push(classes);
      checks?.classes(data, at, report);
    },
  };
  const rawRules: readonly SheetRule[] = layer.rules ?? [{ otherwise: true }];
  const states =
    layer.select && !layer.states?.['selected'] ? { ...layer.states, selected: chosen(layer) } : layer.states;
  const stateNames = Object.keys(states ?? {});
  checks?.zoom(layer.zoom, path, report);
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
  checks?.popup(layer, path, tools);
  const clusterLook = layer.clusters && compileClusters(sheet, layer, index, path, shared);
  const image = layer.image ? compileImage(layer.image, `${path}.image`, tools) : undefined;
  const heat = layer.heat ? compileHeat(layer.heat, `${path}.heat`, tools) : undefined;
  checks?.drawing(layer, !image && !heat && all.every(drawsNothing), path, report);
  const values = [...all.flatMap(valuesOf), ...(heat ? [heat.weight, heat.radius] : [])];
  const filters = [where, ...rules.map((rule) => rule.where)].filter((filter) => filter !== undefined);
  const expressions = [...filters, ...values.flatMap((value) => value.expressions)];
  const usesZoom =
    values.some((v) => v.usesZoom) ||
    filters.some((filter) => filter.usesZoom) ||
    rules.some((rule) => rule.zoom !== always);
  const hasFill = all.some((s) => s.fill);
  const hasPattern = all.some((s) => s.fill?.pattern);
  const hasWholePattern = all.some((s) => s.fill?.pattern?.kind === 'icon' && s.fill.pattern.turn >= 2);
  const hasMark = all.some((s) => s.mark);
  const hasLabel = all.some((s) => s.label);
  const hasExtrusion = all.some((s) => s.extrusion);
  const strokes = all.flatMap((s) => s.strokes);
  const hasGradient = strokes.some((s) => s.gradient !== undefined);
  const hasLineMarks = strokes.some((s) => s.marks);
  if (hasGradient) checks?.gradients(data, strokes, path, report);
  if (layer.network !== undefined)
    checks?.network(layer, hasFill || hasMark || hasExtrusion || !strokes.length, strokes, path, report);
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
    hasWholePattern,
    strokePasses,
    hasGradient,
    hasLineMarks,
    hasFancyStroke: hasGradient || hasLineMarks,
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
      [
        hasFill,
        hasPattern,
        strokePasses,
        hasGradient,
        hasLineMarks,
        hasMark,
        heat !== undefined,
        hasExtrusion,
        hasLabel,
      ],
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
  tools: LayerTools,
): CompiledLayer {
  tools.checks?.clusters(sheet, id, of, path, tools.report);
  const { mark, label } = clusters!;
  const look = { id, of, mark, ...(label ? { label: { side: 'on' as const, ...label } } : {}) };
  return compileLayer({ ...sheet, data: { [of]: { features: '' } } }, look, index, `${path}.clusters`, tools);
}

/** How selected features stand out where the sheet allows selection and does not say how it looks. */
function chosen({ mark, rules }: SheetLayer): PartialSymbols {
  const marked = mark !== undefined || rules?.some((rule) => rule.mark);
  return marked ? { mark: { outline: { color: '#d98a2b', width: 3 } } } : { stroke: { color: '#d98a2b', width: 3 } };
}

/** Inputs of the text of a label: its expressions, and the values of a scale. */
const labelContent = ({ text, content }: CompiledLabel) => [text.expressions.map((e) => e.tree), content];

function compileRule(
  layer: SheetLayer,
  rule: SheetRule,
  index: number,
  path: string,
  layerPath: string,
  tools: LayerTools,
): CompiledRule {
  const { where: text, zoom, otherwise: _, title, ...own } = rule;
  tools.checks?.rule(layer, rule, index, path, tools.report);
  tools.checks?.zoom(zoom, path, tools.report);
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
