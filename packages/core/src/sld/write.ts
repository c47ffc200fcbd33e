import type { CompiledLayer, CompiledRule, CompiledSheet } from '../sheet/compile.js';
import { readCql2 } from '../cql2/compile-text.js';
import type { Expression } from '../cql2/tree.js';
import { domainOf, isWithin } from '../sheet/domain.js';
import { findScheme } from '../sheet/schemes.js';
import { mergeSymbols, pickSymbols, strokesOf } from '../sheet/symbols.js';
import type { PartialSymbols, SheetFill, SheetMark, SheetScale, SheetStroke } from '../sheet/symbol-types.js';
import { cssColors } from '../sheet/color.js';
import { colorKind, missingColor } from '../sheet/value-kinds.js';
import { writeExpression, writeFilter, type Note } from './filter.js';
import { denominatorOfZoom } from './scale.js';
import { element, escaped } from '../base/xml.js';
import { Fault } from '../base/fault.js';
import { describeValue } from '../base/describe-value.js';

/** A style that was written: the document, and what of the sheet could not be converted. */
export interface WrittenStyle {
  readonly sld: string;
  readonly lost: readonly string[];
}

const namespaces = {
  version: '1.1.0',
  xmlns: 'http://www.opengis.net/sld',
  'xmlns:se': 'http://www.opengis.net/se',
  'xmlns:ogc': 'http://www.opengis.net/ogc',
  'xmlns:gml': 'http://www.opengis.net/gml',
  'xmlns:xlink': 'http://www.w3.org/1999/xlink',
};

/**
 * Writes a sheet as OGC Styled Layer Descriptor 1.1 with Symbology Encoding 1.1. Scales by attributes become Categorize, Recode and
 * Interpolate. Since the first matching rule of a sheet draws, each rule's filter also excludes what earlier ones match.
 *
 * @param compiled a sheet from `readSheet`
 * @param zoom zoom level at which values that depend on the zoom are taken; default that of the sheet's view, or 14
 */
export function writeSld(compiled: CompiledSheet, zoom = compiled?.sheet?.view?.zoom ?? 14): WrittenStyle {
  const { sheet, layers } = compiled ?? {};
  if (typeof sheet !== 'object' || sheet === null || !Array.isArray(layers))
    throw new Fault(
      'sld.sheet',
      `expected a compiled sheet, got ${describeValue(compiled)}`,
      'Pass what readSheet(sheet) returns.',
    );
  const lost: string[] = [];
  const note: Note = (text) => {
    if (!lost.includes(text)) lost.push(text);
  };
  const colors = colorKind(sheet.palette ?? {}, cssColors);
  const css = (raw: unknown) => {
    const [r, g, b, a] = colors.read(raw) ?? [0, 0, 0, 1];
    const part = (v: number) =>
      // Colors beyond sRGB are clamped to it.
      Math.round(Math.min(1, Math.max(0, a ? v / a : 0)) * 255)
        .toString(16)
        .padStart(2, '0');
    return { hex: `#${part(r)}${part(g)}${part(b)}`, alpha: a };
  };
  if (sheet.background !== undefined) note('the background has no place in a style');
  if (sheet.dark !== undefined) note('the colors of the dark have no counterpart');
  const written = layers.map((layer) => new LayerWriter(layer, zoom, css, note).write());
  const sld = `<?xml version="1.0" encoding="UTF-8"?>\n${element('StyledLayerDescriptor', namespaces, ...(sheet.title ? [element('se:Name', {}, escaped(sheet.title))] : []), ...written)}\n`;
  return { sld, lost };
}

type Css = (raw: unknown) => { readonly hex: string; readonly alpha: number };
type Scale = SheetScale<unknown>;

class LayerWriter {
  private readonly note: Note;

  constructor(
    private readonly layer: CompiledLayer,
    private readonly zoom: number,
    private readonly css: Css,
    note: Note,
  ) {
    this.note = (text) => note(`layer "${layer.id}": ${text}`);
  }

  write(): string {
    const { layer } = this;
    const { source } = layer;
    for (const [key, lost] of [
      ['heat', 'heat has no counterpart'],
      ['states', 'states such as hover have no counterpart'],
      ['popup', 'popups have no counterpart'],
      ['select', 'selection has no counterpart'],
      ['clusters', 'clusters have no counterpart'],
      ['network', 'the order of strokes in a network has no counterpart'],
    ] as const)
      if (source[key] !== undefined) this.note(lost);
    const symbols = [source, ...(source.rules ?? [])];
    if (symbols.some(({ label }) => label?.repeat !== undefined))
      this.note('the spacing of repeated labels is left to the reader');
    if (symbols.some(({ stroke }) => strokesOf(stroke).some(({ name }) => name !== undefined)))
      this.note('names of strokes have no counterpart');
    if (layer.opacity < 1) this.note('the opacity of the whole layer has no counterpart');
    const rules = source.image
      ? [element('se:Rule', {}, this.raster())]
      : layer.rules.flatMap((rule, i) => this.rule(rule, i));
    const style = element('se:FeatureTypeStyle', {}, ...rules);
    return element(
      'NamedLayer',
      {},
      element('se:Name', {}, escaped(layer.from || layer.data)),
      element('UserStyle', {}, element('se:Name', {}, escaped(layer.id)), this.described(source.title), style),
    );
  }

  private described(title: string | undefined): string | undefined {
    return title === undefined ? undefined : element('se:Description', {}, element('se:Title', {}, escaped(title)));
  }

  private raster(): string {
    const { opacity } = this.layer.source.image!;
    const share =
      typeof opacity === 'number'
        ? opacity
        : this.layer.image!.opacity.bind({ block: undefined as never, zoom: this.zoom })(0);
    const { image } = this.layer;
    if (image!.saturation !== 1 || image!.contrast !== 1 || image!.tintShare)
      this.note('saturation, contrast and tint have no counterpart');
    return element('se:RasterSymbolizer', {}, element('se:Opacity', {}, String(share)));
  }

  /** A rule; one for each category where a symbol goes by texts, as the data of a Recode are numbers (se:Data in 05-077r4). */
  private rule(rule: CompiledRule, index: number): string[] {
    const { source, rules } = this.layer;
    const raw = source.rules?.[index] ?? {};
    const symbols = mergeSymbols(pickSymbols(source), pickSymbols(raw));
    const [low, high] = [Math.max(rule.zoom[0], this.layer.zoom[0]), Math.min(rule.zoom[1], this.layer.zoom[1])];
    const filters: Expression[] = this.layer.where ? [this.layer.where.tree] : [];
    if (rule.where) filters.push(rule.where.tree);
    const earlier = rules
      .slice(0, index)
      .filter((other) => other.zoom[0] < rule.zoom[1] && other.zoom[1] > rule.zoom[0])
      .flatMap(({ where }) => (where ? [where.tree] : []));
    const isElse =
      !rule.where && index === rules.length - 1 && earlier.length === index && index > 0 && !this.layer.where;
    for (const tree of earlier)
      if (!rule.where || !apart(tree, rule.where.tree)) filters.push({ op: 'not', args: [tree] });
    const isOnly = !rule.where && !this.layer.where && rules.length === 1;
    return this.byCategory(symbols, filters).map(({ symbols: own, filters: all, key, isRest }) => {
      const takesRest = (isElse && isRest) || (isOnly && isRest && key !== undefined);
      const filter =
        takesRest || all.length === 0
          ? undefined
          : writeFilter(all.length === 1 ? all[0] : { op: 'and', args: all }, this.note);
      if (!takesRest && all.length && !filter) this.note('a rule lost its filter, and draws everything');
      return element(
        'se:Rule',
        {},
        this.described(isRest || key === undefined ? raw.title : key),
        takesRest ? element('se:ElseFilter', {}) : filter && element('ogc:Filter', {}, filter),
        high < 25 ? element('se:MinScaleDenominator', {}, String(denominatorOfZoom(high))) : undefined,
        low > 0 ? element('se:MaxScaleDenominator', {}, String(denominatorOfZoom(low))) : undefined,
        ...this.symbolizers(own),
      );
    });
  }

  /** Symbols with their categories by texts put in, and the filters that choose them. */
  private byCategory(symbols: PartialSymbols, filters: readonly Expression[]): readonly CategoryRule[] {
    const scales = textScales(symbols);
    const [by] = scales.map((scale) => scale.by);
    if (by === undefined) return [{ symbols, filters, key: undefined, isRest: true }];
    const keys = [
      ...new Set(scales.filter((scale) => scale.by === by).flatMap((s) => entriesOf(s).map(([key]) => key))),
    ];
    const tree = readCql2(by);
    const isNamed = typeof tree === 'object' && 'property' in tree;
    const isNone: Expression[] = isNamed ? [{ op: 'isNull', args: [tree] }] : [];
    const others: Expression = {
      op: 'or',
      args: [...isNone, { op: 'not', args: [{ op: 'in', args: [tree, keys] }] }],
    };
    const cases = [...keys.map((key) => [key, { op: '=', args: [tree, key] }] as const), [undefined, others] as const];
    return cases.flatMap(([key, condition]) =>
      this.byCategory(withCategory(symbols, by, key), [...filters, condition]).map((one) => ({
        ...one,
        key: key ?? one.key ?? '',
        isRest: key === undefined && one.isRest,
      })),
    );
  }

  private symbolizers(symbols: PartialSymbols): string[] {
    const { mark, label, extrusion } = symbols;
    const fill: SheetFill | undefined = typeof symbols.fill === 'string' ? { color: symbols.fill } : symbols.fill;
    const out: string[] = [];
    if (fill) out.push(element('se:PolygonSymbolizer', {}, this.fill(fill)));
    for (const stroke of strokesOf(symbols.stroke)) out.push(this.stroke(stroke));
    if (extrusion) this.note('extrusions have no counterpart');
    if (mark) out.push(element('se:PointSymbolizer', {}, this.graphic(mark)));
    if (label) out.push(this.text(label, mark));
    return out;
  }

  private fill({ color, opacity, hatch, pattern }: SheetFill): string {
    if (hatch) this.note('hatches have no counterpart');
    const graphic =
      pattern &&
      element(
        'se:GraphicFill',
        {},
        this.graphic({ icon: pattern.icon, color: pattern.color ?? '#444444', size: pattern.size ?? 12 }),
      );
    if (graphic) return element('se:Fill', {}, graphic);
    return element('se:Fill', {}, ...this.paint('fill', color ?? '#888888', opacity));
  }

  /** Color and opacity under their names; the alpha of a constant color goes into the opacity. */
  private paint(name: 'fill' | 'stroke', color: unknown, opacity: unknown): string[] {
    const alpha = typeof color === 'string' ? this.css(color).alpha : 1;
    const share = typeof opacity === 'number' || opacity === undefined ? (opacity ?? 1) * alpha : opacity;
    return [
      this.parameter(name, color, true),
      ...(share === 1
        ? []
        : [this.parameter(`${name}-opacity`, typeof share === 'number' ? Number(share.toFixed(4)) : share)]),
    ];
  }

  private stroke(stroke: SheetStroke): string {
    const meters = typeof stroke.width === 'string';
    const { marks, gradient, dash, offset } = stroke;
    // All lengths of a symbolizer have one unit of measure (05-077r4, section 10.2).
    if (meters && (dash || offset !== undefined || marks))
      this.note('dashes, offsets and marks in pixels have no counterpart beside a width in meters');
    if (gradient) this.note('gradients along lines have no counterpart');
    const width = meters ? Number.parseFloat(stroke.width) : (stroke.width ?? 1);
    const graphic =
      marks &&
      !meters &&
      element(
        'se:GraphicStroke',
        {},
        this.graphic({
          icon: marks.icon,
          color: stroke.color ?? '#444444',
          size: typeof stroke.width === 'number' ? stroke.width : 10,
        }),
        element(
          'se:Gap',
          {},
          String(Math.max(0, (marks.gap ?? 40) - (typeof stroke.width === 'number' ? stroke.width : 10))),
        ),
      );
    const inner = graphic
      ? [graphic]
      : [
          ...this.paint('stroke', stroke.color ?? '#444444', stroke.opacity),
          this.parameter('stroke-width', width),
          this.parameter('stroke-linejoin', stroke.join === 'miter' ? 'mitre' : (stroke.join ?? 'round')),
          this.parameter('stroke-linecap', stroke.cap ?? 'round'),
          ...(dash && !meters ? [this.parameter('stroke-dasharray', dash.join(' '))] : []),
        ];
    return element(
      'se:LineSymbolizer',
      meters ? { uom: 'http://www.opengeospatial.org/se/units/metre' } : {},
      element('se:Stroke', {}, ...inner),
      offset === undefined || meters
        ? undefined
        : element('se:PerpendicularOffset', {}, typeof offset === 'number' ? String(-offset) : this.value(offset)),
    );
  }

  private graphic({ icon, shape, color, size, opacity, rotation, outline }: SheetMark): string {
    const name = icon ?? shape ?? 'circle';
    const known = ['circle', 'square', 'triangle', 'star', 'cross'];
    const fixed = typeof name === 'string' ? name : undefined;
    if (fixed === undefined) this.note('a shape or icon by attribute became a circle');
    const external = fixed !== undefined && !known.includes(fixed);
    const rim =
      outline &&
      element(
        'se:Stroke',
        {},
        ...this.paint('stroke', outline.color, undefined),
        this.parameter('stroke-width', outline.width ?? 1),
      );
    return element(
      'se:Graphic',
      {},
      external
        ? element(
            'se:ExternalGraphic',
            {},
            element('se:OnlineResource', { 'xlink:type': 'simple', 'xlink:href': `${fixed}.svg` }),
            element('se:Format', {}, 'image/svg+xml'),
          )
        : element(
            'se:Mark',
            {},
            element('se:WellKnownName', {}, fixed ?? 'circle'),
            element('se:Fill', {}, ...this.paint('fill', color ?? '#444444', undefined)),
            rim,
          ),
      opacity === undefined ? undefined : element('se:Opacity', {}, this.value(opacity)),
      element('se:Size', {}, this.value(size ?? 8)),
      rotation === undefined ? undefined : element('se:Rotation', {}, this.value(rotation)),
    );
  }

  private text(label: NonNullable<PartialSymbols['label']>, mark: PartialSymbols['mark']): string {
    const { size = 13, halo, side = mark ? 'above-right' : 'on', distance = 4, along } = label;
    const first = typeof side === 'string' ? side : side[0];
    if (typeof side !== 'string' && side.length > 1) this.note('only the first of several sides is kept');
    for (const [key, lost] of [
      ['priority', 'the priority of labels has no counterpart'],
      ['spacing', 'the spacing of letters has no counterpart'],
      ['upper', 'capital letters have no counterpart'],
      ['wrap', 'the wrapping of labels has no counterpart'],
      ['icon', 'symbols beside labels have no counterpart'],
      ['align', 'the alignment of lines has no counterpart'],
    ] as const)
      if (label[key] !== undefined) this.note(lost);
    const [sx, sy] = [
      first.includes('left') ? -1 : first.includes('right') ? 1 : 0,
      first.includes('below') ? -1 : first.includes('above') ? 1 : 0,
    ];
    const radius = mark && typeof mark.size === 'number' ? mark.size / 2 : 0;
    const away = (radius + distance) * (sx && sy ? Math.SQRT1_2 : 1);
    const placement = along
      ? element('se:LinePlacement', {})
      : element(
          'se:PointPlacement',
          {},
          element(
            'se:AnchorPoint',
            {},
            element('se:AnchorPointX', {}, String((1 - sx) / 2)),
            element('se:AnchorPointY', {}, String((1 - sy) / 2)),
          ),
          sx || sy
            ? element(
                'se:Displacement',
                {},
                element('se:DisplacementX', {}, (sx * away).toFixed(1)),
                element('se:DisplacementY', {}, (sy * away).toFixed(1)),
              )
            : undefined,
        );
    return element(
      'se:TextSymbolizer',
      {},
      element('se:Label', {}, this.labelText(label.text)),
      element(
        'se:Font',
        {},
        ...(label.font ? [this.parameter('font-family', label.font)] : []),
        ...(label.style ? [this.parameter('font-style', label.style)] : []),
        this.parameter('font-weight', (label.weight ?? 500) >= 600 ? 'bold' : 'normal'),
        this.parameter('font-size', size),
      ),
      element('se:LabelPlacement', {}, placement),
      halo &&
        element(
          'se:Halo',
          {},
          element('se:Radius', {}, String(halo.width ?? 1)),
          element('se:Fill', {}, ...this.paint('fill', halo.color, undefined)),
        ),
      element('se:Fill', {}, ...this.paint('fill', label.color ?? '#22303a', label.opacity)),
    );
  }

  private labelText(raw: unknown): string {
    const text =
      typeof raw === 'string'
        ? raw
        : typeof raw === 'object' && raw !== null && 'is' in raw
          ? String(raw.is)
          : undefined;
    if (text === undefined) {
      this.note('a text by scale has no counterpart');
      return '';
    }
    return this.expression(readCql2(text));
  }

  /** An expression as the content of a parameter, whose text and expressions follow each other (05-077r4, section 11.2: ParameterValueType). */
  private expression(tree: Expression): string {
    if (typeof tree === 'string') return escaped(tree);
    const parts = typeof tree === 'object' && 'op' in tree && tree.op === 'concat' ? tree.args : [tree];
    // Without line breaks between them, which would be text.
    return parts.map((part) => (writeExpression(part, this.note) ?? '').replace(/\n\s*/g, '')).join('');
  }

  private parameter(name: string, raw: unknown, color = false): string {
    return element('se:SvgParameter', { name }, this.value(raw, color));
  }

  /** A value: a constant as it is, a scale as a function, an expression as arithmetic. */
  private value(raw: unknown, color = false): string {
    const plain = (v: unknown) => (color ? this.css(v).hex : escaped(String(v)));
    if (typeof raw !== 'object' || raw === null) return plain(raw);
    if ('is' in raw) return this.expression(readCql2(raw.is as string));
    const scale = raw as Scale;
    if (scale.by === 'zoom') {
      this.note(`values that follow zoom are those at zoom ${this.zoom}`);
      return plain(this.atZoom(scale));
    }
    const lookup = writeExpression(readCql2(scale.by), this.note);
    if (!lookup) return plain(color ? missingColor : 1);
    const attributes = { fallbackValue: plain(scale.other ?? (color ? missingColor : 1)) };
    const by = element('se:LookupValue', {}, lookup);
    if (scale.categories) {
      const entries = entriesOf(scale);
      if (!entries.length) return attributes.fallbackValue;
      const items = entries.map(([key, v]) =>
        element('se:MapItem', {}, element('se:Data', {}, escaped(key)), element('se:Value', {}, plain(v))),
      );
      return element('se:Recode', attributes, by, ...items);
    }
    if (scale.classes) {
      const { breaks = [], values, scheme } = scale.classes;
      const list = values ?? findScheme(scheme ?? '', breaks.length + 1) ?? [];
      if (!scale.classes.breaks) this.note('class limits that are found in the data are left out');
      const steps = list
        .slice(0, breaks.length + 1)
        .flatMap((v, i) => [
          ...(i ? [element('se:Threshold', {}, String(breaks[i - 1]))] : []),
          element('se:Value', {}, plain(v)),
        ]);
      return element('se:Categorize', { ...attributes, threshholdsBelongTo: 'succeeding' }, by, ...steps);
    }
    if (color && (scale.space ?? 'lab') !== 'rgb') this.note('colors between the stops of a ramp are mixed in RGB');
    if ((scale.ease ?? 1) !== 1) this.note('the ease of a ramp has no counterpart');
    // Data of an interpolation are numbers (05-077r4, section 11.6.1).
    if (scale.ramp.some(([at]) => !Number.isFinite(Number(at)))) {
      this.note('ramps over times have no counterpart');
      return plain(scale.other ?? scale.ramp[0][1]);
    }
    const points = scale.ramp.map(([at, v]) =>
      element('se:InterpolationPoint', {}, element('se:Data', {}, String(at)), element('se:Value', {}, plain(v))),
    );
    return element(
      'se:Interpolate',
      { ...attributes, mode: 'linear', method: color ? 'color' : 'numeric' },
      by,
      ...points,
    );
  }

  private atZoom(raw: unknown): unknown {
    const { ramp, classes } = raw as Scale;
    const { zoom } = this;
    if (classes) return classes.values?.[(classes.breaks ?? []).filter((limit) => zoom >= limit).length];
    if (!ramp) return undefined;
    const i = ramp.findIndex(([at]) => zoom <= at);
    if (i <= 0) return ramp[i < 0 ? ramp.length - 1 : 0][1];
    const [[a, from], [b, to]] = [ramp[i - 1], ramp[i]];
    if (typeof from !== 'number' || typeof to !== 'number') return from;
    return Number((from + ((to - from) * (zoom - a)) / (b - a)).toFixed(2));
  }
}

/** A rule for one category. */
interface CategoryRule {
  readonly symbols: PartialSymbols;
  readonly filters: readonly Expression[];
  /** Its category; undefined where nothing goes by texts. */
  readonly key: string | undefined;
  /** Whether it draws what no category takes. */
  readonly isRest: boolean;
}

/** Categories of a scale with their values. */
function entriesOf({ categories = {}, scheme = '' }: Scale): readonly (readonly [string, unknown])[] {
  if (!Array.isArray(categories)) return Object.entries(categories);
  const colors = findScheme(scheme, categories.length);
  return categories.map((kind, i) => [String(kind), colors?.[i]] as const);
}

const isObject = (value: unknown): value is Readonly<Record<string, unknown>> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);
const isTextScale = (value: unknown): boolean =>
  isObject(value) &&
  typeof value['by'] === 'string' &&
  'categories' in value &&
  entriesOf(value as unknown as Scale).some(([key]) => !key.trim() || !Number.isFinite(Number(key)));

/** Scales with categories that are texts, wherever they are in some symbols. */
function textScales(node: unknown): Scale[] {
  if (isTextScale(node)) return [node as Scale];
  return typeof node === 'object' && node !== null ? Object.values(node).flatMap(textScales) : [];
}

/** Symbols with the value of one category in the place of every scale by an attribute; undefined for what has none. */
function withCategory<T>(node: T, by: string, key: string | undefined): T {
  if (isTextScale(node) && (node as unknown as Scale).by === by) {
    const scale = node as unknown as Scale;
    const found = entriesOf(scale).find(([own]) => own === key);
    return (found ? found[1] : { ...scale, categories: {} }) as T;
  }
  if (Array.isArray(node)) return node.map((item: unknown) => withCategory(item, by, key)) as T;
  if (!isObject(node)) return node;
  return Object.fromEntries(Object.entries(node).map(([name, value]) => [name, withCategory(value, by, key)])) as T;
}

/** Whether two filters plainly never hold at once. */
function apart(a: Expression, b: Expression): boolean {
  const [da, db] = [domainOf(a), domainOf(b)];
  if (!da?.kinds || !db?.kinds || da.property !== db.property) return false;
  return [...da.kinds].every((kind) => !isWithin({ property: da.property, kinds: new Set([kind]) }, db));
}
