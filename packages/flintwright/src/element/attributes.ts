import { Fault } from '@flintwright/core';

/** The property that stands for an attribute: `colorScheme` for `color-scheme`. */
export const propertyOf = (attribute: string) =>
  attribute.replace(/-(.)/g, (_, letter: string) => letter.toUpperCase());

/**
 * Gives an element properties that stand for its attributes, both ways.
 *
 * @param prototype of the element's class
 * @param names of the attributes
 */
export function reflect(prototype: object, names: readonly string[]): void {
  for (const name of names)
    Object.defineProperty(prototype, propertyOf(name), {
      configurable: true,
      enumerable: true,
      get(this: HTMLElement) {
        return this.getAttribute(name);
      },
      set(this: HTMLElement, value: unknown) {
        if (value === null || value === undefined || value === false) this.removeAttribute(name);
        else this.setAttribute(name, value === true ? '' : String(value));
      },
    });
}

/**
 * Hands properties that were set before an element was upgraded to its setters, which they would hide otherwise.
 *
 * @param element that was upgraded
 * @param names of its properties
 */
export function adoptProperties(element: HTMLElement, names: readonly string[]): void {
  const own = element as unknown as Record<string, unknown>;
  for (const name of names) {
    if (!Object.hasOwn(own, name)) continue;
    const value = own[name];
    delete own[name];
    own[name] = value;
  }
}

/**
 * Numbers of an attribute such as `-31.18, 44.62`.
 *
 * @param element that has the attribute
 * @param name of the attribute
 * @param count how many there are to be
 * @returns undefined where the attribute is missing
 * @throws Fault `element.numbers`
 */
export function numbers(element: Element, name: string, count: number): number[] | undefined {
  const text = element.getAttribute(name);
  if (text === null) return undefined;
  const list = text
    .split(/[\s,]+/)
    .filter(Boolean)
    .map(Number);
  if (list.length !== count || list.some(Number.isNaN))
    throw new Fault(
      'element.numbers',
      `${name}="${text}" of <${element.localName}> is no ${count === 1 ? 'number' : `list of ${count} numbers`}`,
      count === 2 ? 'Write longitude and latitude, as in at="-31.18, 44.62".' : 'Write a number.',
    );
  return list;
}

/** The platform's base of elements; on a server, where there is none, a class of nothing. */
export const ElementBase = globalThis.HTMLElement ?? class {};
