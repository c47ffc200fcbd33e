import { Fault } from '@flintwright/core';
import { readFile } from 'node:fs/promises';
import { writeWhole } from '../output.js';

/** A feature of a file: its id as text, what it says, and its own text, character for character. */
export interface FileFeature {
  readonly id: string;
  readonly value: {
    readonly id?: string | number;
    readonly geometry: object | null;
    readonly properties: Readonly<Record<string, unknown>> | null;
  };
  readonly text: string;
}

/** A part of a JSON text: a value, and for a member of an object its name. */
interface Span {
  readonly name: string;
  /** Where the member begins, with its name, and where its value begins and ends. */
  readonly start: number;
  readonly from: number;
  readonly to: number;
}

/** How deep JSON may be nested that is read or sent. */
export const deepest = 256;

const isSpace = (code: number) => code === 0x20 || code === 0x0a || code === 0x0d || code === 0x09;

function afterSpace(text: string, at: number): number {
  let i = at;
  while (isSpace(text.charCodeAt(i))) i++;
  return i;
}

/** The end of the string that begins at a quote. */
function afterString(text: string, at: number): number {
  let i = at + 1;
  while (text[i] !== '"') i += text[i] === '\\' ? 2 : 1;
  return i + 1;
}

/** The end of the value that begins at a place of valid JSON; a loop, so that no depth is too deep for it. */
function afterValue(text: string, at: number): number {
  let i = at;
  let depth = 0;
  do {
    const sign = text[i];
    if (sign === '"') i = afterString(text, i);
    else {
      if (sign === '{' || sign === '[') depth++;
      else if (sign === '}' || sign === ']') depth--;
      i++;
    }
  } while (depth > 0);
  if (/["{[]/.test(text[at])) return i;
  while (i < text.length && !/[\s,}\]]/.test(text[i])) i++;
  return i;
}

/** How deep valid JSON is nested. */
export function depthOf(text: string): number {
  let [depth, most] = [0, 0];
  for (let i = 0; i < text.length; i++) {
    const sign = text[i];
    if (sign === '"') i = afterString(text, i) - 1;
    else if (sign === '{' || sign === '[') most = Math.max(most, ++depth);
    else if (sign === '}' || sign === ']') depth--;
  }
  return most;
}

/** The members of the object, or the items of the array, that begins at a place of valid JSON. */
function partsOf(text: string, at: number): Span[] {
  const isObject = text[at] === '{';
  const out: Span[] = [];
  let i = afterSpace(text, at + 1);
  while (text[i] !== '}' && text[i] !== ']') {
    const start = i;
    let name = '';
    if (isObject) {
      const end = afterString(text, i);
      name = JSON.parse(text.slice(i, end)) as string;
      i = afterSpace(text, afterSpace(text, end) + 1);
    }
    const to = afterValue(text, i);
    out.push({ name, start, from: i, to });
    i = afterSpace(text, to);
    if (text[i] === ',') i = afterSpace(text, i + 1);
  }
  return out;
}

/**
 * Lays a merge patch (RFC 7396) over the text of an object: members that the patch does not name keep every character, long numbers too.
 *
 * @param text valid JSON
 * @param patch what changes; null removes a member
 */
export function patchText(text: string, patch: unknown): string {
  if (typeof patch !== 'object' || patch === null || Array.isArray(patch)) return JSON.stringify(patch);
  const at = afterSpace(text, 0);
  const whole = text[at] === '{' ? text.slice(at) : '{}';
  const parts = partsOf(whole, 0);
  const changes = new Map(Object.entries(patch));
  const members = parts.flatMap(({ name, start, from, to }) => {
    if (!changes.has(name)) return [whole.slice(start, to)];
    const value: unknown = changes.get(name);
    changes.delete(name);
    return value === null ? [] : [whole.slice(start, from) + patchText(whole.slice(from, to), value)];
  });
  for (const [name, value] of changes)
    if (value !== null) members.push(`${JSON.stringify(name)}:${patchText('null', value)}`);
  return `{${members.join(',')}}`;
}

/** A GeoJSON file as text, with the place of each feature in it. */
export class FeatureFileText {
  readonly features: readonly FileFeature[];
  private readonly spans: readonly Span[];
  private readonly byId = new Map<string, number>();

  /** Why features cannot be changed; undefined where they can. */
  readonly readOnly: string | undefined;

  private constructor(
    private readonly text: string,
    private readonly list: Span,
    encodingFault: string | undefined,
    /** Name of the coordinate system that a `crs` member says (the form of 2008); undefined for longitude and latitude. */
    readonly crsName: string | undefined,
  ) {
    this.spans = partsOf(text, list.from);
    let missing = 0;
    this.features = this.spans.map(({ from, to }, i) => {
      const own = text.slice(from, to);
      const value = JSON.parse(own) as FileFeature['value'];
      const id = value.id ?? i + 1;
      if (value.id === undefined) missing++;
      return { id: String(id), value, text: value.id === undefined ? patchText(own, { id }) : own };
    });
    this.features.forEach(({ id }, i) => this.byId.set(id, i));
    const repeated = this.byId.size < this.features.length;
    this.readOnly =
      encodingFault ??
      (missing
        ? `${missing} of its ${this.features.length} features have no id`
        : repeated
          ? 'several of its features have the same id'
          : undefined);
  }

  /**
   * Reads a file.
   *
   * @throws Fault `features.form` for anything but a GeoJSON feature collection
   */
  static async read(path: string): Promise<FeatureFileText> {
    const bytes = await readFile(path);
    let text: string;
    let readOnly: string | undefined;
    try {
      text = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true }).decode(bytes);
    } catch {
      text = new TextDecoder('windows-1252').decode(bytes);
      readOnly = 'the file is not encoded in UTF-8';
    }
    const wrong = (what: string) =>
      new Fault(
        'features.form',
        `the file is not a GeoJSON feature collection: ${what}`,
        'Correct the file, or convert it with flintwright convert.',
      );
    const start = text.startsWith('\uFEFF') ? 1 : 0;
    let value: unknown;
    try {
      value = JSON.parse(text.slice(start));
    } catch (error) {
      throw wrong((error as Error).message);
    }
    const { features, crs } = (value ?? {}) as { features?: unknown; crs?: { properties?: { name?: unknown } } | null };
    if (!Array.isArray(features)) throw wrong('it has no list of features');
    const odd = features.findIndex((one) => typeof one !== 'object' || one === null || Array.isArray(one));
    if (odd >= 0) throw wrong(`item ${odd + 1} of its features is not an object`);
    if (depthOf(text) > deepest) throw wrong(`it is nested more than ${deepest} deep`);
    // Of members that are given twice, JavaScript takes the last.
    const list = partsOf(text, afterSpace(text, start)).findLast(({ name }) => name === 'features')!;
    const crsName = crs?.properties?.name;
    return new FeatureFileText(text, list, readOnly, typeof crsName === 'string' ? crsName : undefined);
  }

  find(id: string): FileFeature | undefined {
    const i = this.byId.get(id);
    return i === undefined ? undefined : this.features[i];
  }

  /**
   * Writes the file with one feature added, replaced or removed; every other character stays.
   *
   * @param id of the feature
   * @param feature its text; undefined removes it
   */
  async write(path: string, id: string, feature: string | undefined): Promise<void> {
    const { text, spans, list } = this;
    const i = this.byId.get(id);
    let [from, to, by] = [list.to - 1, list.to - 1, feature ?? ''];
    if (i !== undefined) {
      ({ from, to } = spans[i]);
      // Without the comma that parts it from its neighbor.
      if (feature === undefined && i + 1 < spans.length) to = spans[i + 1].from;
      else if (feature === undefined && i > 0) from = spans[i - 1].to;
    } else if (spans.length) {
      from = to = spans[spans.length - 1].to;
      by = `,${by}`;
    }
    await writeWhole(path, [text.slice(0, from), by, text.slice(to)]);
  }
}
