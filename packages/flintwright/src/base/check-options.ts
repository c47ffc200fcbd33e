import { Fault } from '@flintwright/core';
import { nearestSpelling } from '@flintwright/core/internal';

/** A physical corner of the map. It is not mirrored on right-to-left pages. */
export type Corner = 'top-left' | 'top-right' | 'bottom-left' | 'bottom-right';

const corners: readonly unknown[] = ['top-left', 'top-right', 'bottom-left', 'bottom-right'] satisfies Corner[];

/** Kinds of value that an option may have; several are separated by a bar. `any` is left to whoever uses it. */
export type OptionKinds = string;

/** The options of a call: the kinds of each, by its name. */
export type OptionTable<T> = Readonly<Record<keyof Required<T> & string, OptionKinds>>;

const articles: Readonly<Record<string, string>> = {
  number: 'a number',
  text: 'a text',
  switch: 'true or false',
  function: 'a function',
  object: 'an object',
  list: 'a list',
  element: 'an element of the page',
  signal: 'an AbortSignal',
  seat: '"top", "bottom", a corner such as "top-end", "middle-start", "middle-end" or "none"',
  corner: '"top-left", "top-right", "bottom-left" or "bottom-right"',
};

export function isOf(kind: string, value: unknown): boolean {
  switch (kind) {
    case 'number':
      return typeof value === 'number' && !Number.isNaN(value);
    case 'text':
      return typeof value === 'string';
    case 'switch':
      return typeof value === 'boolean';
    case 'function':
      return typeof value === 'function';
    case 'list':
      return Array.isArray(value);
    case 'element':
      return value instanceof Element;
    case 'signal':
      return value instanceof AbortSignal;
    case 'corner':
      return corners.includes(value);
    case 'seat':
      return typeof value === 'string' && /^((top|bottom)(-start|-end)?|middle-(start|end)|none)$/.test(value);
    case 'object':
      return typeof value === 'object' && value !== null && !Array.isArray(value);
    default:
      return true;
  }
}

/** A value as a message shows it: short, and in the form in which it was written. */
export function valueText(value: unknown): string {
  if (typeof value === 'function') return 'a function';
  if (typeof value === 'string') return JSON.stringify(value.length > 60 ? `${value.slice(0, 60)}…` : value);
  if (Array.isArray(value)) return `a list of ${value.length}`;
  if (typeof value === 'object' && value !== null) return 'an object';
  return String(value);
}

/**
 * Checks the options of a call: that they are an object, that the call knows each, and that each is of its kind.
 *
 * @param call name of the call, as it is written: `map.move`
 * @param options anything
 * @param table kinds of the options that the call knows
 * @param example the right form, for the hint
 * @param elsewhere hints for names that belong elsewhere
 * @throws Fault `option.form`, `option.unknown` or `option.kind`
 */
export function checkOptions<T>(
  call: string,
  options: unknown,
  table: OptionTable<T>,
  example: string,
  elsewhere: Readonly<Record<string, string>> = {},
): void {
  if (!isOf('object', options))
    throw new Fault('option.form', `${call} expected an object, got ${valueText(options)}`, `Write ${example}.`);
  for (const [name, value] of Object.entries(options as object)) {
    const kinds = Object.hasOwn(table, name) ? (table as Readonly<Record<string, string>>)[name] : undefined;
    if (kinds === undefined) {
      const names = Object.keys(table);
      const near = nearestSpelling(name, names);
      throw new Fault(
        'option.unknown',
        `${call} has no option "${name}"`,
        Object.hasOwn(elsewhere, name)
          ? elsewhere[name]
          : near
            ? `Did you mean "${near}"?`
            : `Allowed: ${names.join(', ')}.`,
      );
    }
    const allowed = kinds.split('|');
    if (value === undefined || allowed.includes('any') || allowed.some((kind) => isOf(kind, value))) continue;
    throw new Fault(
      'option.kind',
      `"${name}" of ${call} is ${valueText(value)}`,
      `Give ${allowed.map((kind) => articles[kind]).join(', or ')}.`,
    );
  }
}
