import { Fault } from '../base/fault.js';
import { nearestSpelling } from '../base/spelling.js';
import {
  colourKind,
  compileExpression,
  compileValue,
  lengthKind,
  numberKind,
  shareKind,
  textKind,
  type CompiledValue,
  type Report,
  type Schemes,
} from './value.js';
import type { Rgba } from './colour.js';
import type { CompiledExpression } from './cql2/compile.js';
import type { Sheet, SheetHalo, SheetLabel, SheetLayer, SheetRule, SheetStroke, SheetSymbols } from './types.js';

export interface CompiledFill {
  readonly color: CompiledValue<Rgba>;
  readonly opacity: CompiledValue<number>;
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
}

export interface CompiledMark {
  readonly sprite: CompiledValue<string>;
  readonly size: CompiledValue<number>;
  readonly color: CompiledValue<Rgba>;
  readonly opacity: CompiledValue<number>;
  readonly outline: CompiledValue<Rgba>;
  readonly outlineWidth: number;
  readonly turn: CompiledValue<number>;
}

export interface CompiledLabel {
  readonly text: CompiledValue<string>;
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
  readonly offset: readonly [number, number];
  readonly anchor: NonNullable<SheetLabel['anchor']>;
  readonly wrap: number;
  readonly along: boolean;
}

/** What a rule draws; each part is there only when the sheet asks for it. */
export interface CompiledSymbols {
  readonly fill?: CompiledFill;
  readonly strokes: readonly CompiledStroke[];
  readonly mark?: CompiledMark;
  readonly label?: CompiledLabel;
}

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
  readonly hasFill: boolean;
  readonly strokePasses: number;
  readonly hasMark: boolean;
  readonly hasLabel: boolean;
  /** RGBA texels in one appearance row: 2 for a fill, 4 for each stroke, 5 for a mark. */
  readonly texels: number;
  /** Attributes that decide the appearance. */
  readonly properties: readonly string[];
  /** Zoom levels between which appearance runs smoothly, in rising order. */
  readonly breaks: readonly number[];
  readonly usesZoom: boolean;
  readonly stateNames: readonly string[];
  /** Equal for layers whose geometry is the same whatever their appearance. */
  readonly signature: string;
  readonly source: SheetLayer;
}

export interface CompiledSheet {
  readonly sheet: Sheet;
  readonly layers: readonly CompiledLayer[];
  readonly background: CompiledValue<Rgba>;
}

export const fillTexels = 2;
export const strokeTexels = 4;
export const markTexels = 5;

const always: readonly [number, number] = [0, 25];

/**
 * Compiles a sheet of the right form; faults in its values go to `report` with their JSON paths.
 *
 * @param schemes colour schemes by name; not needed for a sheet that has been through `withSchemeColours`
 */
export function compileSheet(sheet: Sheet, report: Report, schemes?: Schemes): CompiledSheet {
  const colours = colourKind(sheet.palette ?? {});
  const names = Object.keys(sheet.palette ?? {});
  for (const [name, colour] of Object.entries(sheet.palette ?? {})) {
    if (colour.startsWith('@') || !colours.read(colour))
      report(
        new Fault(
          'sheet.colour',
          `${JSON.stringify(colour)} is not a CSS colour`,
          'Write a colour such as "#d98a2b".',
          `$.palette.${name}`,
        ),
      );
  }
  const seen = new Set<string>();
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
    return compileLayer(sheet, layer, index, path, { colours, names, report, schemes });
  });
  const background = compileValue(sheet.background, colours, [0, 0, 0, 0] as Rgba, '$.background', report, names);
  if (background.properties.length)
    report(
      new Fault(
        'sheet.background',
        'the background has no attributes to go by',
        'Use a colour, or a scale by zoom.',
        '$.background',
      ),
    );
  return { sheet, layers, background };
}

interface Tools {
  readonly colours: ReturnType<typeof colourKind>;
  readonly names: readonly string[];
  readonly report: Report;
  readonly schemes: Schemes | undefined;
}

function compileLayer(sheet: Sheet, layer: SheetLayer, index: number, path: string, tools: Tools): CompiledLayer {
  const { report } = tools;
  const slash = layer.of.indexOf('/');
  const data = slash < 0 ? layer.of : layer.of.slice(0, slash);
  const known = Object.keys(sheet.data ?? {});
  if (!known.includes(data)) {
    const near = nearestSpelling(data, known);
    report(
      new Fault(
        'sheet.data',
        `there is no data called "${data}"`,
        near ? `Did you mean "${near}"?` : `The sheet's data: ${known.join(', ') || 'none'}.`,
        `${path}.of`,
      ),
    );
  } else if (slash < 0 && sheet.data![data].tiles !== undefined) {
    report(
      new Fault(
        'sheet.of',
        `"${data}" holds tiles, which have layers, and "of" names none`,
        `Write "${data}/…" with the name of a layer; flintwright inspect lists them.`,
        `${path}.of`,
      ),
    );
  }
  const rawRules: readonly SheetRule[] = layer.rules ?? [{ otherwise: true }];
  const stateNames = Object.keys(layer.states ?? {});
  const rules = rawRules.map((rule, i) =>
    compileRule(layer, rule, i, layer.rules ? `${path}.rules[${i}]` : path, path, tools),
  );
  const where = layer.where === undefined ? undefined : compileExpression(layer.where, `${path}.where`, report);
  const all = rules.flatMap((rule) => [rule.symbols, ...stateNames.map((state) => rule.inStates(state))]);
  if (all.every((s) => !s.fill && !s.strokes.length && !s.mark && !s.label)) {
    report(
      new Fault(
        'sheet.layer.empty',
        `layer "${layer.id}" says nothing to draw`,
        'Give it a fill, a stroke, a mark or a label.',
        path,
      ),
    );
  }
  const values = all.flatMap(valuesOf);
  const usesZoom =
    values.some((v) => v.usesZoom) ||
    rules.some((rule) => rule.where?.usesZoom) ||
    where?.usesZoom === true ||
    rules.some((rule) => rule.zoom !== always);
  const hasFill = all.some((s) => s.fill);
  const hasMark = all.some((s) => s.mark);
  const strokePasses = Math.max(0, ...all.map((s) => s.strokes.length));
  const wholes = Array.from({ length: 26 }, (_, i) => i);
  return {
    id: layer.id,
    title: layer.title ?? layer.id,
    index,
    data,
    from: slash < 0 ? '' : layer.of.slice(slash + 1),
    ...(where ? { where } : {}),
    zoom: layer.zoom ?? always,
    visible: layer.visible ?? true,
    opacity: layer.opacity ?? 1,
    rules,
    hasFill,
    strokePasses,
    hasMark,
    hasLabel: all.some((s) => s.label),
    texels: (hasFill ? fillTexels : 0) + strokePasses * strokeTexels + (hasMark ? markTexels : 0),
    properties: [
      ...new Set([
        ...values.flatMap((v) => v.properties),
        ...rules.flatMap((rule) => rule.where?.properties ?? []),
        ...(where?.properties ?? []),
      ]),
    ],
    breaks: usesZoom ? [...new Set([...wholes, ...rules.flatMap((rule) => rule.zoom)])].sort((a, b) => a - b) : [0, 25],
    usesZoom,
    stateNames,
    signature: JSON.stringify([
      layer.of,
      layer.where,
      rawRules.map((rule) => [rule.where, rule.otherwise]),
      hasFill,
      strokePasses,
      hasMark,
      all.some((s) => s.label),
      all.map((s) => s.label?.text && [rawText(layer), s.label.upper, s.label.along]),
    ]),
    source: layer,
  };
}

const rawText = (layer: SheetLayer) => [layer.label?.text, ...(layer.rules ?? []).map((rule) => rule.label?.text)];

function compileRule(
  layer: SheetLayer,
  rule: SheetRule,
  index: number,
  path: string,
  layerPath: string,
  tools: Tools,
): CompiledRule {
  const { report } = tools;
  const { where: text, zoom, otherwise, title, ...own } = rule;
  if (text !== undefined && otherwise)
    report(new Fault('sheet.rule', 'a rule has both where and otherwise', 'Keep one of them.', path));
  if (otherwise && layer.rules && index < layer.rules.length - 1)
    report(new Fault('sheet.rule', 'rules after an "otherwise" are never reached', 'Put "otherwise" last.', path));
  if (zoom && !(zoom[0] < zoom[1]))
    report(
      new Fault(
        'sheet.zoom',
        `zooms from ${zoom[0]} to ${zoom[1]} hold nothing`,
        'Write [first, end] with first below end.',
        `${path}.zoom`,
      ),
    );
  const shared: SheetSymbols = pickSymbols(layer);
  const base = mergeSymbols(shared, own);
  const symbols = compileSymbols(base, path, tools);
  const made = new Map<string, CompiledSymbols>();
  const where = text === undefined ? undefined : compileExpression(text, `${path}.where`, report);
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

const pickSymbols = ({ fill, stroke, mark, label }: SheetSymbols): SheetSymbols => ({
  ...(fill === undefined ? {} : { fill }),
  ...(stroke === undefined ? {} : { stroke }),
  ...(mark === undefined ? {} : { mark }),
  ...(label === undefined ? {} : { label }),
});

/** The symbols of `base` with those of `over` laid over them, key by key; one stroke over a list changes its topmost. */
function mergeSymbols(base: SheetSymbols, over: SheetSymbols): SheetSymbols {
  const out: { -readonly [K in keyof SheetSymbols]: SheetSymbols[K] } = { ...base };
  if (over.fill !== undefined) out.fill = { ...fillObject(base.fill), ...fillObject(over.fill) };
  if (over.mark) out.mark = { ...base.mark, ...over.mark };
  if (over.label) out.label = { ...base.label, ...over.label };
  if (Array.isArray(over.stroke)) out.stroke = over.stroke;
  else if (over.stroke !== undefined) {
    const below = strokeList(base.stroke);
    const top = { ...below[below.length - 1], ...strokeList(over.stroke)[0] };
    out.stroke = [...below.slice(0, -1), top];
  }
  return out;
}

const fillObject = (fill: SheetSymbols['fill']) => (typeof fill === 'string' ? { color: fill } : (fill ?? {}));

function strokeList(stroke: SheetSymbols['stroke']): readonly SheetStroke[] {
  if (stroke === undefined) return [];
  if (typeof stroke === 'string') return [{ color: stroke }];
  return Array.isArray(stroke) ? (stroke as readonly SheetStroke[]) : [stroke as SheetStroke];
}

function compileSymbols(
  symbols: SheetSymbols,
  path: string,
  { colours, names, report, schemes }: Tools,
): CompiledSymbols {
  const colour = (raw: unknown, fallback: string, at: string) =>
    compileValue(raw as never, colours, colours.read(fallback)!, at, report, names, schemes);
  const share = (raw: unknown, at: string) => compileValue(raw as never, shareKind, 1, at, report);
  const number = (raw: unknown, fallback: number, at: string) =>
    compileValue(raw as never, numberKind(fallback), fallback, at, report);
  const halo = (raw: SheetHalo | undefined, at: string) => colour(raw?.color, 'transparent', `${at}.color`);
  const fill = symbols.fill === undefined ? undefined : fillObject(symbols.fill);
  const strokes = strokeList(symbols.stroke).map((stroke, i): CompiledStroke => {
    const at = Array.isArray(symbols.stroke) ? `${path}.stroke[${i}]` : `${path}.stroke`;
    return {
      color: colour(stroke.color, '#444444', `${at}.color`),
      width: compileValue(stroke.width as never, lengthKind(1), 1, `${at}.width`, report),
      opacity: share(stroke.opacity, `${at}.opacity`),
      offset: number(stroke.offset, 0, `${at}.offset`),
      dash: stroke.dash ?? [],
      cap: ['butt', 'round', 'square'].indexOf(stroke.cap ?? 'round'),
      join: ['miter', 'round', 'bevel'].indexOf(stroke.join ?? 'round'),
    };
  });
  const { mark, label } = symbols;
  return {
    ...(fill
      ? {
          fill: {
            color: colour(fill.color, '#888888', `${path}.fill${typeof symbols.fill === 'string' ? '' : '.color'}`),
            opacity: share(fill.opacity, `${path}.fill.opacity`),
          },
        }
      : {}),
    strokes,
    ...(mark
      ? {
          mark: {
            sprite: compileValue(
              (mark.icon ?? mark.shape) as never,
              textKind,
              'circle',
              `${path}.mark.${mark.icon === undefined ? 'shape' : 'icon'}`,
              report,
            ),
            size: number(mark.size, 8, `${path}.mark.size`),
            color: colour(mark.color, '#444444', `${path}.mark.color`),
            opacity: share(mark.opacity, `${path}.mark.opacity`),
            outline: halo(mark.outline, `${path}.mark.outline`),
            outlineWidth: mark.outline ? (mark.outline.width ?? 1) : 0,
            turn: number(mark.turn, 0, `${path}.mark.turn`),
          },
        }
      : {}),
    ...(label ? { label: compileLabel(label, path, { colour, share, number, halo, report }) } : {}),
  };
}

interface LabelTools {
  colour(raw: unknown, fallback: string, at: string): CompiledValue<Rgba>;
  share(raw: unknown, at: string): CompiledValue<number>;
  number(raw: unknown, fallback: number, at: string): CompiledValue<number>;
  halo(raw: SheetHalo | undefined, at: string): CompiledValue<Rgba>;
  readonly report: Report;
}

function compileLabel(
  label: SheetLabel,
  path: string,
  { colour, share, number, halo, report }: LabelTools,
): CompiledLabel {
  const text = typeof label.text === 'string' ? { is: label.text } : label.text;
  const asText = { ...textKind, read: (raw: unknown) => (raw === undefined || raw === null ? undefined : String(raw)) };
  return {
    text: compileValue(text as never, asText, '', `${path}.label.text`, report),
    size: number(label.size, 13, `${path}.label.size`),
    color: colour(label.color, '#22303a', `${path}.label.color`),
    opacity: share(label.opacity, `${path}.label.opacity`),
    halo: halo(label.halo, `${path}.label.halo`),
    haloWidth: label.halo ? (label.halo.width ?? 1) : 0,
    priority: number(label.priority, 0, `${path}.label.priority`),
    font: label.font ?? 'system-ui, "Noto Sans", sans-serif',
    weight: label.weight ?? 500,
    style: label.style ?? 'normal',
    spacing: label.spacing ?? 0,
    upper: label.upper ?? false,
    offset: label.offset ?? [0, 0],
    anchor: label.anchor ?? 'center',
    wrap: label.along ? 1e3 : (label.wrap ?? 9),
    along: label.along ?? false,
  };
}

function valuesOf({ fill, strokes, mark, label }: CompiledSymbols): CompiledValue<unknown>[] {
  return [
    ...(fill ? [fill.color, fill.opacity] : []),
    ...strokes.flatMap((s) => [s.color, s.width, s.opacity, s.offset]),
    ...(mark ? [mark.sprite, mark.size, mark.color, mark.opacity, mark.outline, mark.turn] : []),
    ...(label ? [label.text, label.size, label.color, label.opacity, label.halo, label.priority] : []),
  ];
}
