import type { Scope } from '../cql2/compile.js';
import type { FeatureBlock } from '../features/block.js';
import { findColumn } from '../features/block.js';
import type { Rgba } from './hex-color.js';
import {
  strokeTexels,
  type CompiledLabel,
  type CompiledLayer,
  type CompiledMark,
  type CompiledPattern,
  type CompiledRule,
  type CompiledStroke,
  type CompiledSymbols,
} from './compile.js';
import { drawnKinds, type PlainLayer, type Portrayal, type ZoomStep } from './plain.js';
import type { CompiledValue } from './value-kinds.js';

/** The step of a layer that holds a zoom level. */
export function stepOf(layer: CompiledLayer, zoom: number): ZoomStep {
  const { breaks } = layer;
  let i = 0;
  while (i < breaks.length - 2 && zoom >= breaks[i + 1]) i++;
  return [breaks[i], breaks[i + 1]];
}

/**
 * The features of a block that a layer draws at any zoom: those that pass its filter and some rule's. Filters that
 * depend on zoom are left to {@link Portrayer}.
 */
export function selectFeatures(layer: CompiledLayer, block: FeatureBlock): Uint32Array {
  const scope = { block, zoom: 0 };
  const whole = layer.where && !layer.where.usesZoom ? layer.where.bind(scope) : undefined;
  const open = layer.rules.some((rule) => !rule.where || rule.where.usesZoom);
  const filters = open ? [] : layer.rules.map((rule) => rule.where!.bind(scope));
  const kinds = drawnKinds(layer);
  const out = new Uint32Array(block.count);
  let count = 0;
  for (let f = 0; f < block.count; f++) {
    if (!kinds[block.kinds[f]]) continue;
    if (whole && whole(f) !== true) continue;
    if (!open && !filters.some((filter) => filter(f) === true)) continue;
    out[count++] = f;
  }
  return out.slice(0, count);
}

/**
 * Portrays the features of compiled layers.
 *
 * @param sprites number of a shape or icon by its name
 */
export const sheetPortrayal = (sprites: (name: string) => number): Portrayal<CompiledLayer> => ({
  select: selectFeatures,
  step: stepOf,
  rows: (layer, block, features, step) => new Portrayer(layer, block, step, sprites).rows(features),
});

/** A feature without attributes. */
const anyFeature: FeatureBlock = {
  name: '',
  space: 'tile',
  extent: 0,
  count: 1,
  kinds: new Uint8Array(1),
  ids: new Float64Array(1),
  featureParts: new Uint32Array(2),
  partRings: new Uint32Array(1),
  ringStarts: new Uint32Array(1),
  coords: new Int32Array(),
  columns: [],
};

/** A layer of a plain sheet as data; see {@link PlainLayer}. */
export function plainLayer(layer: CompiledLayer, sprites: (name: string) => number): PlainLayer {
  const { id, data, from, zoom, signature, clustered, texels, parts, hasFill, strokePasses, hasGradient } = layer;
  const { hasLineMarks, hasMark, hasLabel, hasExtrusion } = layer;
  return {
    ...{ id, data, from, zoom, signature, clustered, texels, parts, hasFill, strokePasses, hasGradient },
    ...{ hasLineMarks, hasMark, hasLabel, hasExtrusion },
    row: new Portrayer(layer, anyFeature, [0, 25], sprites).rows([0]),
  };
}

/** How one label looks at both ends of a zoom step. */
export interface LabelStyle {
  readonly label: CompiledLabel;
  readonly size: readonly [number, number];
  readonly color: readonly [Rgba, Rgba];
  readonly halo: Rgba;
  readonly priority: number;
  /** A symbol before the text: number of its sprite, color, size and distance from the text in CSS pixels. */
  readonly icon?: {
    readonly sprite: number;
    readonly color: Rgba;
    readonly size: number | undefined;
    readonly gap: number;
  };
}

type Bound<T> = (feature: number) => T;
type Write = (feature: number, out: Float32Array, at: number) => void;

function writeColor(out: Float32Array, at: number, [r, g, b, a]: Rgba, share: number): void {
  out[at] = r * share;
  out[at + 1] = g * share;
  out[at + 2] = b * share;
  out[at + 3] = a * share;
}

interface BoundRule {
  readonly rule: CompiledRule;
  readonly passes: Bound<boolean>;
  readonly states: Map<string, Write>;
  readonly looks: Map<string, Bound<LabelStyle> | null>;
}

/**
 * Works out what features of one block look like in one layer over one zoom step, and writes it as rows of
 * texels. Features that agree in every attribute the layer looks at are worked out once.
 */
export class Portrayer {
  private readonly rules: readonly BoundRule[];
  private readonly layerPasses: Bound<boolean>;
  private readonly classes: Classes | undefined;

  /** @param sprites number of a shape or icon by its name */
  constructor(
    private readonly layer: CompiledLayer,
    private readonly block: FeatureBlock,
    private readonly step: ZoomStep,
    private readonly sprites: (name: string) => number,
  ) {
    const [low, high] = step;
    const middle = (low + high) / 2;
    const scope = { block, zoom: middle };
    const filter = layer.where?.bind(scope);
    this.layerPasses = filter ? (f) => filter(f) === true : () => true;
    this.rules = layer.rules
      .filter((rule) => middle >= rule.zoom[0] && middle < rule.zoom[1])
      .map((rule) => {
        const where = rule.where?.bind(scope);
        return {
          rule,
          passes: where ? (f: number) => where(f) === true : () => true,
          states: new Map(),
          looks: new Map(),
        };
      });
    this.classes = classifier(layer, block);
  }

  /**
   * Writes the rows of `features` one after the other: `layer.texels` RGBA texels each.
   *
   * @param stateOf names of a feature's states joined by `+`, or an empty text
   */
  rows(features: ArrayLike<number>, stateOf?: (feature: number) => string): Float32Array {
    const stride = this.layer.texels * 4;
    const out = new Float32Array(features.length * stride);
    const { classes } = this;
    // Where each class was first written, plus one; later members are copied from there.
    const first = classes && (classes.size < 1 << 20 ? new Uint32Array(classes.size) : new Map<number, number>());
    for (let i = 0; i < features.length; i++) {
      const feature = features[i];
      const at = i * stride;
      const state = stateOf?.(feature);
      if (!classes || !first || state) {
        this.row(feature, state ?? '', out, at);
        continue;
      }
      const key = classes.of(feature);
      const known = first instanceof Uint32Array ? first[key] : (first.get(key) ?? 0);
      if (known) {
        out.copyWithin(at, known - 1, known - 1 + stride);
        continue;
      }
      this.row(feature, '', out, at);
      if (first instanceof Uint32Array) first[key] = at + 1;
      else first.set(key, at + 1);
    }
    return out;
  }

  /**
   * How the label of a feature looks, or undefined when no rule gives it one.
   *
   * @param state names of the feature's states joined by `+`
   */
  label(feature: number, state = ''): LabelStyle | undefined {
    const rule = this.ruleOf(feature);
    if (!rule) return undefined;
    let look = rule.looks.get(state);
    if (look === undefined) {
      const { label } = state ? rule.rule.inStates(state) : rule.rule.symbols;
      rule.looks.set(state, (look = label ? this.bindLook(label) : null));
    }
    return look?.(feature);
  }

  private ruleOf(feature: number): BoundRule | undefined {
    if (!this.layerPasses(feature)) return undefined;
    for (const rule of this.rules) if (rule.passes(feature)) return rule;
    return undefined;
  }

  private row(feature: number, state: string, out: Float32Array, at: number): void {
    const rule = this.ruleOf(feature);
    if (!rule) return;
    let write = rule.states.get(state);
    if (!write)
      rule.states.set(
        state,
        (write = this.bindSymbols(state ? rule.rule.inStates(state) : rule.rule.symbols, state !== '')),
      );
    write(feature, out, at);
  }

  private ends<T>(value: CompiledValue<T>): readonly [Bound<T>, Bound<T>] {
    // The upper end belongs to the next step, so scales look just below it.
    const [low, high] = this.step;
    const first = value.bind({ block: this.block, zoom: low });
    return [first, value.usesZoom ? value.bind({ block: this.block, zoom: high }) : first];
  }

  private bindSymbols(symbols: CompiledSymbols, isInState: boolean): Write {
    const { fill, strokes, mark, extrusion } = symbols;
    const { heat, parts } = this.layer;
    const writers: Write[] = [];
    if (fill) {
      const { color, opacity, pattern } = fill;
      writers.push(...this.tint(color, opacity, 0));
      if (pattern) writers.push(...this.pattern(pattern, opacity, 2));
    }
    strokes.forEach((stroke, pass) =>
      writers.push(...this.stroke(stroke, parts.stroke + pass * strokeTexels, isInState)),
    );
    if (mark) writers.push(...this.mark(mark, parts.mark));
    if (heat) {
      const [weights, radii] = [this.ends(heat.weight), this.ends(heat.radius)];
      const from = parts.heat * 4;
      writers.push((feature, out, at) => {
        out[at + from] = weights[0](feature);
        out[at + from + 1] = weights[1](feature);
        out[at + from + 2] = radii[0](feature);
        out[at + from + 3] = radii[1](feature);
      });
    }
    if (extrusion) {
      const [tops, bottoms] = [this.ends(extrusion.top), this.ends(extrusion.bottom)];
      const from = (parts.extrusion + 2) * 4;
      writers.push(...this.tint(extrusion.color, undefined, parts.extrusion), (feature, out, at) => {
        out[at + from] = tops[0](feature);
        out[at + from + 1] = tops[1](feature);
        out[at + from + 2] = bottoms[0](feature);
        out[at + from + 3] = bottoms[1](feature);
      });
    }
    return (feature, out, at) => {
      for (const write of writers) write(feature, out, at);
    };
  }

  /** Color at both ends of the step, from a texel of the row on. */
  private tint(color: CompiledValue<Rgba>, opacity: CompiledValue<number> | undefined, texel: number): Write[] {
    const colors = this.ends(color);
    const shares = opacity ? this.ends(opacity) : undefined;
    return [0, 1].map((end): Write => {
      const color = colors[end];
      const share = shares?.[end] ?? (() => 1);
      return (feature, out, at) => writeColor(out, at + (texel + end) * 4, color(feature), share(feature));
    });
  }

  private pattern(pattern: CompiledPattern, opacity: CompiledValue<number>, texel: number): Write[] {
    const color = this.ends(pattern.color)[0];
    const share = this.ends(opacity)[0];
    const sprite = this.ends(pattern.sprite)[0];
    const kind = ['', 'hatch', 'cross', 'icon'].indexOf(pattern.kind);
    return [
      (feature, out, at) => {
        const o = at + texel * 4;
        out[o] = kind + (kind === 3 ? 4 * this.sprites(sprite(feature)) : 0);
        out[o + 1] = kind === 3 ? pattern.turn : (pattern.turn * Math.PI) / 180;
        out[o + 2] = pattern.gap;
        out[o + 3] = pattern.size;
        writeColor(out, o + 4, color(feature), share(feature));
      },
    ];
  }

  private stroke(stroke: CompiledStroke, texel: number, isInState: boolean): Write[] {
    const widths = this.ends(stroke.width);
    const offset = this.ends(stroke.offset)[0];
    const [d0 = 0, d1 = 0, d2 = 0, d3 = 0] = stroke.dash;
    const { gradient, marks } = stroke;
    const kind = gradient !== undefined ? 1 : marks ? 2 : 0;
    // Strokes of features in a state, such as hover, are drawn above those of the others.
    const style = stroke.cap + 4 * stroke.join + 32 * kind + (isInState ? 256 : 0);
    const detail =
      gradient !== undefined
        ? [gradient, 0, 0, 0]
        : marks
          ? [this.sprites(marks.sprite), marks.gap, 0, 0]
          : [d0, d1, d2, d3];
    return [
      ...this.tint(stroke.color, stroke.opacity, texel),
      (feature, out, at) => {
        const o = at + (texel + 2) * 4;
        const [a, b] = [widths[0](feature), widths[1](feature)];
        out[o] = Math.abs(a);
        out[o + 1] = Math.abs(b);
        out[o + 2] = offset(feature);
        out[o + 3] = style + (a < 0 || b < 0 ? 16 : 0);
        out.set(detail, o + 4);
      },
    ];
  }

  private mark(mark: CompiledMark, texel: number): Write[] {
    const sizes = this.ends(mark.size);
    const turn = this.ends(mark.rotation)[0];
    const sprite = this.ends(mark.sprite)[0];
    const outline = this.ends(mark.outline)[0];
    const share = this.ends(mark.opacity)[0];
    return [
      ...this.tint(mark.color, mark.opacity, texel),
      (feature, out, at) => {
        const o = at + (texel + 2) * 4;
        out[o] = sizes[0](feature);
        out[o + 1] = sizes[1](feature);
        out[o + 2] = (turn(feature) * Math.PI) / 180;
        out[o + 3] = this.sprites(sprite(feature));
        writeColor(out, o + 4, outline(feature), share(feature));
        out[o + 8] = mark.outlineWidth;
      },
    ];
  }

  private bindLook(label: CompiledLabel): Bound<LabelStyle> {
    const size = this.ends(label.size);
    const color = this.ends(label.color);
    const share = this.ends(label.opacity);
    const halo = this.ends(label.halo)[0];
    const priority = this.ends(label.priority)[0];
    const iconSprite = label.icon && this.ends(label.icon.sprite)[0];
    const iconColor = label.icon && this.ends(label.icon.color)[0];
    const faded = ([r, g, b, a]: Rgba, s: number): Rgba => [r * s, g * s, b * s, a * s];
    return (feature) => ({
      label,
      size: [size[0](feature), size[1](feature)],
      color: [faded(color[0](feature), share[0](feature)), faded(color[1](feature), share[1](feature))],
      halo: faded(halo(feature), share[0](feature)),
      priority: priority(feature),
      ...(label.icon
        ? {
            icon: {
              sprite: this.sprites(iconSprite!(feature)),
              color: faded(iconColor!(feature), share[0](feature)),
              size: label.icon.size,
              gap: label.icon.gap,
            },
          }
        : {}),
    });
  }
}

/** Features by the combination of attributes that a layer looks at: a number below `size` for each. */
interface Classes {
  readonly size: number;
  readonly of: Bound<number>;
}

/** The classes of a block's features, or undefined when there are too many to be worth it. */
function classifier(layer: CompiledLayer, block: FeatureBlock): Classes | undefined {
  if (layer.usesGeometry) return undefined;
  let size = 1;
  const columns: { codes: Uint32Array; factor: number }[] = [];
  for (const name of layer.properties) {
    const column = findColumn(block, name);
    if (!column) continue;
    if (!('codes' in column)) return undefined;
    columns.push({ codes: column.codes, factor: size });
    size *= column.values.length + 1;
    if (size > 2 ** 50) return undefined;
  }
  if (columns.length === 1) {
    const [{ codes }] = columns;
    return { size, of: (feature) => codes[feature] };
  }
  const of = (feature: number) => {
    let key = 0;
    for (const { codes, factor } of columns) key += codes[feature] * factor;
    return key;
  };
  return { size, of };
}

/** The label of a rule, or the first that one of its states brings. */
const labelOf = (rule: CompiledRule, states: readonly string[]): CompiledLabel | undefined =>
  rule.symbols.label ?? states.map((state) => rule.inStates(state).label).find((label) => label !== undefined);

const boundLabel = (label: CompiledLabel | undefined, scope: Scope) =>
  label && { bound: label.text.bind(scope), upper: label.upper };

/** Text of a feature's label, bound to a block; undefined where a rule and its states give none. */
export function labelTexts(layer: CompiledLayer, block: FeatureBlock): Bound<string | undefined> {
  const scope = { block, zoom: 0 };
  const rules = layer.rules.map((rule) => ({
    passes: rule.where && !rule.where.usesZoom ? rule.where.bind(scope) : () => true,
    // A label that only a state brings has its place, too.
    label: boundLabel(labelOf(rule, layer.stateNames), scope),
  }));
  return (feature) => {
    const rule = rules.find(({ passes, label }) => label && passes(feature) === true);
    const text = rule?.label?.bound(feature).trim();
    return text ? (rule!.label!.upper ? text.toLocaleUpperCase() : text) : undefined;
  };
}
