import { dropElement, makeElement, place } from './dom.js';
import { dress } from './style.js';

/** The elements that a map puts into its host, and what it says of itself there. */
export class Scaffold {
  readonly canvas: HTMLCanvasElement;
  /** Where popups, controls and elements of markers stand. */
  readonly over: HTMLDivElement;
  private readonly credit: HTMLDivElement;
  private readonly focus: HTMLDivElement;
  private readonly isLandmark: boolean;
  private loadingSince = 0;

  constructor(
    private readonly host: HTMLElement,
    title: string,
    look: 'light' | 'dark' | undefined,
  ) {
    dress(host);
    host.classList.add('flint');
    // Everything of the map lies within one landmark.
    this.isLandmark = !host.hasAttribute('role');
    if (this.isLandmark) {
      host.setAttribute('role', 'region');
      host.setAttribute('aria-label', title);
    }
    if (look === 'dark') host.dataset['look'] = 'dark';
    this.canvas = place(host, makeElement('canvas', 'flint-canvas'));
    this.canvas.tabIndex = 0;
    this.canvas.setAttribute('role', 'application');
    this.canvas.setAttribute('aria-label', title);
    this.focus = place(host, makeElement('div', 'flint-focus'));
    this.over = place(host, makeElement('div', 'flint-over'));
    this.credit = place(host, makeElement('div', 'flint-credit'));
    this.credit.hidden = true;
  }

  get isDark(): boolean {
    return this.host.dataset['look'] === 'dark';
  }

  /** Whom to credit. */
  credits(all: readonly string[]): void {
    this.credit.textContent = all.join(' · ');
    this.credit.hidden = !all.length;
  }

  /** Says on the element that something is on its way, once that has lasted long enough to be worth saying. */
  loading(isLoading: boolean): void {
    if (!isLoading) this.loadingSince = 0;
    else this.loadingSince ||= performance.now();
    const busy = isLoading && performance.now() - this.loadingSince > 300;
    if (busy !== (this.host.getAttribute('aria-busy') === 'true')) this.host.setAttribute('aria-busy', String(busy));
  }

  destroy(): void {
    for (const element of [this.canvas, this.focus, this.over, this.credit]) dropElement(element);
    this.host.classList.remove('flint');
    this.host.removeAttribute('aria-busy');
    if (!this.isLandmark) return;
    this.host.removeAttribute('role');
    this.host.removeAttribute('aria-label');
  }
}
