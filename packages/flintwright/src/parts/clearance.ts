import { count } from '../counts.js';

export type Box = readonly [left: number, top: number, right: number, bottom: number];

/** What of the map's own parts hides what is beneath. */
const own = '.flint-control:not(.flint-drawer), .flint-drawer > *, .flint-legend, .flint-credit';

/** Knows which part of the map lies beneath elements of the page, so that no label is put there and cut. */
export class Clearance {
  private readonly panels = new Set<Element>();
  private readonly sizes: ResizeObserver;

  /** @param changed called when a panel has come, gone, or changed its size */
  constructor(
    private readonly host: HTMLElement,
    private readonly changed: () => void,
  ) {
    this.sizes = new ResizeObserver(() => this.changed());
    count('listeners', 1);
  }

  /** Keeps labels from under an element, until what is returned is called. */
  add(panel: Element): () => void {
    this.panels.add(panel);
    this.sizes.observe(panel);
    this.changed();
    return () => {
      if (!this.panels.delete(panel)) return;
      this.sizes.unobserve(panel);
      this.changed();
    };
  }

  /** What is taken, in CSS pixels of the map. */
  boxes(): Box[] {
    const { left, top, width, height } = this.host.getBoundingClientRect();
    return [...this.panels, ...this.host.querySelectorAll(own)].flatMap((element): Box[] => {
      const box = element.getBoundingClientRect();
      const seen = box.width > 0 && box.height > 0;
      const [x, y] = [box.left - left, box.top - top];
      const within = x < width && y < height && x + box.width > 0 && y + box.height > 0;
      return seen && within ? [[x, y, x + box.width, y + box.height]] : [];
    });
  }

  destroy(): void {
    this.sizes.disconnect();
    this.panels.clear();
    count('listeners', -1);
  }
}
