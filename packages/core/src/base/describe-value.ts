import { isTooDeep } from './depth.js';

/** Any value in a few words, for messages. */
export function describeValue(value: unknown): string {
  if (Array.isArray(value)) return 'a list';
  switch (typeof value) {
    case 'object':
      return value === null ? 'null' : 'an object';
    case 'function':
    case 'symbol':
      return `a ${typeof value}`;
    case 'string':
      return JSON.stringify(value.length > 40 ? `${value.slice(0, 39)}…` : value);
    default:
      return String(value);
  }
}

/** A value as text, also one whose own `toString` is none. */
export function plainText(value: unknown): string {
  // What is nested without end has no text: asking for it would end where the stack does.
  if (typeof value === 'object' && isTooDeep(value)) return describeValue(value);
  try {
    return String(value);
  } catch {
    return describeValue(value);
  }
}
