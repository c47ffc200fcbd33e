import type { Padding } from '@flintwright/core';
import { countLive } from '../base/live-counts.js';
import type { Box, MapContext } from '../base/map-context.js';
import { removable, type Abortable, type Removable } from '../base/removable.js';

/** Knows which part of the map lies beneath elements of the page, so that no label is put there and nothing is framed there. */
export class Obstacles {
  private readonly panels = new Set<Element>();
  private readonly sizes: ResizeObserver;

  /**
   * @param context the map, for the boxes of its own panels
   * @param changed called when a panel of the page has come, gone, or changed its size
   */
  constructor(
    private readonly host: HTMLElement,
    private readonly context: Pick<MapContext, 'panelBoxes' | 'fitBoxes'>,
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
    return [...this.added(), ...this.context.panelBoxes];
  }

  /** Boxes of the elements that were added. */
  private added(): Box[] {
    const { left, top, width, height } = this.host.getBoundingClientRect();
    return [...this.panels].flatMap((element): Box[] => {
      const box = element.getBoundingClientRect();
      const seen = box.width > 0 && box.height > 0;
      const [x, y] = [box.left - left, box.top - top];
      const within = x < width && y < height && x + box.width > 0 && y + box.height > 0;
      return seen && within ? [[x, y, x + box.width, y + box.height]] : [];
    });
  }

  /** Distances from the sides of the map to its {@link largestClear} part, in CSS pixels. */
  insets(): Required<Exclude<Padding, number>> {
    const { clientWidth: width, clientHeight: height } = this.host;
    const [left, top, right, bottom] = largestClear(width, height, [...this.added(), ...this.context.fitBoxes]);
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

/** Smallest share of the width, and of the height, of a map that a fitted view may be limited to. */
const leastShare = 0.4;

const areaOf = ([l, t, r, b]: Box) => Math.max(0, r - l) * Math.max(0, b - t);
const shared = ([l, t, r, b]: Box, [l2, t2, r2, b2]: Box) =>
  areaOf([Math.max(l, l2), Math.max(t, t2), Math.min(r, r2), Math.min(b, b2)]);

/**
 * The largest part of a map that no panel covers. Where all of them together would leave less than two fifths of its width or height, as few
 * panels as possible are disregarded: those without which most of the map is clear.
 *
 * @param width of the map, in CSS pixels
 * @param height of the map, in CSS pixels
 * @param panels boxes in CSS pixels from the upper left corner of the map
 */
function largestClear(width: number, height: number, panels: readonly Box[]): Box {
  const whole: Box = [0, 0, width, height];
  // A panel that can be avoided on no side covers the middle, whatever the others do.
  const avoidable = panels.filter((panel) => clearOf(whole, [panel]));
  for (let count = 0; count < avoidable.length; count++) {
    let best: { box: Box; clear: number } | undefined;
    for (const disregarded of choices(avoidable, count)) {
      const box = clearOf(
        whole,
        avoidable.filter((panel) => !disregarded.includes(panel)),
      );
      if (!box) continue;
      const clear = disregarded.reduce((area, panel) => area - shared(box, panel), areaOf(box));
      if (!best || clear > best.clear) best = { box, clear };
    }
    if (best) return best.box;
  }
  return whole;
}

/** The largest part of a box beside all panels; none if it would be narrower or lower than the least share. */
function clearOf([, , width, height]: Box, panels: readonly Box[]): Box | undefined {
  const [lefts, tops] = [2, 3].map((side) => [0, ...panels.map((box) => box[side])].filter((at) => at >= 0));
  const rights = [width, ...panels.map(([left]) => left)].filter((at) => at <= width);
  const bottoms = [height, ...panels.map(([, top]) => top)].filter((at) => at <= height);
  let best: Box | undefined;
  for (const left of lefts)
    for (const right of rights) {
      if (right - left < leastShare * width) continue;
      for (const top of tops)
        for (const bottom of bottoms) {
          if (bottom - top < leastShare * height) continue;
          const box: Box = [left, top, right, bottom];
          if (best && areaOf(box) <= areaOf(best)) continue;
          if (panels.every((panel) => !shared(box, panel))) best = box;
        }
    }
  return best;
}

/** All ways to choose some of a list. */
function* choices<T>(list: readonly T[], count: number, from = 0): Generator<readonly T[]> {
  if (!count) yield [];
  else
    for (let i = from; i <= list.length - count; i++)
      for (const rest of choices(list, count - 1, i + 1)) yield [list[i], ...rest];
}
