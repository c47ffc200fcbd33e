import { Fault } from './fault.js';

/** How deep values may be nested that are read: no format or form that is read here needs more. */
export const deepest = 256;

const none: ReadonlySet<string> = new Set();

/**
 * Says whether lists and objects are nested too deep. A loop, because a function that calls itself would end where the stack does.
 *
 * @param value any value without circles
 * @param skip names of members that are not looked into
 */
export function isTooDeep(value: unknown, skip: ReadonlySet<string> = none): boolean {
  const inner = (one: unknown): unknown[] =>
    typeof one !== 'object' || one === null || ArrayBuffer.isView(one)
      ? []
      : Array.isArray(one)
        ? one
        : Object.entries(one).flatMap(([name, item]: [string, unknown]) => (skip.has(name) ? [] : [item]));
  const open: { readonly items: readonly unknown[]; next: number }[] = [{ items: inner(value), next: 0 }];
  while (open.length) {
    const top = open[open.length - 1];
    if (top.next >= top.items.length) {
      open.pop();
      continue;
    }
    const item = top.items[top.next++];
    if (typeof item !== 'object' || item === null) continue;
    if (open.length >= deepest) return true;
    open.push({ items: inner(item), next: 0 });
  }
  return false;
}

/**
 * Refuses a value that is nested too deep.
 *
 * @param value any value without circles
 * @param what it is called in the message, such as `the sheet`
 * @param code of the fault
 * @param skip names of members that are not looked into
 * @throws Fault with that code
 */
export function assertShallow(value: unknown, what: string, code: string, skip?: ReadonlySet<string>): void {
  if (isTooDeep(value, skip))
    throw new Fault(
      code,
      `${what} is nested more than ${deepest} deep`,
      'Nothing that is read here needs that; check how it was made.',
    );
}

/** JSON text of any value for a message, shortened; `nothing` for what JSON does not have. */
export function jsonOf(value: unknown, most = 60): string {
  const text = isTooDeep(value) ? (Array.isArray(value) ? '[…]' : '{ … }') : (JSON.stringify(value) ?? 'nothing');
  return text.length > most ? `${text.slice(0, most - 3)}…` : text;
}
