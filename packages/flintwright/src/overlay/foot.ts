import { countLive } from '../base/live-counts.js';

/** What stands along the lower edge of a map, from the edge upwards where there is no room side by side. */
const seats = ['.flint-credit', '.flint-scale', '.flint-position'];

interface Box {
  readonly left: number;
  readonly right: number;
  readonly top: number;
  readonly bottom: number;
}

/**
 * Keeps what stands along the lower edge of a map from covering each other: credits, scale bar, and the position of the pointer. Where two
 * would overlap, the later one is raised above the other. Notices and the list of things in view stand above all of them.
 */
export class Foot {
  private readonly sizes: ResizeObserver;
  private readonly children: MutationObserver;
  private readonly watched = new Set<Element>();

  constructor(private readonly host: HTMLElement) {
    this.sizes = new ResizeObserver(() => this.arrange());
    this.sizes.observe(host);
    this.children = new MutationObserver(() => this.arrange());
    this.children.observe(host, { childList: true, subtree: false, attributes: false });
    countLive('listeners', 1);
    this.arrange();
  }

  private arrange(): void {
    const { host } = this;
    const frame = host.getBoundingClientRect();
    const taken: Box[] = [];
    let height = 0;
    // A control that was removed is let go of.
    for (const element of this.watched) {
      if (element.isConnected) continue;
      this.sizes.unobserve(element);
      this.watched.delete(element);
    }
    for (const seat of seats) {
      const element = host.querySelector<HTMLElement>(seat);
      if (!element) continue;
      if (!this.watched.has(element)) {
        this.watched.add(element);
        this.sizes.observe(element);
      }
      element.style.removeProperty('margin-bottom');
      const box = element.getBoundingClientRect();
      if (!box.width || !box.height) continue;
      let rise = 0;
      for (const other of taken) {
        const beside = box.right <= other.left || box.left >= other.right;
        if (!beside && box.bottom - rise > other.top) rise = box.bottom - other.top;
      }
      if (rise) element.style.setProperty('margin-bottom', `${rise}px`);
      taken.push({ left: box.left, right: box.right, top: box.top - rise, bottom: box.bottom - rise });
      height = Math.max(height, frame.bottom - box.top + rise);
    }
    host.style.setProperty('--flint-foot', `${Math.ceil(height)}px`);
  }

  remove(): void {
    this.sizes.disconnect();
    this.children.disconnect();
    this.host.style.removeProperty('--flint-foot');
    countLive('listeners', -1);
  }
}
