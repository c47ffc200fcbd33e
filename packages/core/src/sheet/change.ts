import { strokesOf } from './symbols.js';
import type { SheetStroke } from './symbol-types.js';
import type { SheetLayer } from './types.js';

/** A partial change of a layer's part; `null` removes a key. */
export type PartChange<T> = T extends string ? T : { readonly [K in keyof T]?: T[K] | null };

/** A partial change of strokes: one, or a list matched by position or name. `null` removes a stroke. */
export type StrokeChange = string | PartChange<SheetStroke> | readonly (string | PartChange<SheetStroke> | null)[];

/** A partial change of symbols. */
export interface SymbolsChange {
  /** A color, or keys of the fill. */
  readonly fill?: PartChange<NonNullable<SheetLayer['fill']>> | null;
  /** A color or keys of the topmost stroke, or a list by position or by name. */
  readonly stroke?: StrokeChange | null;
  /** Keys of the mark. */
  readonly mark?: PartChange<NonNullable<SheetLayer['mark']>> | null;
  /** Keys of the label. */
  readonly label?: PartChange<NonNullable<SheetLayer['label']>> | null;
  /** Keys of the extrusion. */
  readonly extrusion?: PartChange<NonNullable<SheetLayer['extrusion']>> | null;
}

type Plain = Omit<SheetLayer, 'id' | keyof SymbolsChange | 'states' | 'image' | 'heat' | 'popup'>;

/** A change of a layer: omitted keys keep their values. `null` removes a key, of the layer and within its parts. */
export interface LayerChange extends SymbolsChange, Partial<{ readonly [K in keyof Plain]: Plain[K] | null }> {
  /** Changes of states, by their names. */
  readonly states?: Readonly<Record<string, SymbolsChange | null>> | null;
  /** Keys of how pictures are drawn. */
  readonly image?: PartChange<NonNullable<SheetLayer['image']>> | null;
  /** Keys of the heat. */
  readonly heat?: PartChange<NonNullable<SheetLayer['heat']>> | null;
  /** Keys of the popup. */
  readonly popup?: PartChange<NonNullable<SheetLayer['popup']>> | null;
}

type Parts = Readonly<Record<string, unknown>>;

const isParts = (value: unknown): value is Parts =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

/** Keys of the layer that are changed key by key. */
const symbols = ['fill', 'stroke', 'mark', 'label', 'extrusion', 'image', 'heat', 'popup'];

/** A short form, such as a color alone, in full. */
const full = (value: unknown): unknown => (typeof value === 'string' ? { color: value } : value);

/** Whether nulls stay, because what comes out is a change itself. */
type Keeping = boolean;

function mergeParts(base: Parts, change: Parts, keep: Keeping): Parts {
  const out: Record<string, unknown> = { ...base };
  for (const [key, value] of Object.entries(change)) {
    if (value !== null && value !== undefined) out[key] = value;
    else if (keep) out[key] = null;
    else delete out[key];
  }
  return out;
}

/** Strokes after a change: one changes the topmost, a list goes by name where it gives one, and by position otherwise. */
function mergeStrokes(base: unknown, change: unknown, keep: Keeping): unknown {
  const before = strokesOf(base as SheetLayer['stroke']) as readonly (SheetStroke | null)[];
  if (!Array.isArray(change)) {
    const top = before[before.length - 1] ?? {};
    const next = mergeParts(full(top) as Parts, full(change) as Parts, keep);
    return before.length > 1 ? [...before.slice(0, -1), next] : next;
  }
  const out = [...before];
  (change as readonly (string | SheetStroke | null)[]).forEach((one, i) => {
    const name = one !== null && typeof one === 'object' ? one.name : undefined;
    const named = name === undefined ? -1 : out.findIndex((stroke) => stroke?.name === name);
    const at = named >= 0 ? named : name === undefined ? i : out.length;
    out[at] = one === null ? null : mergeParts((full(out[at]) as Parts | null) ?? {}, full(one) as Parts, keep);
  });
  return keep ? out : out.filter((stroke) => stroke !== null);
}

function mergePart(key: string, base: unknown, change: unknown, keep: Keeping): unknown {
  if (key === 'stroke') return mergeStrokes(base ?? undefined, change, keep);
  const [below, over] = [full(base), full(change)];
  return isParts(over) ? mergeParts(isParts(below) ? below : {}, over, keep) : over;
}

function merge(base: Parts, change: Parts, keep: Keeping): Parts {
  const out: Record<string, unknown> = { ...base };
  for (const [key, value] of Object.entries(change)) {
    if (value === null || value === undefined) {
      if (keep) out[key] = null;
      else delete out[key];
    } else if (keep && out[key] === undefined) {
      // With nothing below it a change stays as it is: what a list of strokes does depends on what it meets.
      out[key] = value;
    } else if (key === 'states' && isParts(value)) {
      const below = isParts(out[key]) ? out[key] : {};
      const states = mergeParts(below, {}, keep) as Record<string, unknown>;
      for (const [name, state] of Object.entries(value)) {
        if (keep && below[name] === undefined) states[name] = state;
        else if (isParts(state)) states[name] = merge(isParts(below[name]) ? below[name] : {}, state, keep);
        else if (keep) states[name] = null;
        else delete states[name];
      }
      out[key] = states;
    } else out[key] = symbols.includes(key) ? mergePart(key, out[key], value, keep) : value;
  }
  return out;
}

/**
 * A layer after a change. What the change does not name stays: `fill`, `stroke`, `mark`, `label`, `extrusion`, `image`, `heat`, `popup`
 * and every state are changed key by key.
 *
 * @param layer a layer of a sheet
 * @param change what is to differ; `null` takes a key off
 */
export const changeLayer = (layer: SheetLayer, change: LayerChange): SheetLayer =>
  merge(layer as unknown as Parts, change as Parts, false) as unknown as SheetLayer;

/** Whether the strokes of a change are none, one, or a list that goes by position alone; undefined for any other list. */
function strokeForm(change: SymbolsChange): 'none' | 'one' | 'list' | undefined {
  const { stroke } = change;
  if (stroke === undefined || stroke === null) return stroke === null ? undefined : 'none';
  if (!Array.isArray(stroke)) return 'one';
  return stroke.every((one) => typeof one === 'object' && one !== null && !('name' in one)) ? 'list' : undefined;
}

/** Whether a part that one change takes off is given anew by another, which then has nothing below it. */
const givesAnew = (before: unknown, after: unknown): boolean => before === null && isParts(full(after));

/** Whether two changes of symbols come to the same as one. */
function canJoin(before: SymbolsChange, after: SymbolsChange): boolean {
  const [one, other] = [strokeForm(before), strokeForm(after)];
  if (one === undefined || other === undefined || !(one === other || one === 'none' || other === 'none')) return false;
  const [first, second] = [before as Parts, after as Parts];
  return !symbols.some((key) => givesAnew(first[key], second[key]));
}

/** Whether two changes of states come to the same as one. */
function canJoinStates(before: LayerChange['states'], after: LayerChange['states']): boolean {
  if (before === undefined || after === undefined) return true;
  if (before === null || after === null) return after === null;
  return Object.entries(after).every(([name, state]) => {
    const known = Object.hasOwn(before, name) ? before[name] : undefined;
    if (known === undefined || state === null) return true;
    return known !== null && canJoin(known, state);
  });
}

/**
 * Changes with one more behind them. Two are made one wherever that comes to the same, so that many changes of the same keys do not pile
 * up.
 */
export function withChange(changes: readonly LayerChange[], change: LayerChange): readonly LayerChange[] {
  // Whatever came before to a key that is taken off has no effect any more.
  const off = Object.entries(change).flatMap(([key, value]) => (value === null ? [key] : []));
  const before = off.length
    ? changes
        .map((one) => Object.fromEntries(Object.entries(one).filter(([key]) => !off.includes(key))) as LayerChange)
        .filter((one) => Object.keys(one).length > 0)
    : changes;
  const last = before.at(-1);
  if (!last || !canJoin(last, change) || !canJoinStates(last.states, change.states)) return [...before, change];
  return [...before.slice(0, -1), merge(last as Parts, change as Parts, true)];
}
