import { countLive } from '../base/live-counts.js';

/** Makes an element of the map, counted until {@link removeElement}. Text is always set as text. */
export function makeElement<K extends keyof HTMLElementTagNameMap>(
  tag: K,
  className = '',
  text?: string,
): HTMLElementTagNameMap[K] {
  const element = document.createElement(tag);
  if (className) element.className = className;
  if (text !== undefined) element.textContent = text;
  return element;
}

/** Puts an element into the page and counts it. */
export function place<T extends Element>(parent: Element, element: T): T {
  parent.append(element);
  countLive('elements', 1);
  return element;
}

/** Takes an element off the page. The focus, where it stood within, goes to the map. */
export function removeElement(element: Element): void {
  const { activeElement } = element.getRootNode() as Document | ShadowRoot;
  const canvas =
    activeElement && element.contains(activeElement)
      ? element.closest('.flint')?.querySelector<HTMLElement>('.flint-canvas')
      : undefined;
  if (canvas && !element.contains(canvas)) canvas.focus({ preventScroll: true });
  element.remove();
  countLive('elements', -1);
}
