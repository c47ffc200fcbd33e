/** Pixels between two panels. */
export const gap = 8;

/** A panel that stands on a map. Lengths are CSS pixels; `start` is where lines of text start. */
export interface Panel {
  readonly width: number;
  /** With all its content in view. */
  readonly height: number;
  readonly vertical: 'top' | 'middle' | 'bottom';
  readonly horizontal: 'start' | 'center' | 'end';
  /** Distance from the edges. */
  readonly margin: number;
  /** Least height of a panel whose content scrolls; undefined where its height is fixed. */
  readonly leastHeight?: number | undefined;
  /** Whether it moves sideways rather than up or down to keep clear of others. */
  readonly sideways?: boolean | undefined;
}

/** Where a panel stands. */
export interface Placement {
  /** From the start edge of the map to that of the panel. */
  readonly x: number;
  /** From the upper edge of the map to that of the panel. */
  readonly y: number;
  /** Height of the panel. */
  readonly height: number;
  /** Height that it may grow to. */
  readonly room: number;
}

interface Taken {
  readonly start: number;
  readonly top: number;
  readonly end: number;
  readonly bottom: number;
}

/** Free spans of a column between two heights, from the top. */
function freeSpans(start: number, end: number, taken: readonly Taken[], low: number, high: number): [number, number][] {
  const spans: [number, number][] = [];
  let from = low;
  const blocks = taken.filter((box) => box.start < end + gap && box.end > start - gap);
  for (const { top, bottom } of blocks.sort((one, other) => one.top - other.top)) {
    if (top - gap > from) spans.push([from, Math.min(high, top - gap)]);
    from = Math.max(from, bottom + gap);
  }
  if (from < high) spans.push([from, high]);
  return spans;
}

/**
 * Places panels on a map so that none covers another. Each takes the free room nearest to its seat; one whose content scrolls gets lower
 * where there is too little. Where a map is too small for all of them, later ones overlap.
 *
 * @param width of the map, in CSS pixels
 * @param height of the map, in CSS pixels
 * @param panels in the order in which they choose
 * @returns a placement for each panel
 */
export function arrangePanels(width: number, height: number, panels: readonly Panel[]): Placement[] {
  const taken: Taken[] = [];
  return panels.map((panel, index) => {
    const { width: w, height: h, vertical, horizontal, margin, leastHeight, sideways } = panel;
    const home = { start: margin, center: (width - w) / 2, end: width - margin - w }[horizontal];
    const columns = [home, ...taken.flatMap(({ start, end }) => [end + gap, start - gap - w])].filter(
      (x) => x === home || (x >= 0 && x + w <= width),
    );
    // A panel that scrolls leaves those after it in its column what they need, up to two fifths of the height.
    const reserve = panels
      .slice(index + 1)
      .filter((other) => other.leastHeight && !other.sideways && other.horizontal === horizontal)
      .reduce((sum, other) => sum + Math.min(other.height, height * 0.4) + gap, 0);
    const [across, along] = sideways ? [1, 10] : [4, 1];
    let best: Placement = { x: home, y: margin, height: h, room: h };
    let lowest = Infinity;
    for (const x of columns)
      for (const [top, bottom] of freeSpans(x, x + w, taken, margin, height - margin)) {
        const room = leastHeight
          ? Math.max(Math.min(leastHeight, h), Math.min(bottom - top, height - 2 * margin - reserve))
          : h;
        const used = Math.min(h, room);
        const ideal = { top: margin, middle: (height - used) / 2, bottom: height - margin - used }[vertical];
        const y = Math.max(0, top, Math.min(bottom - used, ideal));
        const overlap = Math.max(0, used - (bottom - top));
        const cost = Math.abs(x - home) * across + Math.abs(y - ideal) * along + (h - used) * 2 + overlap * 1000;
        if (cost >= lowest) continue;
        lowest = cost;
        best = { x, y, height: used, room };
      }
    taken.push({ start: best.x, top: best.y, end: best.x + w, bottom: best.y + best.height });
    return best;
  });
}
