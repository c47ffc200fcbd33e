import type { CompiledLayer, CompiledSheet } from './compile.js';
import { colorKind, missingColor } from './value-kinds.js';
import { bakeRamp, rampWidth } from './ramp.js';
import { findScheme } from './schemes.js';
import { mergeSymbols, pickSymbols, strokesOf } from './symbols.js';
import { cssColors, findColor } from './value-tools.js';
import type { PartialSymbols, SheetFill, SheetRamp, SheetScale } from './symbol-types.js';

/** Appearance of one item of the legend, in CSS colors and CSS pixels. */
export interface Swatch {
  readonly kind: 'area' | 'line' | 'point' | 'extrusion' | 'text';
  readonly fill?: string;
  /** Opacity of the fill, mark, extrusion or label, 0 to 1; default 1. */
  readonly opacity?: number;
  readonly pattern?: {
    readonly kind: 'hatch' | 'cross' | 'icon';
    readonly color: string;
    /** Angle of hatches in degrees clockwise from the horizontal. */
    readonly angle: number;
    readonly icon?: string;
    /** Spacing of lines or icons in CSS pixels. */
    readonly gap: number;
    /** Width of lines or size of icons, in CSS pixels. */
    readonly size: number;
    /** Whether every other row of icons is shifted by half the spacing. */
    readonly stagger?: boolean;
  };
  /** From the lowest to the topmost. */
  readonly strokes: readonly {
    readonly color: string;
    readonly width: number;
    readonly dash: readonly number[];
    /** Offset to the right of the line in CSS pixels; default 0. */
    readonly offset?: number;
    readonly cap?: 'butt' | 'round' | 'square';
    /** Colors at equal distances from the start of the line to its end. */
    readonly gradient?: readonly string[];
    /** Icon that is repeated along the line, and its spacing in CSS pixels. */
    readonly icon?: string;
    readonly gap?: number;
    /** 0 to 1; default 1. */
    readonly opacity?: number;
  }[];
  readonly mark?: {
    readonly icon: string;
    readonly color: string;
    readonly size: number;
    readonly outline?: string;
    readonly outlineWidth?: number;
  };
}

/** One item of the legend: its appearance, and its meaning. */
export interface LegendItem {
  readonly label: string;
  readonly swatch: Swatch;
  /** Limits of a class; open ends are infinite. */
  readonly range?: readonly [number, number];
}

/** The legend of one layer. */
export interface LegendEntry {
  readonly layer: string;
  readonly title: string;
  /** Title and unit of the scale, if the layer has one. */
  readonly scale?: {
    readonly title?: string;
    readonly unit?: string;
    readonly form: 'categories' | 'classes' | 'ramp' | 'heat';
  };
  readonly items: readonly LegendItem[];
  /** For ramps and heat: colors from the lowest to the highest, and the labels of the ends. */
  readonly ramp?: {
    readonly colors: readonly string[];
    readonly ends: readonly [string, string];
    /** 0 to 1; default 1. */
    readonly opacity?: number;
  };
  /** Opacity of the whole layer, 0 to 1; default 1. */
  readonly opacity?: number;
}

type Scale = SheetScale<unknown>;

/** Which value of a scale an item shows. */
interface Case {
  readonly by: string;
  /** Category, number of the class, or a number; undefined for what is missing. */
  readonly key?: string | number;
}

/**
 * Makes the legend of a sheet, from the sheet alone. It lists layers that have a title (or `legend: true`), are visible, and are drawn at
 * the zoom.
 *
 * @param sheet a compiled sheet
 * @param zoom zoom level of the legend
 * @param mayMiss whether features of a data entry may lack an attribute, so that "no value" is listed; default if a table is joined
 */
export function legendOf(
  { sheet, layers }: CompiledSheet,
  zoom: number,
  mayMiss: (data: string, attribute: string) => boolean = (data) => sheet.data?.[data]?.join !== undefined,
): LegendEntry[] {
  const out: LegendEntry[] = [];
  const colors = colorKind(sheet.palette ?? {}, cssColors);
  for (const layer of layers) {
    const { source } = layer;
    if (!layer.visible || zoom < layer.zoom[0] || zoom >= layer.zoom[1]) continue;
    const titled = source.title !== undefined || source.rules?.some((rule) => rule.title !== undefined);
    if (!(source.legend ?? titled)) continue;
    if (source.image) continue;
    const missing = (attribute: string) => mayMiss(layer.data, attribute);
    out.push(...new LayerLegend(layer, zoom, missing, (raw) => String(colors.resolve(raw))).entries());
  }
  return out;
}

class LayerLegend {
  constructor(
    private readonly layer: CompiledLayer,
    private readonly zoom: number,
    /** Whether some features may lack an attribute. */
    private readonly missing: (attribute: string) => boolean,
    private readonly css: (raw: unknown) => string,
  ) {}

  entries(): LegendEntry[] {
    const { layer, zoom } = this;
    const { source } = layer;
    const base = {
      layer: layer.id,
      title: layer.title,
      ...(layer.opacity < 1 ? { opacity: layer.opacity } : {}),
    };
    if (source.heat) {
      const colors = findScheme(source.heat.scheme ?? 'YlOrBr', 7) ?? [];
      const ramp: SheetRamp =
        source.heat.ramp ?? colors.map((color, i): [number, string] => [i / (colors.length - 1), color]);
      return [
        { ...base, scale: { form: 'heat' }, items: [], ramp: { colors: this.baked(ramp), ends: ['few', 'many'] } },
      ];
    }
    const rules = (source.rules ?? [{}]).filter(({ zoom: range }) => !range || (zoom >= range[0] && zoom < range[1]));
    const plain: LegendItem[] = [];
    const scaled: LegendEntry[] = [];
    for (const rule of rules) {
      const symbols = mergeSymbols(pickSymbols(source), pickSymbols(rule));
      const scales = scalesOf(symbols);
      const first = scales[0];
      const title = rule.title ?? layer.title;
      if (first) scaled.push(this.scaledEntry({ ...base, title: rule.title ?? base.title }, symbols, scales));
      else {
        const swatch = this.swatch(symbols, undefined);
        const own = ownColors(symbols);
        if (swatch)
          plain.push({ label: own.length ? `${title}, colored by its own ${own.join(' and ')}` : title, swatch });
      }
    }
    return [...(plain.length ? [{ ...base, items: plain }] : []), ...scaled];
  }

  private scaledEntry(
    base: { readonly layer: string; readonly title: string; readonly opacity?: number },
    symbols: PartialSymbols,
    scales: readonly Scale[],
  ): LegendEntry {
    const [first] = scales;
    const alike = scales.filter(({ by }) => by === first.by);
    const scale = { ...(first.title ? { title: first.title } : {}), ...(first.unit ? { unit: first.unit } : {}) };
    const item = (label: string, key?: string | number, range?: readonly [number, number]): LegendItem[] => {
      const swatch = this.swatch(symbols, { by: first.by, ...(key === undefined ? {} : { key }) });
      return swatch ? [{ label, swatch, ...(range ? { range } : {}) }] : [];
    };
    const showMissing = this.missing(first.by) || alike.some(({ other }) => other !== undefined);
    if (first.categories) {
      const keys = [...new Set(alike.flatMap(({ categories }) => (categories ? keysOf(categories) : [])))];
      const items = keys.flatMap((key) => item(alike.map(({ names }) => names?.[key]).find(Boolean) ?? key, key));
      return {
        ...base,
        scale: { ...scale, form: 'categories' },
        items: [...items, ...(showMissing ? item('other') : [])],
      };
    }
    if (first.classes) {
      const breaks = first.classes.breaks ?? [];
      const [lowest = -Infinity, highest = Infinity] = first.classes.extent ?? [];
      const items = Array.from({ length: breaks.length + 1 }, (_, i) => {
        // A limit that no value lies beyond has no end to show.
        const low = breaks[i - 1] ?? (lowest < (breaks[0] ?? Infinity) ? lowest : -Infinity);
        const high = breaks[i] ?? (highest > (breaks[i - 1] ?? -Infinity) ? highest : Infinity);
        const range = [low, high] as const;
        return item(rangeText(range, first.unit), i, range);
      }).flat();
      return {
        ...base,
        scale: { ...scale, form: 'classes' },
        items: [...items, ...(showMissing ? item('no value') : [])],
      };
    }
    const stops = first.ramp;
    const ends = [stops[0][0], stops[stops.length - 1][0]].map((n) => withUnit(numberText(n), first.unit)) as [
      string,
      string,
    ];
    if (typeof stops[0][1] === 'string') {
      const [low, high] = [stops[0][0], stops[stops.length - 1][0]];
      const ramp = stops.map(([at, color]): [number, string] => [(at - low) / (high - low || 1), String(color)]);
      const { opacity } = this.swatch(symbols, { by: first.by, key: high }) ?? {};
      const clear = opacity === undefined || opacity === 1 ? {} : { opacity };
      return {
        ...base,
        scale: { ...scale, form: 'ramp' },
        items: [],
        ramp: { colors: this.baked(ramp), ends, ...clear },
      };
    }
    const items = stops.flatMap(([at]) => item(withUnit(numberText(at), first.unit), at));
    return { ...base, scale: { ...scale, form: 'ramp' }, items };
  }

  private baked(ramp: SheetRamp): string[] {
    const resolved = ramp.map(([at, color]): [number, string] => [at, this.css(color)]);
    const plain = colorKind({}, cssColors);
    const pixels = bakeRamp(resolved, plain, 'lab');
    return Array.from({ length: 9 }, (_, i) => {
      const o = 4 * Math.round((i / 8) * (rampWidth - 1));
      const alpha = pixels[o + 3] / 255;
      const [r, g, b] = [0, 1, 2].map((c) => Math.round(alpha ? pixels[o + c] / alpha : 0));
      return alpha === 1 ? `rgb(${r} ${g} ${b})` : `rgb(${r} ${g} ${b} / ${alpha.toFixed(3)})`;
    });
  }

  private swatch(symbols: PartialSymbols, shown: Case | undefined): Swatch | undefined {
    const value = <T>(raw: unknown, otherwise: T): T => (valueFor(raw, shown, this.zoom) as T | undefined) ?? otherwise;
    const color = (raw: unknown, otherwise: string) => this.css(value(raw, otherwise));
    const { mark, label, extrusion } = symbols;
    const clearOf = (raw: unknown) => {
      const opacity = value<number>(raw, 1);
      return opacity === 1 ? {} : { opacity };
    };
    const fill: SheetFill | undefined = typeof symbols.fill === 'string' ? { color: symbols.fill } : symbols.fill;
    const strokes = strokesOf(symbols.stroke).map((stroke) => {
      const width = value<number | string>(stroke.width, stroke.marks ? 10 : 1);
      return {
        color: color(stroke.color, '#444444'),
        width: typeof width === 'number' ? width : 4,
        dash: stroke.dash ?? [],
        ...(stroke.gradient ? { gradient: this.baked(stroke.gradient.ramp) } : {}),
        ...(stroke.marks ? { icon: stroke.marks.icon, gap: stroke.marks.gap ?? 40 } : {}),
        ...(stroke.cap ? { cap: stroke.cap } : {}),
        ...(value<number>(stroke.offset, 0) ? { offset: value<number>(stroke.offset, 0) } : {}),
        ...clearOf(stroke.opacity),
      };
    });
    if (mark)
      return {
        kind: 'point',
        ...clearOf(mark.opacity),
        strokes: [],
        mark: {
          icon: value(mark.icon ?? mark.shape, 'circle'),
          color: color(mark.color, '#444444'),
          size: value(mark.size, 8),
          ...(mark.outline
            ? { outline: color(mark.outline.color, 'none'), outlineWidth: mark.outline.width ?? 1 }
            : {}),
        },
      };
    if (extrusion)
      return {
        kind: 'extrusion',
        fill: color(extrusion.color, '#b9b6aa'),
        ...clearOf(extrusion.opacity),
        strokes: [],
      };
    if (fill) {
      const { hatch, pattern } = fill;
      return {
        kind: 'area',
        fill: color(fill.color, hatch || pattern ? 'none' : '#888888'),
        opacity: value(fill.opacity, 1),
        ...(hatch
          ? {
              pattern: {
                kind: hatch.cross ? ('cross' as const) : ('hatch' as const),
                color: color(hatch.color ?? fill.color, '#888888'),
                angle: hatch.angle ?? 45,
                gap: hatch.gap ?? 8,
                size: hatch.width ?? 1.5,
              },
            }
          : pattern
            ? {
                pattern: {
                  kind: 'icon' as const,
                  color: color(pattern.color, '#444444'),
                  angle: 0,
                  icon: value(pattern.icon, 'square'),
                  gap: pattern.gap ?? 24,
                  size: pattern.size ?? 12,
                  stagger: pattern.stagger ?? true,
                },
              }
            : {}),
        strokes,
      };
    }
    if (strokes.length) return { kind: 'line', strokes };
    return label
      ? { kind: 'text', fill: color(label.color, '#22303a'), ...clearOf(label.opacity), strokes: [] }
      : undefined;
  }
}

const keysOf = (kinds: NonNullable<Scale['categories']>): string[] =>
  Array.isArray(kinds) ? kinds.map(String) : Object.keys(kinds);

/** The scales by attributes in some symbols, those of colors first. */
function scalesOf({ fill, stroke, mark, extrusion }: PartialSymbols): Scale[] {
  const area = typeof fill === 'object' ? fill : {};
  const strokes = strokesOf(stroke);
  const values: unknown[] = [
    area.color,
    area.hatch?.color,
    area.pattern?.color,
    area.pattern?.icon,
    mark?.color,
    extrusion?.color,
    ...strokes.map((s) => s.color),
    mark?.icon,
    mark?.shape,
    mark?.size,
    ...strokes.map((s) => s.width),
    area.opacity,
  ];
  return values.flatMap((value) =>
    typeof value === 'object' && value !== null && 'by' in value && value.by !== 'zoom' ? [value as Scale] : [],
  );
}

/** Expressions that give each feature colors of its own, such as the name of a column. */
function ownColors({ fill, stroke, mark, extrusion }: PartialSymbols): string[] {
  const values = [
    typeof fill === 'object' ? fill.color : undefined,
    mark?.color,
    extrusion?.color,
    ...strokesOf(stroke).map((s) => s.color),
  ];
  const given = values.flatMap((value) =>
    typeof value === 'object' && value !== null && 'is' in value ? [value.is] : [],
  );
  return [...new Set(given)];
}

/** The value for a case; undefined where nothing can be said. */
function valueFor(raw: unknown, shown: Case | undefined, zoom: number): unknown {
  if (typeof raw !== 'object' || raw === null) return raw;
  if ('is' in raw) return undefined;
  const scale = raw as Scale;
  if (scale.by === 'zoom') return numericAt(scale, zoom);
  if (!shown || scale.by !== shown.by) return middleOf(scale);
  const { key } = shown;
  if (key === undefined) return scale.other ?? (isColor(scale) ? missingColor : undefined);
  if (scale.categories) {
    if (!Array.isArray(scale.categories))
      return (scale.categories as Readonly<Record<string, unknown>>)[key] ?? scale.other;
    const at = keysOf(scale.categories).indexOf(String(key));
    return at < 0 ? scale.other : findScheme(scale.scheme ?? '', scale.categories.length)?.[at];
  }
  if (scale.classes) return classValues(scale)[Number(key)];
  return numericAt(scale, Number(key));
}

const classValues = ({ classes }: Scale): readonly unknown[] =>
  classes!.values ?? findScheme(classes!.scheme ?? '', (classes!.breaks?.length ?? 0) + 1) ?? [];

const isColor = (scale: Scale) => {
  const value = middleOf(scale);
  return typeof value === 'string' && (value.startsWith('@') || findColor(value) !== undefined);
};

/** A typical value of a scale. */
function middleOf(scale: Scale): unknown {
  if (scale.categories)
    return Array.isArray(scale.categories)
      ? findScheme(scale.scheme ?? '', scale.categories.length)?.[0]
      : Object.values(scale.categories as object)[0];
  if (scale.classes) {
    const values = classValues(scale);
    return values[Math.floor(values.length / 2)];
  }
  return scale.ramp?.[Math.floor(scale.ramp.length / 2)][1];
}

function numericAt({ ramp, ease = 1 }: Scale, at: number): unknown {
  if (!ramp) return undefined;
  const i = ramp.findIndex(([stop]) => at <= stop);
  if (i <= 0) return ramp[i < 0 ? ramp.length - 1 : 0][1];
  const [[a, from], [b, to]] = [ramp[i - 1], ramp[i]];
  return typeof from === 'number' && typeof to === 'number' ? from + (to - from) * ((at - a) / (b - a)) ** ease : from;
}

/** A number to three digits or so, with thousands apart. */
export const numberText = (value: number): string =>
  new Intl.NumberFormat('en', { maximumSignificantDigits: Math.abs(value) >= 1000 ? 6 : 3 }).format(value);

const withUnit = (text: string, unit: string | undefined) => (unit ? `${text} ${unit}` : text);

function rangeText([low, high]: readonly [number, number], unit: string | undefined): string {
  if (low === -Infinity && high === Infinity) return 'all';
  if (low === -Infinity) return withUnit(`under ${numberText(high)}`, unit);
  if (high === Infinity) return `${withUnit(numberText(low), unit)} and more`;
  return withUnit(`${numberText(low)} – ${numberText(high)}`, unit);
}
