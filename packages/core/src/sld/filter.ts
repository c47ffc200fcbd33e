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

/** A literal of a filter: a number where it reads as one. */
export const literal = (text: string): string | number =>
  /^[-+]?(\d+\.?\d*|\.\d+)([eE][-+]?\d+)?$/.test(text) ? Number(text) : text;

/** An expression of Filter Encoding 1.1 (OGC 04-095, clause 6); undefined, with a note, for functions that we have none of. */
export function readExpression(node: XmlNode, note: Note): Expression | undefined {
  switch (node.name) {
    case 'PropertyName':
      return { property: node.text.trim().replace(/^.*[:/]/, '') };
    case 'Literal':
      return literal(node.text.trim());
    case 'Function':
      note(`line ${node.line}: the function ${node.attributes['name'] ?? ''} has no counterpart`);
      return undefined;
    default: {
      const op = arithmetic[node.name];
      const args = node.children.map((inner) => readExpression(inner, note));
      if (!op) note(`line ${node.line}: ${node.name} is no expression that can be carried over`);
      return op && args.every((arg) => arg !== undefined) ? { op, args } : undefined;
    }
  }
}

/** A filter of Filter Encoding 1.1 (OGC 04-095); undefined, with a note, for what cannot be carried over. */
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
      const numbers = [textOf(envelope, 'lowerCorner'), textOf(envelope, 'upperCorner')]
        .join(' ')
        .trim()
        .split(/\s+/)
        .map(Number);
      if (numbers.length !== 4 || numbers.some(Number.isNaN)) {
        note(`line ${node.line}: the box has no two corners`);
        return undefined;
      }
      return { op: 's_intersects', args: [{ property: 'geometry' }, { bbox: numbers }] };
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
    const shape = node.children.map(readGml).find((found) => found !== undefined);
    if (!shape) note(`line ${node.line}: ${node.name} has no geometry that can be carried over`);
    return shape && { op: spatial[node.name], args: [{ property: 'geometry' }, shape] };
  }
  note(`line ${node.line}: the filter ${node.name} has no counterpart`);
  return undefined;
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

function readGml(node: XmlNode): Expression | undefined {
  const pairs = (text: string | undefined) => {
    const numbers = (text ?? '')
      .split(/[\s,]+/)
      .filter(Boolean)
      .map(Number);
    return Array.from({ length: numbers.length / 2 }, (_, i) => [numbers[2 * i], numbers[2 * i + 1]]);
  };
  switch (node.name) {
    case 'Point':
      return { type: 'Point', coordinates: pairs(textOf(node, 'pos') ?? textOf(node, 'coordinates'))[0] };
    case 'LineString':
      return { type: 'LineString', coordinates: pairs(textOf(node, 'posList') ?? textOf(node, 'coordinates')) };
    case 'Polygon': {
      const ring = (part: XmlNode) =>
        pairs(textOf(part, 'LinearRing', 'posList') ?? textOf(part, 'LinearRing', 'coordinates'));
      return {
        type: 'Polygon',
        coordinates: [...childrenOf(node, 'exterior'), ...childrenOf(node, 'interior')].map(ring),
      };
    }
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

/** Writes a filter; undefined, with a note, for what Filter Encoding 1.1 has no words for. */
export function writeFilter(node: Expression, note: Note): string | undefined {
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
  if (gml) {
    const own = element('ogc:PropertyName', {}, 'geometry');
    return element(`ogc:${'bbox' in (shape as object) && op === 's_intersects' ? 'BBOX' : relation}`, {}, own, gml);
  }
  note(`the filter ${op} has no counterpart in Filter Encoding 1.1`);
  return undefined;
}

function writeGml(shape: object): string | undefined {
  const { type, coordinates, bbox } = shape as { type?: string; coordinates?: unknown; bbox?: number[] };
  if (bbox)
    return element(
      'gml:Envelope',
      {},
      element('gml:lowerCorner', {}, `${bbox[0]} ${bbox[1]}`),
      element('gml:upperCorner', {}, `${bbox[2]} ${bbox[3]}`),
    );
  const list = (pairs: unknown) => (pairs as number[][]).map((pair) => pair.join(' ')).join(' ');
  if (type === 'Point') return element('gml:Point', {}, element('gml:pos', {}, (coordinates as number[]).join(' ')));
  if (type === 'LineString') return element('gml:LineString', {}, element('gml:posList', {}, list(coordinates)));
  if (type !== 'Polygon') return undefined;
  const rings = (coordinates as unknown[]).map((ring, i) =>
    element(
      i ? 'gml:interior' : 'gml:exterior',
      {},
      element('gml:LinearRing', {}, element('gml:posList', {}, list(ring))),
    ),
  );
  return element('gml:Polygon', {}, ...rings);
}
