import type { Padding } from '@flintwright/core';
import { countLive } from '../base/live-counts.js';
import type { Box } from '../base/map-context.js';
import { removable, type Abortable, type Removable } from '../base/removable.js';

/** Knows which part of the map lies beneath elements of the page, so that no label is put there and nothing is framed there. */
export class Obstacles {
  private readonly panels = new Set<Element>();
  private readonly sizes: ResizeObserver;

  /**
   * @param own boxes of the map's own panels
   * @param changed called when a panel of the page has come, gone, or changed its size
   */
  constructor(
    private readonly host: HTMLElement,
    private readonly own: () => readonly Box[],
    private readonly changed: () => void,
  ) {
    this.sizes = new ResizeObserver(() => this.changed());
    countLive('listeners', 1);
  }

  /** Keeps labels from under an element, until what is returned is removed. */
  add(panel: Element, { signal }: Abortable = {}): Removable {
    this.panels.add(panel);
    this.sizes.observe(panel);
    this.changed();
    return removable(() => {
      if (!this.panels.delete(panel)) return;
      this.sizes.unobserve(panel);
      this.changed();
    }, signal);
  }

  /** Boxes of the obstacles, in CSS pixels of the map. */
  boxes(): Box[] {
    const { left, top, width, height } = this.host.getBoundingClientRect();
    const added = [...this.panels].flatMap((element): Box[] => {
      const box = element.getBoundingClientRect();
      const seen = box.width > 0 && box.height > 0;
      const [x, y] = [box.left - left, box.top - top];
      const within = x < width && y < height && x + box.width > 0 && y + box.height > 0;
      return seen && within ? [[x, y, x + box.width, y + box.height]] : [];
    });
    return [...added, ...this.own()];
  }

  /**
   * How far in from each side of the map it lies clear, with as little of it given up as can be. A cut that would leave less than two fifths of
   * its width or height counts as lying over the middle, and is left where it is.
   */
  insets(): Required<Exclude<Padding, number>> {
    const { clientWidth: width, clientHeight: height } = this.host;
    let [left, top, right, bottom] = [0, 0, width, height];
    const area = ([l, t, r, b]: Box) => (r - l) * (b - t);
    for (const [l, t, r, b] of this.boxes().sort((one, other) => area(other) - area(one))) {
      if (l >= right || r <= left || t >= bottom || b <= top) continue;
      const cuts: [lost: number, clear: number, cut: () => void][] = [
        [(r - left) * (bottom - top), (right - r) / width, () => (left = r)],
        [(right - l) * (bottom - top), (l - left) / width, () => (right = l)],
        [(b - top) * (right - left), (bottom - b) / height, () => (top = b)],
        [(bottom - t) * (right - left), (t - top) / height, () => (bottom = t)],
      ];
      const [least] = cuts.filter(([, clear]) => clear >= 0.4).sort((one, other) => one[0] - other[0]);
      least?.[2]();
    }
    return { left, top, right: width - right, bottom: height - bottom };
  }

  /** Room at the sides of the map: that of {@link insets}, and some more. */
  within(padding: Padding): Padding {
    const { left, top, right, bottom } = this.insets();
    const more =
      typeof padding === 'number' ? { left: padding, top: padding, right: padding, bottom: padding } : padding;
    return {
      left: left + (more.left ?? 0),
      top: top + (more.top ?? 0),
      right: right + (more.right ?? 0),
      bottom: bottom + (more.bottom ?? 0),
    };
  }

  remove(): void {
    this.sizes.disconnect();
    this.panels.clear();
    countLive('listeners', -1);
  }
}
