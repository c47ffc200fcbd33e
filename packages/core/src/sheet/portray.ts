import type { FeatureBlock } from '../features/block.js';
import { findColumn } from '../features/block.js';
import type { Rgba } from './colour.js';
import {
  fillTexels,
  strokeTexels,
  type CompiledLabel,
  type CompiledLayer,
  type CompiledRule,
  type CompiledSymbols,
} from './compile.js';
import type { CompiledValue } from './value.js';

/** A stretch of zoom levels over which appearance runs smoothly from one end to the other. */
export type ZoomStep = readonly [number, number];

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
  const kinds = [
    false,
    layer.hasMark || layer.hasLabel,
    layer.strokePasses > 0 || layer.hasLabel,
    layer.hasFill || layer.strokePasses > 0 || layer.hasLabel,
  ];
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

/** How one label looks at both ends of a zoom step. */
export interface LabelLook {
  readonly label: CompiledLabel;
  readonly size: readonly [number, number];
  readonly color: readonly [Rgba, Rgba];
  readonly halo: Rgba;
  readonly priority: number;
  readonly visible: boolean;
}

type Bound<T> = (feature: number) => T;

interface BoundRule {
  readonly rule: CompiledRule;
  readonly passes: Bound<boolean>;
  readonly states: Map<string, (feature: number, out: Float32Array, at: number) => void>;
  look?: Bound<LabelLook> | null;
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
        return { rule, passes: where ? (f: number) => where(f) === true : () => true, states: new Map() };
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

  /** How the label of a feature looks, or undefined when no rule gives it one. */
  label(feature: number): LabelLook | undefined {
    const rule = this.ruleOf(feature);
    if (!rule) return undefined;
    if (rule.look === undefined) rule.look = rule.rule.symbols.label ? this.bindLook(rule.rule.symbols.label) : null;
    return rule.look?.(feature);
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
      rule.states.set(state, (write = this.bindSymbols(state ? rule.rule.inStates(state) : rule.rule.symbols)));
    write(feature, out, at);
  }

  private ends<T>(value: CompiledValue<T>): readonly [Bound<T>, Bound<T>] {
    // The upper end belongs to the next step, so scales look just below it.
    const [low, high] = this.step;
    const first = value.bind({ block: this.block, zoom: low });
    return [first, value.usesZoom ? value.bind({ block: this.block, zoom: high }) : first];
  }

  private bindSymbols({
    fill,
    strokes,
    mark,
  }: CompiledSymbols): (feature: number, out: Float32Array, at: number) => void {
    const writers: ((feature: number, out: Float32Array, at: number) => void)[] = [];
    let texel = 0;
    const tint = (color: CompiledValue<Rgba>, opacity: CompiledValue<number>, offset: number) => {
      const colors = this.ends(color);
      const shares = this.ends(opacity);
      for (const end of [0, 1]) {
        const [colour, share] = [colors[end], shares[end]];
        writers.push((feature, out, at) => {
          const [r, g, b, a] = colour(feature);
          const s = share(feature);
          const o = at + (offset + end) * 4;
          out[o] = r * s;
          out[o + 1] = g * s;
          out[o + 2] = b * s;
          out[o + 3] = a * s;
        });
      }
    };
    if (this.layer.hasFill) {
      if (fill) tint(fill.color, fill.opacity, 0);
      texel += fillTexels;
    }
    strokes.forEach((stroke, pass) => {
      const from = texel + pass * strokeTexels;
      tint(stroke.color, stroke.opacity, from);
      const widths = this.ends(stroke.width);
      const offset = this.ends(stroke.offset)[0];
      const [d0 = 0, d1 = 0, d2 = 0, d3 = 0] = stroke.dash;
      writers.push((feature, out, at) => {
        const o = at + (from + 2) * 4;
        const [a, b] = [widths[0](feature), widths[1](feature)];
        out[o] = Math.abs(a);
        out[o + 1] = Math.abs(b);
        out[o + 2] = offset(feature);
        out[o + 3] = stroke.cap + 4 * stroke.join + (a < 0 || b < 0 ? 16 : 0);
        out[o + 4] = d0;
        out[o + 5] = d1;
        out[o + 6] = d2;
        out[o + 7] = d3;
      });
    });
    texel += this.layer.strokePasses * strokeTexels;
    if (this.layer.hasMark && mark) {
      tint(mark.color, mark.opacity, texel);
      const sizes = this.ends(mark.size);
      const turn = this.ends(mark.turn)[0];
      const sprite = this.ends(mark.sprite)[0];
      const outline = this.ends(mark.outline)[0];
      const share = this.ends(mark.opacity)[0];
      const from = texel + 2;
      writers.push((feature, out, at) => {
        const o = at + from * 4;
        out[o] = sizes[0](feature);
        out[o + 1] = sizes[1](feature);
        out[o + 2] = (turn(feature) * Math.PI) / 180;
        out[o + 3] = this.sprites(sprite(feature));
        const rim = outline(feature);
        const s = share(feature);
        for (let k = 0; k < 4; k++) out[o + 4 + k] = rim[k] * s;
        out[o + 8] = mark.outlineWidth;
      });
    }
    return (feature, out, at) => {
      for (const write of writers) write(feature, out, at);
    };
  }

  private bindLook(label: CompiledLabel): Bound<LabelLook> {
    const size = this.ends(label.size);
    const color = this.ends(label.color);
    const share = this.ends(label.opacity);
    const halo = this.ends(label.halo)[0];
    const priority = this.ends(label.priority)[0];
    const faded = ([r, g, b, a]: Rgba, s: number): Rgba => [r * s, g * s, b * s, a * s];
    return (feature) => ({
      label,
      size: [size[0](feature), size[1](feature)],
      color: [faded(color[0](feature), share[0](feature)), faded(color[1](feature), share[1](feature))],
      halo: faded(halo(feature), share[0](feature)),
      priority: priority(feature),
      visible: true,
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

/** Text of a feature's label, bound to a block; undefined where a rule gives none. */
export function labelTexts(layer: CompiledLayer, block: FeatureBlock): Bound<string | undefined> {
  const scope = { block, zoom: 0 };
  const rules = layer.rules.map((rule) => ({
    passes: rule.where && !rule.where.usesZoom ? rule.where.bind(scope) : () => true,
    text: rule.symbols.label?.text.bind(scope),
    upper: rule.symbols.label?.upper ?? false,
  }));
  return (feature) => {
    const rule = rules.find(({ passes, text }) => text && passes(feature) === true);
    const text = rule?.text?.(feature).trim();
    return text ? (rule!.upper ? text.toLocaleUpperCase() : text) : undefined;
  };
}
