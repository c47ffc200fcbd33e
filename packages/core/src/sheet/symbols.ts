import { plainText } from '../base/describe-value.js';
import { Fault } from '../base/fault.js';
import type { Rgba } from './hex-color.js';
import { bakeRamp } from './ramp.js';
import {
  type colorKind,
  lengthKind,
  numberKind,
  shareKind,
  textKind,
  type CompiledValue,
  type Context,
} from './value-kinds.js';
import { compileValue } from './value.js';
import type {
  ColourSpace,
  PartialSymbols,
  SheetSide,
  SheetFill,
  SheetHalo,
  SheetHeat,
  SheetImage,
  SheetLabel,
  SheetMark,
  SheetRamp,
  SheetScale,
  SheetStroke,
} from './symbol-types.js';

export interface CompiledFill {
  readonly color: CompiledValue<Rgba>;
  readonly opacity: CompiledValue<number>;
  /** Lines or icons over the fill: what kind, and its measures in CSS pixels. */
  readonly pattern?: CompiledPattern;
}

export interface CompiledPattern {
  readonly kind: 'hatch' | 'cross' | 'icon';
  readonly color: CompiledValue<Rgba>;
  /** Name of the icon; not used by hatches. */
  readonly sprite: CompiledValue<string>;
  /** Degrees for a hatch; for icons 1 where they are staggered, and 2 more where those that the edge would cut are left out. */
  readonly turn: number;
  readonly gap: number;
  /** Width of the lines, or size of the icons. */
  readonly size: number;
}

export interface CompiledStroke {
  readonly color: CompiledValue<Rgba>;
  readonly width: CompiledValue<number>;
  readonly opacity: CompiledValue<number>;
  readonly offset: CompiledValue<number>;
  readonly dash: readonly number[];
  /** 0 butt, 1 round, 2 square. */
  readonly cap: number;
  /** 0 miter, 1 round, 2 bevel. */
  readonly join: number;
  /** Number of the ramp of the sheet that colors the line from beginning to end. */
  readonly gradient?: number;
  readonly marks?: { readonly sprite: string; readonly gap: number };
}

export interface CompiledMark {
  readonly sprite: CompiledValue<string>;
  readonly size: CompiledValue<number>;
  readonly color: CompiledValue<Rgba>;
  readonly opacity: CompiledValue<number>;
  readonly outline: CompiledValue<Rgba>;
  readonly outlineWidth: number;
  readonly rotation: CompiledValue<number>;
}

export interface CompiledLabel {
  readonly text: CompiledValue<string>;
  /** The values of a text that goes by a scale. */
  readonly content?: unknown;
  readonly size: CompiledValue<number>;
  readonly color: CompiledValue<Rgba>;
  readonly opacity: CompiledValue<number>;
  readonly halo: CompiledValue<Rgba>;
  readonly haloWidth: number;
  readonly priority: CompiledValue<number>;
  readonly font: string;
  readonly weight: number;
  readonly style: 'normal' | 'italic';
  readonly spacing: number;
  readonly upper: boolean;
  /** Tried in turn. */
  readonly sides: readonly SheetSide[];
  /** CSS pixels from the place to the text: half of the mark, and the distance. */
  readonly reach: number;
  readonly align?: 'left' | 'center' | 'right';
  readonly wrap: number;
  readonly along: boolean;
  /** CSS pixels from one repetition along a line to the next. */
  readonly repeat: number;
  readonly icon?: {
    readonly sprite: CompiledValue<string>;
    readonly color: CompiledValue<Rgba>;
    readonly size?: number;
    readonly gap: number;
  };
}

export interface CompiledExtrusion {
  readonly color: CompiledValue<Rgba>;
  readonly opacity: CompiledValue<number>;
  readonly top: CompiledValue<number>;
  readonly bottom: CompiledValue<number>;
}

export interface CompiledHeat {
  readonly weight: CompiledValue<number>;
  readonly radius: CompiledValue<number>;
  readonly opacity: CompiledValue<number>;
  readonly ramp: number;
  readonly max?: number;
}

export interface CompiledImage {
  readonly opacity: CompiledValue<number>;
  readonly saturation: number;
  readonly contrast: number;
  readonly tint: CompiledValue<Rgba>;
  readonly tintShare: number;
}

/** The symbols of a rule; each part is there only when the sheet asks for it. */
export interface CompiledSymbols {
  readonly fill?: CompiledFill;
  readonly strokes: readonly CompiledStroke[];
  readonly mark?: CompiledMark;
  readonly label?: CompiledLabel;
  readonly extrusion?: CompiledExtrusion;
}

/** Tools of a compiler of symbols. */
export interface SymbolTools extends Context {
  readonly colors: ReturnType<typeof colorKind>;
  /** Keeps a ramp, made when it is new, and gives its number in the sheet. */
  ramp(key: string, bake: () => Uint8Array): number;
}

/** The color of what is not to be seen. */
const clear = '#0000';

const keys = ['fill', 'stroke', 'mark', 'label', 'extrusion'] as const;

export const pickSymbols = (from: PartialSymbols): PartialSymbols =>
  Object.fromEntries(keys.flatMap((key) => (from[key] === undefined ? [] : [[key, from[key]]])));

/** The symbols of `base` with those of `over` laid over them, key by key; one stroke over a list changes its topmost. */
export function mergeSymbols(base: PartialSymbols, over: PartialSymbols): PartialSymbols {
  const out: { -readonly [K in keyof PartialSymbols]: PartialSymbols[K] } = { ...base };
  if (over.fill !== undefined) out.fill = { ...fillObject(base.fill), ...fillObject(over.fill) };
  if (over.mark) out.mark = { ...base.mark, ...over.mark };
  if (over.label) out.label = { ...base.label, ...over.label };
  if (over.extrusion) out.extrusion = { ...base.extrusion, ...over.extrusion };
  if (Array.isArray(over.stroke)) out.stroke = over.stroke;
  else if (over.stroke !== undefined) {
    const below = strokesOf(base.stroke);
    const top = { ...below[below.length - 1], ...strokesOf(over.stroke)[0] };
    out.stroke = [...below.slice(0, -1), top];
  }
  return out;
}

const fillObject = (fill: PartialSymbols['fill']): SheetFill =>
  typeof fill === 'string' ? { color: fill } : (fill ?? {});

/** Strokes as a list, from the lowest to the topmost. */
export function strokesOf(stroke: PartialSymbols['stroke']): readonly SheetStroke[] {
  if (stroke === undefined) return [];
  if (typeof stroke === 'string') return [{ color: stroke }];
  return Array.isArray(stroke) ? (stroke as readonly SheetStroke[]) : [stroke as SheetStroke];
}

/** Compiles symbols; faults go to the report of `tools` with their JSON paths. */
export function compileSymbols(symbols: PartialSymbols, path: string, tools: SymbolTools): CompiledSymbols {
  const make = new Values(tools);
  const { mark, label, extrusion } = symbols;
  return {
    ...(symbols.fill === undefined
      ? {}
      : { fill: compileFill(fillObject(symbols.fill), `${path}.fill`, typeof symbols.fill === 'string', make) }),
    strokes: strokesOf(symbols.stroke).map((stroke, i) =>
      compileStroke(stroke, Array.isArray(symbols.stroke) ? `${path}.stroke[${i}]` : `${path}.stroke`, make, tools),
    ),
    ...(mark
      ? {
          mark: {
            sprite: make.text(
              mark.icon ?? mark.shape,
              'circle',
              `${path}.mark.${mark.icon === undefined ? 'shape' : 'icon'}`,
            ),
            size: make.number(mark.size, 8, `${path}.mark.size`),
            color: make.color(mark.color, '#444444', `${path}.mark.color`),
            opacity: make.share(mark.opacity, `${path}.mark.opacity`),
            outline: make.halo(mark.outline, `${path}.mark.outline`),
            outlineWidth: mark.outline ? (mark.outline.width ?? 1) : 0,
            rotation: make.number(mark.rotation, 0, `${path}.mark.rotation`),
          },
        }
      : {}),
    ...(label ? { label: compileLabel(label, mark, `${path}.label`, make, tools) } : {}),
    ...(extrusion
      ? {
          extrusion: {
            color: make.color(extrusion.color, '#b9b6aa', `${path}.extrusion.color`),
            opacity: make.shareByZoom(extrusion.opacity, 1, `${path}.extrusion.opacity`),
            top: make.number(extrusion.top, 0, `${path}.extrusion.top`),
            bottom: make.number(extrusion.bottom, 0, `${path}.extrusion.bottom`),
          },
        }
      : {}),
  };
}

/** The kinds of values that symbols are made of. */
class Values {
  constructor(private readonly tools: SymbolTools) {}

  color(raw: unknown, fallback: string, at: string): CompiledValue<Rgba> {
    const { colors } = this.tools;
    return compileValue(raw as never, colors, colors.read(fallback)!, at, this.tools);
  }

  share(raw: unknown, at: string, fallback = 1): CompiledValue<number> {
    return compileValue(raw as never, shareKind, fallback, at, this.tools);
  }

  shareByZoom(raw: unknown, fallback: number, at: string): CompiledValue<number> {
    const value = this.share(raw, at, fallback);
    if (value.properties.length || value.usesGeometry)
      this.tools.report(
        new Fault('sheet.opacity', 'this opacity is one for all features', 'Use a number, or a scale by zoom.', at),
      );
    return value;
  }

  number(raw: unknown, fallback: number, at: string): CompiledValue<number> {
    return compileValue(raw as never, numberKind(fallback), fallback, at, this.tools);
  }

  length(raw: unknown, fallback: number, at: string): CompiledValue<number> {
    return compileValue(raw as never, lengthKind(fallback), fallback, at, this.tools);
  }

  text(raw: unknown, fallback: string, at: string): CompiledValue<string> {
    return compileValue(raw as never, textKind, fallback, at, this.tools);
  }

  halo(raw: SheetHalo | undefined, at: string): CompiledValue<Rgba> {
    return this.color(raw?.color, clear, `${at}.color`);
  }
}

function compileFill(fill: SheetFill, path: string, short: boolean, make: Values): CompiledFill {
  const { hatch, pattern } = fill;
  // A hatch or a pattern alone stands on clear ground.
  const ground = hatch || pattern ? clear : '#888888';
  const none = make.text(undefined, 'square', path);
  return {
    color: make.color(fill.color, ground, short ? path : `${path}.color`),
    opacity: make.share(fill.opacity, `${path}.opacity`),
    ...(hatch
      ? {
          pattern: {
            kind: hatch.cross ? 'cross' : 'hatch',
            color: make.color(hatch.color ?? fill.color, '#888888', `${path}.hatch.color`),
            sprite: none,
            turn: hatch.angle ?? 45,
            gap: hatch.gap ?? 8,
            size: hatch.width ?? 1.5,
          },
        }
      : pattern
        ? {
            pattern: {
              kind: 'icon',
              color: make.color(pattern.color, '#444444', `${path}.pattern.color`),
              sprite: make.text(pattern.icon, 'square', `${path}.pattern.icon`),
              turn: ((pattern.stagger ?? true) ? 1 : 0) + (pattern.whole ? 2 : 0),
              gap: pattern.gap ?? 24,
              size: pattern.size ?? 12,
            },
          }
        : {}),
  };
}

function compileStroke(stroke: SheetStroke, at: string, make: Values, tools: SymbolTools): CompiledStroke {
  const special = (['dash', 'gradient', 'marks'] as const).filter((key) => stroke[key] !== undefined);
  if (special.length > 1)
    tools.report(
      new Fault(
        'sheet.stroke',
        `a stroke has ${special.join(' and ')}`,
        'Keep one of them, and draw the other as a second stroke of a list.',
        at,
      ),
    );
  return {
    color: make.color(stroke.color, '#444444', `${at}.color`),
    width: make.length(stroke.width, stroke.marks ? 10 : 1, `${at}.width`),
    opacity: make.share(stroke.opacity, `${at}.opacity`),
    offset: make.number(stroke.offset, 0, `${at}.offset`),
    dash: stroke.dash ?? [],
    cap: ['butt', 'round', 'square'].indexOf(stroke.cap ?? 'round'),
    join: ['miter', 'round', 'bevel'].indexOf(stroke.join ?? 'round'),
    ...(stroke.gradient
      ? { gradient: rampOf(stroke.gradient.ramp, stroke.gradient.space, `${at}.gradient.ramp`, tools) }
      : {}),
    ...(stroke.marks ? { marks: { sprite: stroke.marks.icon, gap: stroke.marks.gap ?? 40 } } : {}),
  };
}

function rampOf(
  ramp: SheetRamp,
  space: ColourSpace | undefined,
  at: string,
  tools: SymbolTools,
  key = JSON.stringify([ramp, space]),
): number {
  ramp.forEach(([where, raw], i) => {
    if (typeof where !== 'number' || where < 0 || where > 1 || (i > 0 && !(where > ramp[i - 1][0])))
      tools.report(
        new Fault(
          'sheet.order',
          `a ramp from 0 to 1 has the stop ${String(where)}`,
          'Write shares in ascending order.',
          `${at}[${i}][0]`,
        ),
      );
    compileValue(raw as never, tools.colors, [0, 0, 0, 0] as Rgba, `${at}[${i}][1]`, tools);
  });
  return tools.ramp(key, () => bakeRamp(ramp, tools.colors, space ?? 'lab'));
}

/**
 * Sides of a mark at which its label is tried, where the sheet does not say: the right is preferred to the left, and the upper side to the
 * lower (E. Imhof, Positioning names on maps, The American Cartographer 2 (1975), 128–144); centered above and below come last.
 */
const aroundMark: readonly SheetSide[] = [
  'above-right',
  'right',
  'below-right',
  'above-left',
  'left',
  'below-left',
  'above',
  'below',
];

/** Where a label may stand, and how far from its place. */
function standing(
  { side, distance = 4, along }: Partial<SheetLabel>,
  mark: SheetMark | undefined,
): Pick<CompiledLabel, 'sides' | 'reach'> {
  const beside = mark && !along ? aroundMark : (['on'] as const);
  const sides = side === undefined ? beside : typeof side === 'string' ? [side] : side;
  const size = mark ? (typeof mark.size === 'number' ? mark.size : 12) : 0;
  return { sides, reach: size / 2 + distance };
}

function compileLabel(
  label: Partial<SheetLabel>,
  mark: SheetMark | undefined,
  path: string,
  make: Values,
  tools: SymbolTools,
): CompiledLabel {
  if (label.text === undefined)
    tools.report(new Fault('sheet.missing', 'the key "text" is missing', 'Add the text of the label.', path));
  const text = typeof label.text === 'string' ? { is: label.text } : (label.text ?? '');
  const asText = {
    ...textKind,
    read: (raw: unknown) => (raw === undefined || raw === null ? undefined : plainText(raw)),
  };
  const { icon } = label;
  return {
    text: compileValue(text as never, asText, '', `${path}.text`, tools),
    ...(typeof text === 'object' && !('is' in text) ? { content: valuesOfScale(text) } : {}),
    size: make.number(label.size, 13, `${path}.size`),
    color: make.color(label.color, '#22303a', `${path}.color`),
    opacity: make.share(label.opacity, `${path}.opacity`),
    halo: make.halo(label.halo, `${path}.halo`),
    haloWidth: label.halo ? (label.halo.width ?? 1) : 0,
    priority: make.number(label.priority, 0, `${path}.priority`),
    font: label.font ?? '"Noto Sans", system-ui, sans-serif',
    weight: label.weight ?? 500,
    style: label.style ?? 'normal',
    spacing: label.spacing ?? 0,
    upper: label.upper ?? false,
    ...standing(label, mark),
    ...(label.align ? { align: label.align } : {}),
    wrap: label.along ? 1e3 : (label.wrap ?? 9),
    along: label.along ?? false,
    repeat: label.repeat ?? 400,
    ...(icon
      ? {
          icon: {
            sprite: make.text(icon.name, 'circle', `${path}.icon.name`),
            color: make.color(icon.color ?? label.color, '#22303a', `${path}.icon.color`),
            ...(icon.size === undefined ? {} : { size: icon.size }),
            gap: icon.gap ?? 4,
          },
        }
      : {}),
  };
}

const valuesOfScale = ({ ramp, classes, categories, other }: SheetScale<string>) => ({
  ramp,
  classes,
  categories,
  other,
});

export function compileImage(image: SheetImage, path: string, tools: SymbolTools): CompiledImage {
  const make = new Values(tools);
  return {
    opacity: make.shareByZoom(image.opacity, 1, `${path}.opacity`),
    saturation: image.saturation ?? 1,
    contrast: image.contrast ?? 1,
    tint: make.color(image.tint?.color, clear, `${path}.tint.color`),
    tintShare: image.tint ? (image.tint.share ?? 0.5) : 0,
  };
}

export function compileHeat(heat: SheetHeat, path: string, tools: SymbolTools): CompiledHeat {
  const make = new Values(tools);
  let { ramp } = heat;
  if (ramp && heat.scheme !== undefined)
    tools.report(new Fault('sheet.heat', 'the heat has both a ramp and a scheme', 'Keep one of them.', path));
  if (!ramp) {
    const colors = tools.scheme(heat.scheme ?? 'YlOrBr', 7, `${path}.scheme`) ?? ['#fff', '#000'];
    // Heat begins clear and thickens, so that the ground is seen through all but the densest places.
    ramp = [
      [0, thinned(colors[0], 0)],
      ...colors.map((c, i): [number, string] => {
        const at = 0.06 + (0.94 * i) / (colors.length - 1);
        return [at, thinned(c, at < 0.3 ? (0.41 * at) / 0.3 : 0.41 + (0.59 * (at - 0.3)) / 0.7)];
      }),
    ];
  }
  return {
    weight: make.number(heat.weight, 1, `${path}.weight`),
    radius: make.length(heat.radius, 24, `${path}.radius`),
    opacity: make.shareByZoom(heat.opacity, 0.85, `${path}.opacity`),
    ramp: rampOf(ramp, 'lab', `${path}.ramp`, tools, JSON.stringify([heat.ramp, heat.scheme])),
    ...(heat.max === undefined ? {} : { max: heat.max }),
  };
}

/** A color of some opacity, 0 to 1. */
const thinned = (color: string, opacity: number) =>
  /^#[0-9a-f]{6}$/i.test(color)
    ? `${color}${Math.round(opacity * 255)
        .toString(16)
        .padStart(2, '0')}`
    : `color-mix(in srgb, ${color} ${Math.round(opacity * 100)}%, transparent)`;

const valuesOfFill = ({ color, opacity, pattern }: NonNullable<CompiledSymbols['fill']>) => [
  color,
  opacity,
  ...(pattern ? [pattern.color, pattern.sprite] : []),
];

/** All values of some symbols that may differ from feature to feature or with the zoom. */
export function valuesOf({ fill, strokes, mark, label, extrusion }: CompiledSymbols): CompiledValue<unknown>[] {
  return [
    ...(fill ? valuesOfFill(fill) : []),
    ...strokes.flatMap((s) => [s.color, s.width, s.opacity, s.offset]),
    ...(mark ? [mark.sprite, mark.size, mark.color, mark.opacity, mark.outline, mark.rotation] : []),
    ...(label ? [label.text, label.size, label.color, label.opacity, label.halo, label.priority] : []),
    ...(label?.icon ? [label.icon.sprite, label.icon.color] : []),
    ...(extrusion ? [extrusion.color, extrusion.top, extrusion.bottom, extrusion.opacity] : []),
  ];
}

export const drawsNothing = ({ fill, strokes, mark, label, extrusion }: CompiledSymbols): boolean =>
  !fill && !strokes.length && !mark && !label && !extrusion;
