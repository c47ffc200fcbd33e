import { asFault, Fault, readPlace, type Place } from '@flintwright/core';
import type { Camera } from '@flintwright/core/internal';
import { fetchPart } from '../base/fetch-part.js';
import { checkOptions, type OptionTable } from '../base/check-options.js';
import { listen } from '../base/live-counts.js';
import type { MapContext } from '../base/map-context.js';
import { dispose, type Removable } from '../base/removable.js';
import { removeElement, makeElement, place } from './dom.js';
import { linkElement, pictureElement, type PopupImage, type PopupLink } from './safe-link.js';

/** Something whose place a popup follows. */
export interface Anchor {
  readonly at: readonly [number, number];
}

export interface PopupOptions {
  /** Where it points to; or a marker, or anything else with a place that may change, which it then follows. */
  readonly at: Place | Anchor;
  readonly title?: string;
  /** A line below the title. */
  readonly text?: string;
  /** Label and value, one pair a line. */
  readonly lines?: Readonly<Record<string, string | PopupLink>>;
  /** A picture above the lines. */
  readonly image?: PopupImage;
  /** HTML below the rest; scripts, handlers, styles and frames are taken out, links open safely in a new tab. */
  readonly html?: string;
  /** An element of the application's own, below the rest. */
  readonly element?: HTMLElement;
  /** CSS pixels between the place and the foot of the leader, for a symbol that stands there; default 0. */
  readonly rise?: number;
  /** Whether the keyboard's focus goes into it, and back when it closes; default true. */
  readonly focus?: boolean;
  /** Whether a press elsewhere leaves it open; default false. */
  readonly stays?: boolean;
  /** Called once when the popup goes, whoever removed it. */
  readonly onClose?: () => void;
}

const table: OptionTable<PopupOptions> = {
  at: 'any',
  title: 'text',
  text: 'text',
  lines: 'object',
  image: 'object',
  html: 'text',
  element: 'element',
  rise: 'number',
  focus: 'switch',
  stays: 'switch',
  onClose: 'function',
};

/** Whether a popup would say nothing. */
export const isEmpty = ({ title, text, lines, image, html, element }: Partial<PopupOptions>): boolean =>
  !title && !text && !html?.trim() && !element && !image && !Object.keys(lines ?? {}).length;

/** Checks the options of a popup. @throws Fault `option.*` or `popup.empty` */
export function checkPopup(options: PopupOptions): void {
  checkOptions('map.popup', options, table, "map.popup({ at: [longitude, latitude], text: 'Hello' })");
  if (isEmpty(options))
    throw new Fault(
      'popup.empty',
      'the popup says nothing',
      'Give it a title, a text, lines, a picture, HTML or an element.',
    );
}

const gap = 26;
const margin = 10;

const isAnchor = (at: Place | Anchor): at is Anchor =>
  typeof at === 'object' && !Array.isArray(at) && 'at' in at && Array.isArray(at.at);

/** A card joined to a place by a thin line. It stays inside the map and follows its place. */
export class Popup implements Removable {
  readonly stays: boolean;
  /** Resolves when all it says is in it; HTML comes a moment after the rest. */
  readonly ready: Promise<void> = Promise.resolve();
  private readonly box: HTMLDivElement;
  private readonly leader: SVGSVGElement;
  private readonly line: SVGLineElement;
  private readonly off: (() => void)[] = [];
  private readonly before: Element | null;
  private anchor: Anchor;
  private open = true;

  /**
   * @param gone called once, when it has been removed, whoever removed it
   * @internal
   */
  constructor(
    private readonly context: MapContext,
    private readonly options: PopupOptions,
    private readonly gone: () => void,
  ) {
    const { overlay, strings } = context;
    const { at } = options;
    this.anchor = isAnchor(at) ? at : { at: readPlace(at, this.space) };
    this.stays = options.stays ?? false;
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
    place(overlay, this.leader);
    place(overlay, this.box);
    this.off.push(
      listen(close, 'click', () => this.remove()),
      listen(this.box, 'keydown', (event: KeyboardEvent) => {
        if (event.key === 'Escape') this.remove();
      }),
    );
    this.before = (overlay.getRootNode() as Document | ShadowRoot).activeElement;
    if (options.focus ?? true) this.box.focus({ preventScroll: true });
  }

  /** Puts HTML into a box, made harmless. The sanitizer is large, and fetched when the first popup asks for it. */
  private async fill(box: HTMLElement, html: string): Promise<void> {
    try {
      const { sanitize } = await fetchPart(() => import('./sanitize.js'));
      if (!this.open) return;
      box.append(sanitize(html));
      this.context.invalidate('overlay');
    } catch (error) {
      if (this.open) this.context.report(asFault(error, 'popup.html', 'Check the HTML of the popup.'));
    }
  }

  /** `[longitude, latitude]` of what it points to. */
  get at(): readonly [number, number] {
    return this.anchor.at;
  }

  /** Points to another place. */
  move(at: Place): void {
    this.anchor = { at: readPlace(at, this.space) };
    this.context.invalidate('overlay');
  }

  /**
   * Puts the card above its place, or wherever there is room, and draws the leader.
   *
   * @internal
   */
  follow(camera: Camera): void {
    const [x, foot, near] = camera.project(this.at[0], this.at[1]);
    const y = foot - (this.options.rise ?? 0);
    const { width, height } = camera.size;
    const hidden = near <= 0 || x < -40 || y < -40 || x > width + 40 || y > height + 40;
    this.box.style.visibility = this.leader.style.visibility = hidden ? 'hidden' : 'visible';
    if (hidden) return;
    const [w, h] = [this.box.offsetWidth, this.box.offsetHeight];
    const below = y - gap - h < margin && y + gap + h < height - margin;
    const left = Math.round(Math.max(margin, Math.min(width - w - margin, x - w * 0.32)));
    const top = Math.round(below ? foot + gap : Math.max(margin, y - gap - h));
    this.box.style.transform = `translate(${left}px, ${top}px)`;
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

  /**
   * Whether it points to something of the map, such as a marker.
   *
   * @internal
   */
  isAt(anchor: object): boolean {
    return this.anchor === anchor;
  }

  /**
   * Tells when the pointer comes onto the card, and when it leaves it.
   *
   * @internal
   */
  whenPointed(on: (over: boolean) => void): void {
    this.off.push(
      listen(this.box, 'pointerenter', () => on(true)),
      listen(this.box, 'pointerleave', () => on(false)),
    );
  }

  get isOpen(): boolean {
    return this.open;
  }

  /** Takes it off the map. A second call does nothing. */
  remove(): void {
    if (!this.open) return;
    this.open = false;
    for (const stop of this.off) stop();
    // The focus goes back to where it came from, if it is still within.
    const { before } = this;
    const from = before instanceof HTMLElement && before.isConnected && before !== document.body;
    if (from && this.box.contains((this.box.getRootNode() as Document | ShadowRoot).activeElement))
      before.focus({ preventScroll: true });
    removeElement(this.box);
    removeElement(this.leader);
    this.gone();
    this.options.onClose?.();
  }

  [dispose](): void {
    this.remove();
  }

  /** Space of the places. */
  private get space(): 'lonlat' | 'plane' {
    return this.context.state.surface.space;
  }
}
