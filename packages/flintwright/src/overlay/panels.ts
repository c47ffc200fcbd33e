import { countLive } from '../base/live-counts.js';
import type { Box } from '../base/map-context.js';
import { arrangePanels, gap, type Panel } from './arrange-panels.js';

/** Place of a panel without a position, mirrored on right-to-left pages. With `none` its own CSS places it. */
export type Seat =
  | 'top-start'
  | 'top'
  | 'top-end'
  | 'middle-start'
  | 'middle-end'
  | 'bottom-start'
  | 'bottom'
  | 'bottom-end'
  | 'none';

/** How a kind of panel is arranged. */
interface Kind extends Pick<Panel, 'leastHeight' | 'sideways'> {
  /** Class of its element. */
  readonly name: string;
  /** Distance from the edges of the map, in CSS pixels; default 14. */
  readonly margin?: number;
  /** The element within it that scrolls; default itself. */
  readonly scroller?: string;
  /** Greatest share of the height of the map. */
  readonly share?: number;
  /** Whether a view is fitted as if it were not there: it comes and goes by itself, and the same call must lead to the same view. */
  readonly ignoredByFit?: boolean;
  /** Whether it lies above the lower edge of a narrow map. */
  readonly isSheet?: boolean;
  /** Whether it lies on the whole lower edge of a narrow map, up to half of its height; the others keep clear of it. */
  readonly isEdge?: boolean;
}

/** The library's own panels, in the order in which they choose where to stand. */
const kinds: readonly Kind[] = [
  { name: 'flint-credit', margin: 0, ignoredByFit: true },
  { name: 'flint-scale', margin: 0 },
  { name: 'flint-position', margin: 0 },
  { name: 'flint-draw' },
  { name: 'flint-control' },
  { name: 'flint-notice', ignoredByFit: true },
  { name: 'flint-list' },
  { name: 'flint-draw-panel', leastHeight: 120, sideways: true, share: 0.45, isSheet: true },
  { name: 'flint-rail', leastHeight: 120, scroller: '.flint-card' },
  { name: 'flint-drawer', leastHeight: 80, scroller: '.flint-card', isEdge: true },
  { name: 'flint-search', sideways: true },
  { name: 'flint-files', leastHeight: 40, scroller: '.flint-file-list', sideways: true, share: 0.6 },
  { name: 'flint-legend', leastHeight: 60 },
];
/** Any other control. */
const own = kinds.findIndex(({ name }) => name === 'flint-control');
const drawer = kinds.findIndex(({ name }) => name === 'flint-drawer');
const search = kinds.findIndex(({ name }) => name === 'flint-search');

/** Widths of a search box, and the room that it leaves for a rail. */
const searchWidths = { least: 190, most: 330, beside: 68 };

/** A panel of the page: its element, how it is arranged, and where. */
interface Seated {
  readonly element: HTMLElement;
  readonly kind: Kind;
  readonly rank: number;
  readonly panel: Panel & { /** Greatest share of the height of the map. */ readonly share: number };
}

/**
 * Arranges the panels of a map: controls, legends, the attribution, notices and forms. None covers another. A panel is a child of the host
 * or of the overlay that names its seat or corner in `data-seat`.
 */
export class Panels {
  private placed: readonly Box[] = [];
  private fitted: readonly Box[] = [];
  private readonly sizes: ResizeObserver;
  private readonly changes: MutationObserver;
  private readonly watched = new Set<Element>();

  /** @param changed called when panels have moved */
  constructor(
    private readonly host: HTMLElement,
    overlay: HTMLElement,
    private readonly changed: () => void,
  ) {
    this.sizes = new ResizeObserver(() => this.arrange());
    this.sizes.observe(host);
    this.changes = new MutationObserver(() => this.arrange());
    this.changes.observe(host, { childList: true, attributeFilter: ['dir'] });
    this.changes.observe(overlay, { childList: true });
    this.changes.observe(document.documentElement, { attributeFilter: ['dir'] });
    countLive('listeners', 1);
  }

  /** Boxes of the panels, in CSS pixels of the map from its upper left corner. */
  get boxes(): readonly Box[] {
    // What was put on the map in the present task counts too.
    if (this.changes.takeRecords().length) this.arrange();
    return this.placed;
  }

  /** The boxes that a fitted view keeps clear of: all but those of the attribution and of notices. */
  get fitBoxes(): readonly Box[] {
    return this.boxes.length ? this.fitted : [];
  }

  private arrange(): void {
    const { host } = this;
    const [width, height] = [host.clientWidth, host.clientHeight];
    const elements = [
      ...host.querySelectorAll<HTMLElement>(':scope > [data-seat], :scope > .flint-overlay > [data-seat]'),
    ];
    this.watch(elements);
    if (!width || !height) return;
    const isMirrored = getComputedStyle(host).direction === 'rtl';
    const seated = elements.flatMap((element) => seatedPanel(element, height, isMirrored));
    fitSearch(seated, width);
    seated.sort((one, other) => one.rank - other.rank);
    const placed = arrangePanels(
      width,
      height,
      seated.map(({ panel }) => panel),
    );
    const boxes = seated.map(({ element, kind, panel }, i): Box => {
      const { x, y, height: tall, room } = placed[i];
      const { style } = element;
      style.insetInlineStart = `${Math.round(x)}px`;
      const isLow = panel.vertical === 'bottom';
      style.top = isLow ? 'auto' : `${Math.round(y)}px`;
      style.bottom = isLow ? `${Math.round(height - y - tall)}px` : 'auto';
      if (kind.leastHeight) style.maxHeight = `${Math.floor(Math.min(room, height * panel.share))}px`;
      const left = isMirrored ? width - x - panel.width : x;
      return [left, y, left + panel.width, y + tall];
    });
    if (boxes.join() === this.placed.join()) return;
    this.placed = boxes;
    this.fitted = boxes.filter((_, i) => !seated[i].kind.ignoredByFit);
    this.changed();
  }

  /** Watches the sizes of the panels that are there now. */
  private watch(elements: readonly HTMLElement[]): void {
    for (const element of this.watched)
      if (!elements.includes(element as HTMLElement)) {
        this.sizes.unobserve(element);
        this.watched.delete(element);
      }
    for (const element of elements)
      if (!this.watched.has(element)) {
        this.sizes.observe(element);
        this.watched.add(element);
      }
  }

  remove(): void {
    this.sizes.disconnect();
    this.changes.disconnect();
    countLive('listeners', -1);
  }
}

/** An element as a panel; none where it is not shown. */
function seatedPanel(element: HTMLElement, height: number, isMirrored: boolean): Seated[] {
  const rank = kinds.findIndex(({ name }, i) => i !== own && element.classList.contains(name));
  const kind = kinds[rank < 0 ? own : rank];
  const { leastHeight, sideways } = kind;
  const isNarrow = element.closest('.flint-narrow') !== null;
  const isEdge = isNarrow && Boolean(kind.isEdge);
  const { margin = 14, share = 1 } = isEdge ? { margin: 0, share: 0.5 } : kind;
  const seat = isNarrow && (kind.isSheet || isEdge) ? 'bottom' : element.dataset['seat']!;
  const [vertical, side = 'center'] = seat.split('-');
  // The results of a search lie over what is there, so that nothing moves while somebody types.
  const measured = kind.name === 'flint-search' ? element.querySelector<HTMLElement>('.flint-ask')! : element;
  const { offsetWidth, offsetHeight } = measured;
  if (vertical === 'none' || offsetWidth < 2 || offsetHeight < 2) return [];
  const scroller = kind.scroller === undefined ? element : element.querySelector(kind.scroller);
  const hidden = leastHeight && scroller ? scroller.scrollHeight - scroller.clientHeight : 0;
  const horizontal =
    side === 'left' ? (isMirrored ? 'end' : 'start') : side === 'right' ? (isMirrored ? 'start' : 'end') : side;
  const panel = {
    width: offsetWidth,
    height: Math.min(offsetHeight + hidden, height * share),
    vertical: vertical as Panel['vertical'],
    horizontal: horizontal as Panel['horizontal'],
    margin,
    leastHeight,
    sideways,
    share,
  };
  return [{ element, kind, rank: isEdge ? -1 : rank < 0 ? own : rank, panel }];
}

/** Gives a search box the width that is free beside a drawer; where that is too little, it stands above the drawer. */
function fitSearch(seated: Seated[], width: number): void {
  const { least, most, beside } = searchWidths;
  seated.forEach((one, i) => {
    if (one.rank !== search) return;
    const { vertical, horizontal } = one.panel;
    const blocking = seated.find(
      ({ rank, panel }) => rank === drawer && panel.vertical === vertical && panel.horizontal === horizontal,
    );
    const free = width - 14 - beside - (blocking ? blocking.panel.width + gap : 0);
    const isBeside = !blocking || free >= least;
    const wide = Math.max(least, Math.min(most, isBeside ? free : width - 14 - beside));
    one.element.style.width = `${wide}px`;
    seated[i] = { ...one, rank: isBeside ? search : drawer - 0.5, panel: { ...one.panel, width: wide } };
  });
}
