import { Fault } from '../base/fault.js';
import { authorityAxes } from '../crs/axes.js';
import { transformer } from '../crs/crs.js';
import { getCrs } from '../crs/registry.js';
import type { Argument, Expression } from '../cql2/tree.js';
import { child, childrenOf, element, escaped, textOf, type XmlNode } from '../base/xml.js';

/** Receives what cannot be carried over, with the reason. */
export type Note = (text: string) => void;

type Operation = { readonly op: string; readonly args: readonly Argument[] };

const comparisons: Readonly<Record<string, string>> = {
  PropertyIsEqualTo: '=',
  PropertyIsNotEqualTo: '<>',
  PropertyIsLessThan: '<',
  PropertyIsLessThanOrEqualTo: '<=',
  PropertyIsGreaterThan: '>',
  PropertyIsGreaterThanOrEqualTo: '>=',
};
const spatial: Readonly<Record<string, string>> = {
  Intersects: 's_intersects',
  Disjoint: 's_disjoint',
  Within: 's_within',
  Contains: 's_contains',
  Touches: 's_touches',
  Crosses: 's_crosses',
  Overlaps: 's_overlaps',
  Equals: 's_equals',
};
const arithmetic: Readonly<Record<string, string>> = { Add: '+', Sub: '-', Mul: '*', Div: '/' };
const swapped = (map: Readonly<Record<string, string>>) =>
  Object.fromEntries(Object.entries(map).map(([a, b]) => [b, a]));

/** Relations of times, in Filter Encoding 2.0 (OGC 09-026r2, section 7.8.4). */
const temporal: Readonly<Record<string, string>> = {
  After: 't_after',
  Before: 't_before',
  Begins: 't_starts',
  BegunBy: 't_startedBy',
  TContains: 't_contains',
  During: 't_during',
  EndedBy: 't_finishedBy',
  Ends: 't_finishes',
  TEquals: 't_equals',
  Meets: 't_meets',
  MetBy: 't_metBy',
  TOverlaps: 't_overlaps',
  OverlappedBy: 't_overlappedBy',
  AnyInteracts: 't_intersects',
};

/** A literal of a filter: a number where it reads as one. */
export const literal = (text: string): string | number =>
  /^[-+]?(\d+\.?\d*|\.\d+)([eE][-+]?\d+)?$/.test(text) ? Number(text) : text;

/** An expression of Filter Encoding 1.1 (OGC 04-095, clause 6) or 2.0 (09-026r2); undefined, with a note, for functions that we have none of. */
export function readExpression(node: XmlNode, note: Note): Expression | undefined {
  switch (node.name) {
    case 'PropertyName':
    case 'ValueReference':
      return { property: node.text.trim().replace(/^.*[:/]/, '') };
    case 'Literal':
      return literal(node.text.trim());
    case 'Function':
      note(`line ${node.line}: the function ${node.attributes['name'] ?? ''} has no counterpart`);
      return undefined;
    default: {
      const op = arithmetic[node.name];
      const args = node.children.map((inner) => readExpression(inner, note));
      if (!op) note(`line ${node.line}: ${node.name} is not an expression that can be carried over`);
      return op && args.every((arg) => arg !== undefined) ? { op, args } : undefined;
    }
  }
}

/** A filter of Filter Encoding 1.1 (OGC 04-095) or 2.0 (09-026r2); undefined, with a note, for what cannot be carried over. */
export function readFilter(node: XmlNode, note: Note): Expression | undefined {
  const inner = () => node.children.map((c) => readFilter(c, note));
  const whole = (op: string, args: (Argument | undefined)[]): Expression | undefined =>
    args.length && args.every((arg) => arg !== undefined) ? { op, args } : undefined;
  switch (node.name) {
    case 'Filter':
      return node.children[0] && readFilter(node.children[0], note);
    case 'And':
    case 'Or': {
      const parts = inner();
      return parts.length === 1 ? parts[0] : whole(node.name.toLowerCase(), parts);
    }
    case 'Not':
      return node.children.length === 1 ? whole('not', inner()) : undefined;
    case 'PropertyIsNull':
    case 'PropertyIsNil':
      return whole('isNull', [readExpression(node.children[0], note)]);
    case 'PropertyIsBetween': {
      const bound = (name: string) => {
        const inside = child(node, name)?.children[0];
        return inside && readExpression(inside, note);
      };
      return whole('between', [readExpression(node.children[0], note), bound('LowerBoundary'), bound('UpperBoundary')]);
    }
    case 'PropertyIsLike': {
      const { wildCard = '%', singleChar = '_', escapeChar, escape: other, matchCase } = node.attributes;
      const pattern = likeFrom(textOf(node, 'Literal') ?? '', wildCard, singleChar, escapeChar ?? other ?? '\\');
      const value = readExpression(node.children[0], note);
      if (matchCase !== 'false') return whole('like', [value, pattern]);
      return (
        value && {
          op: 'like',
          args: [
            { op: 'casei', args: [value] },
            { op: 'casei', args: [pattern] },
          ],
        }
      );
    }
    case 'BBOX': {
      const envelope = child(node, 'Envelope') ?? child(node, 'Box');
      const corners = envelope && placesOf(envelope, cornersOf(envelope), note);
      if (corners === undefined) return undefined;
      if (corners.length !== 2) {
        note(`line ${node.line}: the box has no two corners`);
        return undefined;
      }
      const [[x1, y1], [x2, y2]] = corners;
      const box = [Math.min(x1, x2), Math.min(y1, y2), Math.max(x1, x2), Math.max(y1, y2)];
      return { op: 's_intersects', args: [{ property: 'geometry' }, { bbox: box }] };
    }
  }
  if (comparisons[node.name]) {
    const args = node.children.map((c) => readExpression(c, note));
    const folded = node.attributes['matchCase'] === 'false';
    return whole(
      comparisons[node.name],
      args.map((arg) =>
        folded && arg !== undefined && (typeof arg === 'string' || typeof arg === 'object')
          ? { op: 'casei', args: [arg] }
          : arg,
      ),
    );
  }
  if (spatial[node.name]) {
    const shape = node.children.map((inner) => readGml(inner, note)).find((found) => found !== undefined);
    if (!shape) note(`line ${node.line}: ${node.name} has no geometry that can be carried over`);
    return shape && { op: spatial[node.name], args: [{ property: 'geometry' }, shape] };
  }
  if (temporal[node.name])
    return whole(
      temporal[node.name],
      node.children.map((inner) => readTime(inner) ?? readExpression(inner, note)),
    );
  note(`line ${node.line}: the filter ${node.name} has no counterpart`);
  return undefined;
}

/** A moment or a period of time (GML 3.2, clause 14); undefined for anything else. */
function readTime(node: XmlNode): Expression | undefined {
  const moment = (text: string): Expression => (text.includes('T') ? { timestamp: text } : { date: text });
  const position = (name: string) =>
    textOf(node, `${name}Position`) ?? textOf(child(node, name), 'TimeInstant', 'timePosition');
  if (node.name === 'TimeInstant') {
    const text = textOf(node, 'timePosition');
    return text === undefined ? undefined : moment(text);
  }
  if (node.name !== 'TimePeriod') return undefined;
  return { interval: [position('begin') ?? '..', position('end') ?? '..'] } as unknown as Expression;
}

function likeFrom(text: string, any: string, one: string, escape: string): string {
  let out = '';
  for (let i = 0; i < text.length; i++) {
    const c = text[i];
    if (c === escape && i + 1 < text.length) out += /[%_\\]/.test(text[++i]) ? `\\${text[i]}` : text[i];
    else out += c === any ? '%' : c === one ? '_' : /[%_\\]/.test(c) ? `\\${c}` : c;
  }
  return out;
}

/** Numbers of a text by pairs. */
function pairsOf(text: string | undefined, dimensions = 2): number[][] {
  const numbers = (text ?? '')
    .split(/[\s,]+/)
    .filter(Boolean)
    .map(Number);
  return Array.from({ length: Math.floor(numbers.length / dimensions) }, (_, i) =>
    numbers.slice(dimensions * i, dimensions * i + 2),
  );
}

/** The two corners of a box, as GML 3 and GML 2 write them. */
function cornersOf(envelope: XmlNode): number[][] {
  const { lowerCorner, upperCorner, coordinates } = Object.fromEntries(
    envelope.children.map(({ name, text }) => [name, text]),
  );
  const low = pairsOf(lowerCorner, lowerCorner?.trim().split(/\s+/).length);
  const high = pairsOf(upperCorner, upperCorner?.trim().split(/\s+/).length);
  if (low.length && high.length) return [low[0], high[0]];
  return pairsOf(coordinates);
}

/**
 * Places of a geometry in longitude and latitude. Without a system they are that; a system by its URN or address has the order of axes of
 * its authority, and one by a bare code or by the address of GML 2 has x first (OGC 08-038r7).
 *
 * @returns undefined, with a note, where the system is not known
 */
function placesOf(node: XmlNode, places: readonly number[][], note: Note): number[][] | undefined {
  const name = node.attributes['srsName'];
  if (places.some((place) => place.length < 2 || place.some(Number.isNaN))) {
    note(`line ${node.line}: the geometry has positions that are no numbers`);
    return undefined;
  }
  if (name === undefined) return [...places];
  const isFormal = /^urn:|\/def\/crs\//i.test(name);
  const code = /(\w+)[:/#](?:[\d.]*[:/])?(\w+)$/.exec(name.replace(/\/srs\/(\w+)\.xml#/i, '/$1:').replace(/::/g, ':'));
  try {
    const crs = getCrs(code ? `${code[1].toUpperCase()}:${code[2]}` : name);
    const place = transformer(crs, getCrs('OGC:CRS84'));
    const turn = isFormal ? authorityAxes(crs).toXY : () => {};
    return places.map(([x, y]) => {
      const at: [number, number] = [x, y];
      turn(at);
      const out: [number, number] = [0, 0];
      if (!place(at[0], at[1], out)) throw new Fault('crs.domain', 'a place lies outside the domain', '');
      return out.map((v) => Number(v.toFixed(9)));
    });
  } catch (error) {
    if (!(error instanceof Fault)) throw error;
    note(`line ${node.line}: the geometry in ${name} cannot be carried over: ${error.message}`);
    return undefined;
  }
}

function readGml(node: XmlNode, note: Note, srs?: string): Expression | undefined {
  const srsName = node.attributes['srsName'] ?? srs;
  const own: XmlNode = srsName === undefined ? node : { ...node, attributes: { ...node.attributes, srsName } };
  const places = (part: XmlNode | undefined) => {
    const dimensions = Number(
      child(part, 'posList')?.attributes['srsDimension'] ?? node.attributes['srsDimension'] ?? 2,
    );
    const single = part && childrenOf(part, 'pos').map(({ text }) => text);
    const read = single?.length
      ? single.flatMap((text) => pairsOf(text, text.trim().split(/\s+/).length))
      : (() => {
          const list = textOf(part, 'posList');
          return list === undefined ? pairsOf(textOf(part, 'coordinates')) : pairsOf(list, dimensions);
        })();
    return placesOf(own, read, note);
  };
  const known = (type: string, coordinates: unknown): Expression | undefined =>
    coordinates === undefined ? undefined : { type, coordinates };
  const members = (type: string, pattern: RegExp): Expression | undefined => {
    const inner = node.children
      .filter(({ name }) => pattern.test(name))
      .flatMap(({ children }) => children.map((one) => readGml(one, note, srsName)));
    return inner.length && inner.every((one) => one !== undefined)
      ? known(
          type,
          inner.map((one) => (one as unknown as { coordinates: unknown }).coordinates),
        )
      : undefined;
  };
  switch (node.name) {
    case 'Point':
      return known('Point', places(node)?.[0]);
    case 'LineString':
      return known('LineString', places(node));
    case 'Curve':
      return known('LineString', places(child(node, 'segments', 'LineStringSegment')));
    case 'Polygon': {
      // GML 2 has its own names for the borders.
      const borders = ['exterior', 'outerBoundaryIs', 'interior', 'innerBoundaryIs'].flatMap((name) =>
        childrenOf(node, name),
      );
      const rings = borders.map((border) => places(child(border, 'LinearRing')));
      return rings.length && rings.every(Boolean) ? known('Polygon', rings) : undefined;
    }
    case 'Envelope':
    case 'Box': {
      const corners = placesOf(own, cornersOf(node), note);
      return corners?.length === 2 ? { bbox: corners.flat() } : undefined;
    }
    case 'MultiPoint':
      return members('MultiPoint', /^pointMembers?$/);
    case 'MultiLineString':
    case 'MultiCurve':
      return members('MultiLineString', /^(lineString|curve)Members?$/);
    case 'MultiPolygon':
    case 'MultiSurface':
      return members('MultiPolygon', /^(polygon|surface)Members?$/);
    default:
      return undefined;
  }
}

/** Writes an expression; undefined, with a note, for what Filter Encoding 1.1 has no words for. */
export function writeExpression(node: Argument, note: Note): string | undefined {
  if (typeof node !== 'object') return element('ogc:Literal', {}, escaped(String(node)));
  if ('property' in node) return element('ogc:PropertyName', {}, escaped((node as { property: string }).property));
  if ('date' in node) return element('ogc:Literal', {}, (node as { date: string }).date);
  if ('timestamp' in node) return element('ogc:Literal', {}, (node as { timestamp: string }).timestamp);
  const { op, args = [] } = node as Operation;
  const name = swapped(arithmetic)[op];
  if (!name) {
    note(`${op ?? 'this expression'} has no counterpart in Filter Encoding 1.1`);
    return undefined;
  }
  const parts = args.map((arg) => writeExpression(arg, note));
  return parts.every((part) => part !== undefined) ? element(`ogc:${name}`, {}, ...parts) : undefined;
}

const isProperty = (node: Argument): boolean => typeof node === 'object' && 'property' in node;

/** Writes a filter; undefined, with a note, for what Filter Encoding 1.1 has no words for. */
export function writeFilter(node: Expression, note: Note): string | undefined {
  // An attribute that is true or false is compared.
  if (typeof node === 'object' && 'property' in node) return writeFilter({ op: '=', args: [node, true] }, note);
  if (typeof node === 'boolean') {
    // What is always true is a comparison of two literals (04-095, section 8: expressions on both sides).
    return writeFilter({ op: '=', args: [1, node ? 1 : 0] }, note);
  }
  if (typeof node !== 'object' || !('op' in node)) {
    note('a filter that is no operation has no counterpart in Filter Encoding 1.1');
    return undefined;
  }
  const { op, args } = node;
  const whole = (name: string, attributes: Record<string, string>, parts: (string | undefined)[]) =>
    parts.every((part) => part !== undefined) ? element(`ogc:${name}`, attributes, ...parts) : undefined;
  const values = (list: readonly Argument[] = args) => list.map((arg) => writeExpression(arg, note));
  const bare = (arg: Argument): Argument =>
    typeof arg === 'object' && 'op' in arg && arg.op === 'casei' ? arg.args[0] : arg;
  const folded = args.some((arg) => bare(arg) !== arg) ? { matchCase: 'false' } : {};
  switch (op) {
    case 'and':
    case 'or':
      return whole(
        op === 'and' ? 'And' : 'Or',
        {},
        args.map((arg) => writeFilter(arg as Expression, note)),
      );
    case 'not':
      return whole('Not', {}, [writeFilter(args[0] as Expression, note)]);
    case 'isNull':
      if (!isProperty(args[0])) {
        note(
          'that an expression is missing has no counterpart in Filter Encoding 1.1, which asks it of attributes only',
        );
        return undefined;
      }
      return whole('PropertyIsNull', {}, values());
    case 'between': {
      const [value, low, high] = values();
      if (value === undefined || low === undefined || high === undefined) return undefined;
      return element(
        'ogc:PropertyIsBetween',
        {},
        value,
        element('ogc:LowerBoundary', {}, low),
        element('ogc:UpperBoundary', {}, high),
      );
    }
    case 'in': {
      const each = (args[1] as readonly Argument[]).map((item) =>
        writeFilter({ op: '=', args: [args[0], item] }, note),
      );
      return each.length === 1 ? each[0] : whole('Or', {}, each);
    }
    case 'like':
      if (!isProperty(bare(args[0])) || typeof bare(args[1]) !== 'string') {
        note('patterns have no counterpart in Filter Encoding 1.1 but for attributes and texts');
        return undefined;
      }
      return whole(
        'PropertyIsLike',
        { wildCard: '%', singleChar: '_', escapeChar: '\\', ...folded },
        values(args.map(bare)),
      );
  }
  const name = swapped(comparisons)[op];
  if (name) return whole(name, folded, values(args.map(bare)));
  const relation = swapped(spatial)[op];
  const shape = args.find((arg) => typeof arg === 'object' && ('type' in arg || 'bbox' in arg));
  const gml = relation && shape ? writeGml(shape) : undefined;
  if (relation && shape && !gml) {
    note('geometries that are collections have no counterpart in Filter Encoding 1.1');
    return undefined;
  }
  if (gml) {
    const own = element('ogc:PropertyName', {}, 'geometry');
    return element(`ogc:${'bbox' in (shape as object) && op === 's_intersects' ? 'BBOX' : relation}`, {}, own, gml);
  }
  note(`the filter ${op} has no counterpart in Filter Encoding 1.1`);
  return undefined;
}

/** Longitude and latitude, x first. */
const lonLat = { srsName: 'urn:ogc:def:crs:OGC:1.3:CRS84' };

function writeGml(shape: object): string | undefined {
  const { type, coordinates, bbox } = shape as { type?: string; coordinates?: unknown; bbox?: number[] };
  if (bbox) {
    const half = bbox.length / 2;
    return element(
      'gml:Envelope',
      lonLat,
      element('gml:lowerCorner', {}, `${bbox[0]} ${bbox[1]}`),
      element('gml:upperCorner', {}, `${bbox[half]} ${bbox[half + 1]}`),
    );
  }
  const list = (pairs: unknown) => (pairs as number[][]).map(([x, y]) => `${x} ${y}`).join(' ');
  const simple = (kind: string, own: unknown, attributes: Readonly<Record<string, string>>): string => {
    if (kind === 'Point') return element('gml:Point', attributes, element('gml:pos', {}, list([own])));
    if (kind === 'LineString') return element('gml:LineString', attributes, element('gml:posList', {}, list(own)));
    const rings = (own as unknown[]).map((ring, i) =>
      element(
        i ? 'gml:interior' : 'gml:exterior',
        {},
        element('gml:LinearRing', {}, element('gml:posList', {}, list(ring))),
      ),
    );
    return element('gml:Polygon', attributes, ...rings);
  };
  const many = (kind: string, member: string) =>
    element(
      `gml:${type}`,
      lonLat,
      (coordinates as unknown[]).map((own) => element(`gml:${member}`, {}, simple(kind, own, {}))),
    );
  switch (type) {
    case 'Point':
    case 'LineString':
    case 'Polygon':
      return simple(type, coordinates, lonLat);
    case 'MultiPoint':
      return many('Point', 'pointMember');
    case 'MultiLineString':
      return many('LineString', 'lineStringMember');
    case 'MultiPolygon':
      return many('Polygon', 'polygonMember');
    default:
      return undefined;
  }
}
