// Room "overlay": what lies over the map as elements of the page, and what the page lays over the map.
import { listen } from '../base/live-counts.js';
import { makeElement, place, removeElement } from './dom.js';
import { linkElement } from './safe-link.js';
import { Panels } from './panels.js';
import { dress } from './style.js';

/** Color scheme of controls and popups: `light`, `dark`, or `auto` for the setting of the reader's system. */
export type ColorScheme = 'light' | 'dark' | 'auto';

/** The elements that a map puts into its host, and what it says of itself there. */
export class MapElements {
  readonly canvas: HTMLCanvasElement;
  /** Where popups, controls and elements of markers stand. */
  readonly overlay: HTMLDivElement;
  private readonly credit: HTMLDivElement;
  private readonly focus: HTMLDivElement;
  private readonly isLandmark: boolean;
  private readonly night = matchMedia('(prefers-color-scheme: dark)');
  readonly panels: Panels;
  private readonly off: () => void;
  private scheme: ColorScheme = 'light';
  private dark: boolean;
  private loadingSince = 0;

  /**
   * @param changed called when the map turns dark or light
   * @param arranged called when panels have moved
   */
  constructor(
    private readonly host: HTMLElement,
    title: string,
    colorScheme: ColorScheme,
    private readonly changed: () => void,
    arranged: () => void,
  ) {
    this.dark = host.dataset['colorScheme'] === 'dark';
    dress(host);
    host.classList.add('flint');
    // Everything of the map lies within one landmark.
    this.isLandmark = !host.hasAttribute('role');
    if (this.isLandmark) host.setAttribute('role', 'region');
    this.canvas = place(host, makeElement('canvas', 'flint-canvas'));
    this.canvas.tabIndex = 0;
    this.canvas.setAttribute('role', 'application');
    this.title = title;
    this.focus = place(host, makeElement('div', 'flint-focus'));
    this.overlay = place(host, makeElement('div', 'flint-overlay'));
    this.credit = place(host, makeElement('div', 'flint-credit'));
    this.credit.dataset['seat'] = 'bottom-end';
    this.credit.hidden = true;
    this.panels = new Panels(host, this.overlay, arranged);
    this.off = listen(this.night, 'change', () => this.paint());
    this.colorScheme = colorScheme;
  }

  /** The map's name when it is read out. */
  set title(title: string) {
    if (this.isLandmark) this.host.setAttribute('aria-label', title);
    this.canvas.setAttribute('aria-label', title);
  }

  get colorScheme(): ColorScheme {
    return this.scheme;
  }

  set colorScheme(scheme: ColorScheme) {
    this.scheme = scheme;
    this.paint();
  }

  /** Asked in every frame. */
  get isDark(): boolean {
    return this.dark;
  }

  private paint(): void {
    const dark = this.scheme === 'dark' || (this.scheme === 'auto' && this.night.matches);
    if (dark === this.dark) return;
    this.dark = dark;
    if (dark) this.host.dataset['colorScheme'] = 'dark';
    else delete this.host.dataset['colorScheme'];
    this.changed();
  }

  /**
   * Marks the host for what its size asks of the style: without any, what the map has to say is not cut off at its border; a narrow one
   * lays its controls out closer.
   *
   * @param width of the host in CSS pixels
   * @param height of the host in CSS pixels
   */
  sized(width: number, height: number): void {
    this.host.classList.toggle('flint-sizeless', width === 0 || height === 0);
    this.host.classList.toggle('flint-narrow', width < 640);
  }

  /** Whom to credit. */
  credits(all: readonly (readonly { readonly text: string; readonly href?: string }[])[]): void {
    const pieces = all.flatMap((credit, i) => [
      ...(i ? [' · '] : []),
      ...credit.map(({ text, href }) => (href === undefined ? text : linkElement({ text, href }))),
    ]);
    this.credit.replaceChildren(...pieces);
    this.credit.hidden = !all.length;
  }

  /** Says on the element that something is on its way, once that has lasted long enough to be worth saying. */
  loading(isLoading: boolean): void {
    if (!isLoading) this.loadingSince = 0;
    else this.loadingSince ||= performance.now();
    const busy = isLoading && performance.now() - this.loadingSince > 300;
    if (busy !== (this.host.getAttribute('aria-busy') === 'true')) this.host.setAttribute('aria-busy', String(busy));
  }

  remove(): void {
    this.off();
    this.panels.remove();
    for (const element of [this.canvas, this.focus, this.overlay, this.credit]) removeElement(element);
    this.host.classList.remove('flint', 'flint-sizeless', 'flint-narrow');
    this.host.removeAttribute('aria-busy');
    if (!this.isLandmark) return;
    this.host.removeAttribute('role');
    this.host.removeAttribute('aria-label');
  }
}
