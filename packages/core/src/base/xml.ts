import { describeValue } from './describe-value.js';
import { SaxesParser } from 'saxes';
import { Fault } from './fault.js';

/** An element of a document: its name without prefix, and what it holds. */
export interface XmlNode {
  readonly name: string;
  readonly attributes: Readonly<Record<string, string>>;
  readonly children: XmlNode[];
  /** Text directly in it. */
  text: string;
  /** How much of the text of the element around it comes before it, in UTF-16 units. */
  readonly after: number;
  readonly line: number;
}

/** Deepest nesting of elements. */
const deepest = 256;

/** Signs that are read between two calls of `progress`. */
const stride = 1 << 20;

/**
 * Reads an XML document into a tree of elements.
 *
 * @param source the whole document
 * @param progress called now and then with the share read, 0 to 1; default nobody
 * @throws Fault `xml.syntax`, `xml.entity` or `xml.depth` with line and column
 */
export function readXml(source: string, progress?: (share: number) => void): XmlNode {
  if (typeof source !== 'string')
    throw new Fault('xml.syntax', `${describeValue(source)} is not the text of a document`, 'Pass a string.');
  const parser = new SaxesParser({ xmlns: true, position: true });
  const root: XmlNode = { name: '', attributes: {}, children: [], text: '', after: 0, line: 1 };
  const open: XmlNode[] = [root];
  parser.on('error', (error) => {
    throw new Fault(
      'xml.syntax',
      `the document is not well-formed XML: ${error.message.replace(/^\d+:\d+: /, '')}`,
      'Correct the text: every opened element must be closed.',
      `${parser.line}:${parser.column}`,
      error,
    );
  });
  parser.on('doctype', (doctype) => {
    if (/<!ENTITY/i.test(doctype))
      throw new Fault(
        'xml.entity',
        'the document declares custom entities',
        'Entities are never expanded or fetched; write the text in full.',
        `${parser.line}:${parser.column}`,
      );
  });
  parser.on('opentag', ({ local, attributes }) => {
    if (open.length > deepest)
      throw new Fault(
        'xml.depth',
        `the elements are nested more than ${deepest} deep`,
        'No format that is read here needs that; the file may be damaged.',
        `${parser.line}:${parser.column}`,
      );
    const node: XmlNode = {
      name: local,
      attributes: Object.fromEntries(Object.values(attributes).map((a) => [a.local, a.value])),
      children: [],
      text: '',
      after: open[open.length - 1].text.length,
      line: parser.line,
    };
    open[open.length - 1].children.push(node);
    open.push(node);
  });
  parser.on('text', (text) => (open[open.length - 1].text += text));
  parser.on('cdata', (text) => (open[open.length - 1].text += text));
  parser.on('closetag', () => open.pop());
  for (let at = 0; at < source.length; at += stride) {
    progress?.(at / source.length);
    parser.write(source.slice(at, at + stride));
  }
  parser.close();
  if (!root.children[0]) throw new Fault('xml.syntax', 'the document contains no element', 'It may be truncated.');
  return root.children[0];
}

export const child = (node: XmlNode | undefined, ...names: string[]): XmlNode | undefined =>
  names.reduce((at, name) => at?.children.find((c) => c.name === name), node);
export const childrenOf = (node: XmlNode, name: string): XmlNode[] => node.children.filter((c) => c.name === name);
export const textOf = (node: XmlNode | undefined, ...names: string[]): string | undefined => {
  const text = child(node, ...names)?.text.trim();
  return text === undefined || text === '' ? undefined : text;
};

/**
 * Text and elements of an element in their order. Line breaks and the blanks around them only lay the document out, and are left out; other
 * runs of blanks are one.
 */
export function mixedContent(node: XmlNode): (string | XmlNode)[] {
  const out: (string | XmlNode)[] = [];
  const take = (from: number, to: number) => {
    const piece = node.text
      .slice(from, to)
      .replace(/^\s*\n\s*|\s*\n\s*$/g, '')
      .replace(/\s+/g, ' ');
    if (piece) out.push(piece);
  };
  let at = 0;
  for (const inner of node.children) {
    take(at, inner.after);
    out.push(inner);
    at = inner.after;
  }
  take(at, node.text.length);
  return out;
}

// Line ends as references: as they stand, they would be indented with the element around them, and reading would turn them into others.
const escapes: Readonly<Record<string, string>> = {
  '&': '&amp;',
  '<': '&lt;',
  '>': '&gt;',
  '"': '&quot;',
  '\n': '&#10;',
  '\r': '&#13;',
  // A tab in an attribute would be read as a blank (XML 1.0, section 3.3.3).
  '\t': '&#9;',
  '\u2028': '&#8232;',
  '\u2029': '&#8233;',
};

/** What no XML document can hold, not even as a reference (XML 1.0, section 2.2). */
// eslint-disable-next-line no-control-regex
const forbidden = /[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]/g;

/** Whether a text holds characters that XML does not allow. */
export const hasForbidden = (text: string): boolean => text.search(forbidden) >= 0;

/** A text as it stands in an element or an attribute; characters that XML does not allow become U+FFFD. */
export const escaped = (text: string) =>
  text.replace(/[&<>"\n\r\t\u2028\u2029]/g, (c) => escapes[c]).replace(forbidden, '\ufffd');

/** What stands in an element: a text, nothing, or a list of them. */
export type Inner = string | undefined | readonly Inner[];

/** An element as text, its inner elements on lines of their own; empty texts are left out. */
export function element(
  name: string,
  attributes: Readonly<Record<string, string | number | undefined>>,
  ...inner: Inner[]
): string {
  const list = Object.entries(attributes)
    .filter(([, value]) => value !== undefined)
    .map(([key, value]) => ` ${key}="${escaped(String(value))}"`)
    .join('');
  const parts: string[] = [];
  const take = (part: Inner): void => {
    if (typeof part === 'object') part.forEach(take);
    else if (part) parts.push(part);
  };
  take(inner);
  if (!parts.length) return `<${name}${list}/>`;
  // Elements that follow each other on one line are mixed content, in which a line break would be text.
  const isMixed = parts.length === 1 && !parts[0].includes('\n') && /><[^/]/.test(parts[0]);
  const long = parts.length > 1 || (parts[0].startsWith('<') && !isMixed);
  return long
    ? `<${name}${list}>\n${parts.join('\n').replace(/^/gm, '  ')}\n</${name}>`
    : `<${name}${list}>${parts[0]}</${name}>`;
}
