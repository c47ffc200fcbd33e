import { asFault } from '@flintwright/core';
import type { Camera } from '@flintwright/core/internal';
import { fetchPart } from '../base/fetch-part.js';
import { listen } from '../base/live-counts.js';
import type { MapContext } from '../base/map-context.js';
import { makeElement, place, removeElement } from './dom.js';
import type { PopupOptions } from './popup-options.js';
import { popupStyle } from './popup-style.js';
import { linkElement, pictureElement } from './safe-link.js';
import { adoptStyles } from './adopt-styles.js';

const gap = 26;
const margin = 10;
/** Pixels between a card and a panel. */
const clear = 6;

/** What a card tells its popup. */
export interface CardTools {
  /** Somebody closes it. */
  close(): void;
  /** The pointer has come onto it, or has left it. */
  pointed(over: boolean): void;
}

/** What is seen of a popup: its card, and the line to its place. */
export class PopupCard {
  /** Resolves when all it says is in it. */
  readonly ready: Promise<void> = Promise.resolve();
  private readonly box: HTMLDivElement;
  private readonly leader: SVGSVGElement;
  private readonly line: SVGLineElement;
  private readonly off: (() => void)[] = [];
  private readonly before: Element | null;
  private gone = false;

  constructor(
    private readonly context: MapContext,
    private readonly options: PopupOptions,
    { close: closeIt, pointed }: CardTools,
  ) {
    const { overlay, strings } = context;
    this.leader = document.createElementNS('http://www.w3.org/2000/svg', 'svg');
    this.leader.setAttribute('class', 'flint-leader');
    this.leader.setAttribute('aria-hidden', 'true');
    this.line = document.createElementNS('http://www.w3.org/2000/svg', 'line');
    this.leader.append(this.line);
    this.box = makeElement('div', 'flint-popup');
    this.box.setAttribute('role', 'dialog');
    this.box.tabIndex = -1;
    this.box.setAttribute('aria-label', options.title ?? options.text ?? strings.popup);
    const card = makeElement('div', 'flint-card');
    const body = makeElement('div');
    if (options.title) body.append(makeElement('h2', '', options.title));
    if (options.text) body.append(makeElement('p', '', options.text));
    if (options.image) body.append(...pictureElement(options.image));
    const entries = Object.entries(options.lines ?? {});
    if (entries.length) {
      const list = makeElement('dl');
      for (const [name, value] of entries) {
        const said = makeElement('dd', '', typeof value === 'string' ? value : undefined);
        if (typeof value !== 'string') said.append(linkElement(value));
        list.append(makeElement('dt', '', name), said);
      }
      body.append(list);
    }
    if (options.html) {
      const own = makeElement('div', 'flint-html');
      body.append(own);
      this.ready = this.fill(own, options.html);
    }
    if (options.element) body.append(options.element);
    const close = makeElement('button', '', '✕');
    close.type = 'button';
    close.setAttribute('aria-label', strings.close);
    card.append(body);
    this.box.append(card, close);
    adoptStyles(overlay, popupStyle);
    place(overlay, this.leader);
    place(overlay, this.box);
    this.off.push(
      listen(close, 'click', closeIt),
      listen(this.box, 'keydown', (event: KeyboardEvent) => {
        if (event.key === 'Escape') closeIt();
      }),
      listen(this.box, 'pointerenter', () => pointed(true)),
      listen(this.box, 'pointerleave', () => pointed(false)),
    );
    this.before = (overlay.getRootNode() as Document | ShadowRoot).activeElement;
    if (options.focus ?? true) this.box.focus({ preventScroll: true });
  }

  /** Puts HTML into a box, made harmless. The sanitizer is large, and fetched when the first popup asks for it. */
  private async fill(box: HTMLElement, html: string): Promise<void> {
    const end = this.context.begin();
    try {
      const { sanitize } = await fetchPart(() => import('./sanitize.js'));
      if (this.gone) return;
      box.append(sanitize(html));
    } catch (error) {
      if (!this.gone) this.context.report(asFault(error, 'popup.html', 'Check the HTML of the popup.'));
    } finally {
      end();
      if (!this.gone) this.context.invalidate('overlay');
    }
  }

  /** Puts the card above a place, or wherever there is room, and draws the leader. */
  follow(camera: Camera, at: readonly [number, number]): void {
    const [x, foot, near] = camera.project(at[0], at[1]);
    const y = foot - (this.options.rise ?? 0);
    const { width, height } = camera.size;
    const hidden = near <= 0 || x < -40 || y < -40 || x > width + 40 || y > height + 40;
    // What has the focus stays where Escape can close it, unseen.
    const held = hidden && this.box.contains((this.box.getRootNode() as Document | ShadowRoot).activeElement);
    this.box.style.opacity = held ? '0' : '';
    this.box.style.pointerEvents = held ? 'none' : '';
    this.leader.style.visibility = hidden ? 'hidden' : 'visible';
    this.box.style.visibility = hidden && !held ? 'hidden' : 'visible';
    if (hidden) return;
    const [w, h] = [this.box.offsetWidth, this.box.offsetHeight];
    const { left, top } = this.freeSpot(x, y, foot, w, h, width, height);
    this.box.style.transform = `translate(${left}px, ${top}px)`;
    const below = top > y;
    const edge = below ? top : top + h;
    const start = Math.max(left + 4, Math.min(left + w - 4, x));
    for (const [name, value] of [
      ['x1', x],
      ['y1', below ? foot : y],
      ['x2', start],
      ['y2', edge],
    ] as const)
      this.line.setAttribute(name, value.toFixed(1));
  }

  /** Where the card lies within the map, above its place where it can, or below it, and clear of panels. */
  private freeSpot(x: number, y: number, foot: number, w: number, h: number, width: number, height: number) {
    const boxes = this.context.panelBoxes;
    const farRight = Math.max(margin, width - w - margin);
    const inside = (left: number) => Math.max(margin, Math.min(farRight, left));
    const home = inside(x - w * 0.32);
    const above = y - gap - h;
    const below = foot + gap;
    // Farther off than its place asks for, where a panel is in the way.
    const tops = [above, below, ...boxes.flatMap(([, t, , b]) => [t - clear - h, b + clear])].filter(
      (top) => top >= margin && top + h < height - margin && (top <= above || top >= below),
    );
    let best = { left: home, top: Math.max(margin, above), cost: Infinity };
    for (const top of tops.length ? tops : [best.top]) {
      const away = top <= above ? above - top : top - below + 40;
      const beside = boxes.flatMap(([l, , r]) => [l - w - clear, r + clear]);
      for (const left of [home, ...beside.filter((one) => one === inside(one) && Math.abs(one + w / 2 - x) < w)]) {
        const covered = boxes.reduce((sum, [l, t, r, b]) => {
          const wide = Math.min(r, left + w) - Math.max(l, left);
          const tall = Math.min(b, top + h) - Math.max(t, top);
          return wide > 0 && tall > 0 ? sum + wide * tall : sum;
        }, 0);
        const cost = covered * 10 + Math.abs(left - home) + away;
        if (cost < best.cost) best = { left, top, cost };
      }
    }
    return { left: Math.round(best.left), top: Math.round(best.top) };
  }

  /** Takes it off the map. */
  remove(): void {
    this.gone = true;
    for (const stop of this.off) stop();
    // The focus goes back to where it came from, if it is still within.
    const { before } = this;
    const from = before instanceof HTMLElement && before.isConnected && before !== document.body;
    if (from && this.box.contains((this.box.getRootNode() as Document | ShadowRoot).activeElement))
      before.focus({ preventScroll: true });
    removeElement(this.box);
    removeElement(this.leader);
  }
}
