import { readPlace, type Place } from '@flintwright/core';
import type { Camera } from '@flintwright/core/internal';
import type { LatePart } from '../base/late-part.js';
import type { MapContext } from '../base/map-context.js';
import { dispose, type Removable } from '../base/removable.js';
import type * as Cards from './popup-card.js';
import type { Anchor, PopupOptions } from './popup-options.js';

/** What makes the cards of popups. */
export type PopupCards = LatePart<typeof Cards>;

const isAnchor = (at: Place | Anchor): at is Anchor =>
  typeof at === 'object' && !Array.isArray(at) && 'at' in at && Array.isArray(at.at);

/** A card that a leader line connects to its position. It stays inside the map and follows its position. */
export class Popup implements Removable {
  readonly stays: boolean;
  /** Resolves when the content is complete. The code for popups is loaded with the first one, and HTML is added after the rest. */
  readonly ready: Promise<void>;
  private card: Cards.PopupCard | undefined;
  private anchor: Anchor;
  private open = true;
  private pointed: ((over: boolean) => void) | undefined;

  /**
   * @param cards makes its card
   * @param gone called once, when it has been removed, whoever removed it
   * @internal
   */
  constructor(
    private readonly context: MapContext,
    private readonly options: PopupOptions,
    cards: PopupCards,
    private readonly gone: () => void,
  ) {
    const { at } = options;
    this.anchor = isAnchor(at) ? at : { at: readPlace(at, this.space) };
    this.stays = options.stays ?? false;
    if (cards.known) this.show(cards.known);
    this.ready = cards.ready().then(() => this.card?.ready);
  }

  /**
   * Puts its card on the map.
   *
   * @internal
   */
  show({ PopupCard }: typeof Cards): void {
    this.card = new PopupCard(this.context, this.options, {
      close: () => this.remove(),
      pointed: (over) => this.pointed?.(over),
    });
  }

  /** Position that the popup points at, `[longitude, latitude]` in degrees. */
  get at(): readonly [number, number] {
    return this.anchor.at;
  }

  /** Moves the popup to another position. */
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
    this.card?.follow(camera, this.at);
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
    this.pointed = on;
  }

  get isOpen(): boolean {
    return this.open;
  }

  /** Removes the popup from the map. A second call does nothing. */
  remove(): void {
    if (!this.open) return;
    this.open = false;
    this.card?.remove();
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
