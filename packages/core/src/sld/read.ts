import { Fault } from '../base/fault.js';
import type { Expression } from '../cql2/tree.js';
import { writeCql2 } from '../cql2/write.js';
import { domainOf, isWithin } from '../sheet/domain.js';
import type {
  PartialSymbols,
  SheetSide,
  SheetFill,
  SheetLabel,
  SheetMark,
  SheetStroke,
} from '../sheet/symbol-types.js';
import type { Sheet, SheetLayer, SheetRule } from '../sheet/types.js';
import { literal, readExpression, readFilter, type Note } from './filter.js';
import { zoomOfDenominator } from './scale.js';
import { child, childrenOf, mixedContent, readXml, textOf, type XmlNode } from '../base/xml.js';

type Loose<T> = { -readonly [K in keyof T]?: unknown };

/** A style that was read: the sheet, and what could not be converted. */
export interface ReadStyle {
  readonly sheet: Sheet;
  readonly lost: readonly string[];
}

/**
 * Reads OGC Styled Layer Descriptor 1.1 (OGC 05-078r4) or a Symbology Encoding 1.1 feature type style (OGC 05-077r4) as a sheet. Each named
 * layer becomes a data entry of its name, without a URL. Rules that can apply together are drawn over each other, as the standard requires,
 * as separate layers. Scale denominators become zoom levels at the equator.
 *
 * @throws Fault `xml.syntax`, `sld.form`
 */
export function readSld(source: string): ReadStyle {
  const root = readXml(source);
  const lost: string[] = [];
  const note: Note = (text) => {
    if (!lost.includes(text)) lost.push(text);
  };
  const named =
    root.name === 'StyledLayerDescriptor'
      ? root.children.filter(({ name }) => name === 'NamedLayer' || name === 'UserLayer')
      : [];
  const styles: { name: string; id?: string; style: XmlNode; title: string | undefined }[] =
    root.name === 'FeatureTypeStyle'
      ? [{ name: textOf(root, 'FeatureTypeName') ?? 'features', style: root, title: titleOf(root) }]
      : named.flatMap((layer) =>
          childrenOf(layer, 'UserStyle').flatMap((user) =>
            childrenOf(user, 'FeatureTypeStyle').map((style) => ({
              name: textOf(layer, 'Name') ?? 'features',
              id: textOf(user, 'Name') ?? textOf(layer, 'Name') ?? 'features',
              style,
              title: titleOf(user),
            })),
          ),
        );
  if (!styles.length)
    throw new Fault(
      'sld.form',
      `the document is <${root.name}> and contains no FeatureTypeStyle`,
      'Give a StyledLayerDescriptor with a UserStyle, or a FeatureTypeStyle.',
      `line ${root.line}`,
    );
  const layers: SheetLayer[] = [];
  const data: Record<string, { features: string }> = {};
  for (const { name, id: wanted, style, title } of styles) {
    const key = name.replace(/[^\p{L}\p{N}_-]+/gu, '-');
    data[key] = { features: `${key}.geojson` };
    for (const layer of layersOfStyle(style, key, wanted ?? key, note)) {
      const twins = layers.filter(({ id }) => id === layer.id || id.startsWith(`${layer.id}-`)).length;
      layers.push({
        ...layer,
        id: twins ? `${layer.id}-${twins + 1}` : layer.id,
        ...(title && !layer.title ? { title } : {}),
      });
    }
  }
  const sheetTitle = titleOf(root) ?? textOf(root, 'Name');
  return { sheet: { sheet: 1, ...(sheetTitle ? { title: sheetTitle } : {}), data, layers }, lost };
}

const titleOf = (node: XmlNode) => textOf(node, 'Description', 'Title') ?? textOf(node, 'Title');

interface ReadRule {
  readonly rule: SheetRule;
  readonly filter: Expression | undefined;
  readonly raster?: SheetLayer['image'];
}

function layersOfStyle(style: XmlNode, name: string, id: string, note: Note): SheetLayer[] {
  const read = childrenOf(style, 'Rule').flatMap((node) => readRule(node, note));
  const pictures = read.find(({ raster }) => raster);
  // A layer draws pictures or features; other rules are layers of their own.
  const rules = read.filter(({ raster, rule }) => !raster || hasSymbols(rule));
  if (!pictures) return featureLayers(rules, name, id);
  note(`layer "${name}" draws pictures: give its data entry "images" in place of "features"`);
  const image: SheetLayer = { id, of: name, ...zoomOf(pictures.rule), image: pictures.raster! };
  if (!rules.length) return [image];
  note(`layer "${name}" draws features as well: give those layers a separate data entry`);
  return [image, ...featureLayers(rules, name, `${id}-features`)];
}

const zoomOf = ({ zoom }: SheetRule) => (zoom ? { zoom } : {});
const hasSymbols = ({ fill, stroke, mark, label }: SheetRule) => [fill, stroke, mark, label].some(Boolean);

function featureLayers(rules: readonly ReadRule[], name: string, id: string): SheetLayer[] {
  if (!rules.length) return [];
  const base = { id, of: name };
  if (rules.length === 1 && !rules[0].filter) {
    const { otherwise: _, title, zoom, ...symbols } = rules[0].rule;
    return [{ ...base, ...(title ? { title } : {}), ...(zoom ? { zoom } : {}), ...symbols } as SheetLayer];
  }
  if (rules.every((a, i) => rules.slice(i + 1).every((b) => areApart(a, b))))
    return [{ ...base, rules: rules.map(({ rule }) => rule) }];
  // Where rules may hold at once, each draws for itself; what is left over is what no other filter takes.
  const others = rules.flatMap(({ filter, rule }) => (filter && !rule.otherwise ? [filter] : []));
  return rules.map(({ rule, filter }, i) => {
    const { otherwise, where: _, title, zoom, ...symbols } = rule;
    const rest: Expression | undefined =
      otherwise && others.length
        ? { op: 'not', args: [others.length > 1 ? { op: 'or', args: others } : others[0]] }
        : filter;
    return {
      id: `${id}-${i + 1}`,
      of: name,
      ...(title ? { title } : {}),
      ...(zoom ? { zoom } : {}),
      ...(rest ? { where: writeCql2(rest) } : {}),
      ...symbols,
    } as SheetLayer;
  });
}

/** Whether two rules never hold at once. */
function areApart(a: ReadRule, b: ReadRule): boolean {
  const [za, zb] = [a.rule.zoom ?? [0, 25], b.rule.zoom ?? [0, 25]];
  if (za[1] <= zb[0] || zb[1] <= za[0]) return true;
  if (a.rule.otherwise !== b.rule.otherwise) return true;
  const [da, db] = [a.filter && domainOf(a.filter), b.filter && domainOf(b.filter)];
  if (!da || !db || da.property !== db.property) return false;
  if (da.kinds && db.kinds) return [...da.kinds].every((kind) => !db.kinds!.has(kind));
  if (da.kinds || db.kinds) {
    const [kinds, other] = da.kinds ? [da, db] : [db, da];
    return [...kinds.kinds!].every((kind) => !isWithin({ property: kinds.property, kinds: new Set([kind]) }, other));
  }
  return da.stretches!.every((s) =>
    db.stretches!.every(
      (t) =>
        s.high < t.low ||
        t.high < s.low ||
        (s.high === t.low && !(s.highIn && t.lowIn)) ||
        (t.high === s.low && !(t.highIn && s.lowIn)),
    ),
  );
}

function readRule(node: XmlNode, note: Note): ReadRule[] {
  const filterNode = child(node, 'Filter');
  const filter = filterNode && readFilter(filterNode, note);
  if (filterNode && !filter) {
    note(`line ${node.line}: a rule is left out, because its filter could not be carried over`);
    return [];
  }
  const symbols = readSymbols(node, note);
  const raster = child(node, 'RasterSymbolizer');
  const title = titleOf(node) ?? textOf(node, 'Name');
  const [low, high] = [textOf(node, 'MaxScaleDenominator'), textOf(node, 'MinScaleDenominator')];
  const rule: SheetRule = {
    ...(title ? { title } : {}),
    ...(filter ? { where: writeCql2(filter) } : {}),
    ...(child(node, 'ElseFilter') ? { otherwise: true as const } : {}),
    ...(low || high
      ? { zoom: [low ? zoomOfDenominator(Number(low)) : 0, high ? zoomOfDenominator(Number(high)) : 25] as const }
      : {}),
    ...symbols,
  };
  const opacity = raster && textOf(raster, 'Opacity');
  if (raster) tellOthers(raster, ['Opacity', 'Name', 'Description'], note);
  tellOthers(node, ruleParts, note);
  return [{ rule, filter, ...(raster ? { raster: opacity ? { opacity: Number(opacity) } : {} } : {}) }];
}

const ruleParts = [
  'Name',
  'Title',
  'Abstract',
  'Description',
  'LegendGraphic',
  'Filter',
  'ElseFilter',
  'MinScaleDenominator',
  'MaxScaleDenominator',
  'PolygonSymbolizer',
  'LineSymbolizer',
  'PointSymbolizer',
  'TextSymbolizer',
  'RasterSymbolizer',
];

/** Reports elements that are not carried over, so that nothing is left out without a word. */
function tellOthers(node: XmlNode | undefined, known: readonly string[], note: Note): void {
  for (const inner of node?.children ?? [])
    if (!known.includes(inner.name))
      note(`line ${inner.line}: <${inner.name}> in <${node!.name}> has no counterpart and is left out`);
}

/** Meters in the unit of a symbolizer; undefined for pixels (05-077r4, section 10.2). */
function metersOf(symbolizer: XmlNode, note: Note): number | undefined {
  const { uom } = symbolizer.attributes;
  if (uom === undefined || /pixel$/.test(uom)) return undefined;
  if (/metre$/.test(uom)) return 1;
  // The international foot (ISO 80000-3).
  if (/foot$/.test(uom)) return 0.3048;
  note(`line ${symbolizer.line}: the unit ${uom} is not known; its lengths are taken for pixels`);
  return undefined;
}

/** Reports lengths on the ground where a sheet has pixels. */
function tellGround(symbolizer: XmlNode, what: string, note: Note): void {
  note(
    `line ${symbolizer.line}: ${what} in ${symbolizer.attributes['uom']?.replace(/^.*\//, '')} can only be in pixels and keep their default`,
  );
}

function readSymbols(rule: XmlNode, note: Note): PartialSymbols {
  const out: { -readonly [K in keyof PartialSymbols]: PartialSymbols[K] } = {};
  const strokes: SheetStroke[] = [];
  for (const node of rule.children) {
    switch (node.name) {
      case 'PolygonSymbolizer': {
        tellOthers(node, ['Name', 'Description', 'Fill', 'Stroke'], note);
        const fill = child(node, 'Fill');
        if (fill && out.fill) note(`line ${node.line}: a second fill of a rule is left out`);
        else if (fill) out.fill = readFill(fill, node, note);
        const stroke = child(node, 'Stroke');
        if (stroke) strokes.push(readStroke(stroke, node, note));
        break;
      }
      case 'LineSymbolizer': {
        tellOthers(node, ['Name', 'Description', 'Stroke', 'PerpendicularOffset'], note);
        const stroke = child(node, 'Stroke');
        strokes.push(stroke ? readStroke(stroke, node, note) : { color: '#000000' });
        break;
      }
      case 'PointSymbolizer': {
        tellOthers(node, ['Name', 'Description', 'Graphic'], note);
        const graphic = child(node, 'Graphic');
        if (out.mark) note(`line ${node.line}: a second point symbolizer of a rule is left out`);
        else if (graphic) out.mark = readGraphic(graphic, node, note);
        break;
      }
      case 'TextSymbolizer':
        if (out.label) note(`line ${node.line}: a second label of a rule is left out`);
        else out.label = readText(node, note);
        break;
    }
  }
  if (strokes.length) out.stroke = strokes.length === 1 ? strokes[0] : strokes;
  return out;
}

/** Values of `SvgParameter` (or `CssParameter` of version 1.0) by name. */
function parameters(node: XmlNode | undefined, note: Note): Map<string, unknown> {
  const out = new Map<string, unknown>();
  for (const inner of node?.children ?? [])
    if (inner.name === 'SvgParameter' || inner.name === 'CssParameter')
      out.set(inner.attributes['name'] ?? '', readValue(inner, note));
  return out;
}

/** A parameter value: a literal, an expression, or one of the functions Categorize, Interpolate and Recode. */
function readValue(node: XmlNode | undefined, note: Note): unknown {
  if (!node) return undefined;
  const content = mixedContent(node);
  const [inner] = content;
  if (inner === undefined) return undefined;
  if (typeof inner === 'string' && content.length === 1) return literal(inner.trim());
  if (typeof inner === 'string' || content.length > 1) {
    const expression = joinedExpression(content, note);
    return expression === undefined ? undefined : { is: writeCql2(expression) };
  }
  const by = () => {
    const lookup = child(inner, 'LookupValue')?.children[0];
    const expression = lookup && readExpression(lookup, note);
    return expression && writeCql2(expression);
  };
  const otherwise = inner.attributes['fallbackValue'];
  const rest = otherwise === undefined ? {} : { other: literal(otherwise) };
  switch (inner.name) {
    case 'Categorize': {
      const side = ['threshholdsBelongTo', 'thresholdsBelongTo', 'thresholdBelongsTo']
        .map((name) => inner.attributes[name])
        .find((value) => value !== undefined);
      if (side === 'preceding')
        note(
          `line ${inner.line}: values at a limit belong to the class above it here, and to the one below in the document`,
        );
      return {
        by: by(),
        classes: {
          breaks: childrenOf(inner, 'Threshold').map((t) => Number(t.text)),
          values: childrenOf(inner, 'Value').map((v) => literal(v.text.trim())),
        },
        ...rest,
      };
    }
    case 'Recode':
      return {
        by: by(),
        categories: Object.fromEntries(
          childrenOf(inner, 'MapItem').map((item) => [
            textOf(item, 'Data') ?? '',
            literal(textOf(item, 'Value') ?? ''),
          ]),
        ),
        ...rest,
      };
    case 'Interpolate': {
      if (inner.attributes['mode'] && inner.attributes['mode'] !== 'linear')
        note(`line ${inner.line}: the interpolation mode ${inner.attributes['mode']} became linear`);
      return {
        by: by(),
        ramp: childrenOf(inner, 'InterpolationPoint').map((point) => [
          Number(textOf(point, 'Data')),
          literal(textOf(point, 'Value') ?? ''),
        ]),
        ...(inner.attributes['method'] === 'color' ? { space: 'rgb' } : {}),
        ...rest,
      };
    }
    case 'Literal':
      return literal(inner.text.trim());
    default: {
      const expression = readExpression(inner, note);
      return expression === undefined ? undefined : { is: writeCql2(expression) };
    }
  }
}

/** Text and expressions that follow each other, as one expression; undefined where one of them cannot be carried over. */
function joinedExpression(content: readonly (string | XmlNode)[], note: Note): Expression | undefined {
  // Blanks within a literal are part of a text that others go on with.
  const isWords = ({ name, text }: XmlNode) => name === 'Literal' && text !== text.trim() && !text.includes('\n');
  const parts = content.map((part) =>
    typeof part === 'string' ? part : isWords(part) ? part.text : readExpression(part, note),
  );
  if (parts.some((part) => part === undefined)) return undefined;
  const args = parts as Expression[];
  return args.length > 1 ? { op: 'concat', args } : args[0];
}

const present = <T extends object>(object: Loose<T>): T =>
  Object.fromEntries(Object.entries(object).filter(([, value]) => value !== undefined)) as T;

function readFill(node: XmlNode, symbolizer: XmlNode, note: Note): SheetFill {
  tellOthers(node, ['SvgParameter', 'CssParameter', 'GraphicFill'], note);
  const values = parameters(node, note);
  const graphic = child(node, 'GraphicFill', 'Graphic');
  const mark = graphic && readGraphic(graphic, symbolizer, note);
  return present<SheetFill>({
    color: values.get('fill') ?? (mark ? undefined : '#808080'),
    opacity: values.get('fill-opacity'),
    pattern: mark
      ? present({
          icon: mark.icon ?? mark.shape ?? 'square',
          color: mark.color,
          size: typeof mark.size === 'number' ? mark.size : undefined,
        })
      : undefined,
  });
}

function readStroke(node: XmlNode, symbolizer: XmlNode, note: Note): SheetStroke {
  const values = parameters(node, note);
  tellOthers(node, ['SvgParameter', 'CssParameter', 'GraphicStroke'], note);
  const meters = metersOf(symbolizer, note);
  const width = values.get('stroke-width');
  const dash = meters === undefined ? values.get('stroke-dasharray') : undefined;
  if (meters !== undefined && values.has('stroke-dasharray')) tellGround(symbolizer, 'dashes', note);
  if (meters !== undefined && width !== undefined && typeof width !== 'number')
    tellGround(symbolizer, 'widths that go by an attribute', note);
  if (values.has('stroke-dashoffset')) note(`line ${node.line}: the dash offset is left out`);
  const perpendicular = child(symbolizer, 'PerpendicularOffset');
  if (meters !== undefined && perpendicular) tellGround(symbolizer, 'offsets', note);
  const offset = meters === undefined ? readValue(perpendicular, note) : undefined;
  if (typeof offset === 'object') note(`line ${node.line}: an offset by attribute was left out`);
  const join = values.get('stroke-linejoin');
  const graphic = child(node, 'GraphicStroke', 'Graphic');
  const mark = graphic && readGraphic(graphic, symbolizer, note);
  tellOthers(child(node, 'GraphicStroke'), ['Graphic', 'Gap'], note);
  const gap = Number(textOf(node, 'GraphicStroke', 'Gap') ?? NaN);
  const size = typeof mark?.size === 'number' ? mark.size : 10;
  return present<SheetStroke>({
    color: values.get('stroke') ?? mark?.color ?? '#000000',
    width: mark
      ? size
      : meters === undefined
        ? width
        : typeof width === 'number'
          ? `${Number((width * meters).toFixed(6))}m`
          : undefined,
    opacity: values.get('stroke-opacity'),
    // The standard counts to the left of the line's direction, the sheet to the right.
    offset: typeof offset === 'number' && offset ? -offset : undefined,
    dash:
      dash === undefined
        ? undefined
        : String(dash)
            .split(/[\s,]+/)
            .map(Number),
    cap: values.get('stroke-linecap') ?? 'butt',
    join: join === 'mitre' ? 'miter' : join,
    marks: mark
      ? { icon: String(mark.icon ?? mark.shape ?? 'circle'), gap: Number.isNaN(gap) ? size * 2 : gap + size }
      : undefined,
  });
}

const shapes: Readonly<Record<string, string>> = {
  square: 'square',
  circle: 'circle',
  triangle: 'triangle',
  star: 'star',
  cross: 'cross',
};

function readGraphic(node: XmlNode, symbolizer: XmlNode, note: Note): SheetMark {
  tellOthers(node, ['Mark', 'ExternalGraphic', 'Opacity', 'Size', 'Rotation'], note);
  if (childrenOf(node, 'Mark').length + childrenOf(node, 'ExternalGraphic').length > 1)
    note(`line ${node.line}: of several marks and pictures of a symbol, one is kept`);
  const onGround = metersOf(symbolizer, note) !== undefined;
  const mark = child(node, 'Mark');
  const external = child(node, 'ExternalGraphic');
  const wellKnown = textOf(mark, 'WellKnownName') ?? 'square';
  const address = child(external, 'OnlineResource')?.attributes['href'];
  const icon = address?.replace(/^.*\//, '').replace(/\.\w+$/, '');
  if (icon) note(`the picture ${address} became the icon "${icon}": hand it over in the option "icons" of the map`);
  const turned = wellKnown === 'x';
  const shape = shapes[wellKnown] ?? (turned ? 'cross' : undefined);
  if (!icon && !shape) note(`line ${node.line}: the mark ${wellKnown} became a square`);
  const fill = parameters(child(mark, 'Fill'), note);
  const rim = parameters(child(mark, 'Stroke'), note);
  const size = onGround ? undefined : readValue(child(node, 'Size'), note);
  if (onGround && child(node, 'Size')) tellGround(symbolizer, 'sizes of symbols', note);
  return present<SheetMark>({
    icon,
    shape: icon ? undefined : (shape ?? 'square'),
    // The standard's default is 6 pixels for marks (OGC 05-077r4, section 11.3.2).
    size: size ?? 6,
    color: fill.get('fill') ?? (child(mark, 'Fill') ? '#808080' : undefined),
    opacity: readValue(child(node, 'Opacity'), note) ?? fill.get('fill-opacity'),
    rotation: readValue(child(node, 'Rotation'), note) ?? (turned ? 45 : undefined),
    outline: child(mark, 'Stroke')
      ? present({ color: rim.get('stroke') ?? '#000000', width: rim.get('stroke-width') ?? 1 })
      : undefined,
  });
}

function readText(node: XmlNode, note: Note): SheetLabel {
  tellOthers(node, ['Name', 'Description', 'Label', 'Font', 'LabelPlacement', 'Halo', 'Fill'], note);
  const label = child(node, 'Label');
  const read = label && joinedExpression(mixedContent(label), note);
  if (label && read === undefined) note(`line ${node.line}: the text of a label could not be carried over`);
  const text = read ?? '';
  const onGround = metersOf(node, note) !== undefined;
  const font = parameters(child(node, 'Font'), note);
  const fill = parameters(child(node, 'Fill'), note);
  const halo = child(node, 'Halo');
  const point = child(node, 'LabelPlacement', 'PointPlacement');
  if (onGround) tellGround(node, 'sizes and distances of labels', note);
  const size = onGround ? 10 : (font.get('font-size') ?? 10);
  const anchor = child(point, 'AnchorPoint');
  const move = onGround ? undefined : child(point, 'Displacement');
  tellOthers(point, ['AnchorPoint', 'Displacement'], note);
  tellOthers(child(node, 'LabelPlacement', 'LinePlacement'), [], note);
  tellOthers(halo, ['Radius', 'Fill'], note);
  const [right, up] = ['X', 'Y'].map((axis) => Number(textOf(move, `Displacement${axis}`) ?? 0));
  const away = move ? Math.round(Math.hypot(right, up) * 10) / 10 : 0;
  const side = anchor
    ? sideAt(Number(textOf(anchor, 'AnchorPointX') ?? 0), Number(textOf(anchor, 'AnchorPointY') ?? 0.5))
    : away
      ? sideAt(right > away / 3 ? 0 : right < -away / 3 ? 1 : 0.5, up > away / 3 ? 0 : up < -away / 3 ? 1 : 0.5)
      : undefined;
  if (side === 'on' && away) note(`line ${node.line}: a label that is centered stands on its place`);
  const weight = font.get('font-weight');
  return present<SheetLabel>({
    text: writeCql2(text),
    size,
    color: fill.get('fill') ?? '#000000',
    opacity: fill.get('fill-opacity'),
    font: font.get('font-family'),
    weight: weight === 'bold' ? 700 : weight === 'normal' ? 400 : weight,
    style: font.get('font-style') === undefined ? undefined : font.get('font-style') === 'normal' ? 'normal' : 'italic',
    halo: halo
      ? present({
          color: parameters(child(halo, 'Fill'), note).get('fill') ?? '#ffffff',
          width: Number(textOf(halo, 'Radius') ?? 1),
        })
      : undefined,
    along: child(node, 'LabelPlacement', 'LinePlacement') ? true : undefined,
    side,
    distance: side === undefined || side === 'on' ? undefined : away,
  });
}

/** The side of its place that a text stands on. The standard gives the place as shares of the text's box from its lower left corner. */
function sideAt(x: number, y: number): SheetSide {
  const across = x < 0.25 ? 'right' : x > 0.75 ? 'left' : '';
  const level = y < 0.25 ? 'above' : y > 0.75 ? 'below' : '';
  return ([level, across].filter(Boolean).join('-') || 'on') as SheetSide;
}
