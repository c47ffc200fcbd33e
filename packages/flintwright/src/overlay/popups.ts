import type { Camera } from '@flintwright/core/internal';
import { LatePart } from '../base/late-part.js';
import type { MapContext } from '../base/map-context.js';
import type { PickedFeature } from '../base/picked-feature.js';
import { removable, type Abortable, type Removable } from '../base/removable.js';
import { Popup, type PopupCards } from './popup.js';
import { checkPopup, type PopupOptions } from './popup-options.js';

/** Returns the content of a feature's popup; undefined for no popup. */
export type PopupOf = (feature: PickedFeature) => Omit<PopupOptions, 'at'> | undefined;

/** Options of the popups of a layer. */
export interface LayerPopupOptions extends Abortable {
  /** Event that opens the popup: `press` (the default), or `hover`. */
  readonly on?: 'press' | 'hover';
}

/** A popup that an application gives a layer. */
export interface LayerPopup {
  readonly make: PopupOf;
  readonly on: 'press' | 'hover';
}

/** The popups that are open, and those that an application gives its layers. */
export class Popups {
  private readonly shown = new Set<Popup>();
  private readonly ofLayers = new Map<string, LayerPopup>();
  private readonly cards: PopupCards;

  constructor(private readonly context: MapContext) {
    this.cards = new LatePart(
      context,
      () => import('./popup-card.js'),
      (cards) => this.shown.forEach((popup) => popup.show(cards)),
    );
  }

  /** Fetches what makes cards, where one may soon be opened. */
  expect(): void {
    void this.cards.ready();
  }

  /** @throws Fault `option.*`, `popup.empty` or `place.*` */
  open(options: PopupOptions): Popup {
    checkPopup(options);
    const popup = new Popup(this.context, options, this.cards, () => this.shown.delete(popup));
    this.shown.add(popup);
    this.context.invalidate('overlay');
    return popup;
  }

  /** Gives the features of a layer popups, until what is returned is removed. */
  give(layer: string, make: PopupOf, { on = 'press', signal }: LayerPopupOptions): Removable {
    const own: LayerPopup = { make, on };
    this.ofLayers.set(layer, own);
    return removable(() => {
      if (this.ofLayers.get(layer) === own) this.ofLayers.delete(layer);
    }, signal);
  }

  /** Layers whose popups the application makes. */
  get layers(): readonly string[] {
    return [...this.ofLayers.keys()];
  }

  of(layer: string): LayerPopup | undefined {
    return this.ofLayers.get(layer);
  }

  /** Removes those that point to something that has gone. */
  closeAt(anchor: object): void {
    for (const popup of [...this.shown]) if (popup.isAt(anchor)) popup.remove();
  }

  /** Removes all but those that are to stay. */
  dismiss(): void {
    for (const popup of [...this.shown]) if (!popup.stays) popup.remove();
  }

  follow(camera: Camera): void {
    for (const popup of this.shown) popup.follow(camera);
  }

  remove(): void {
    for (const popup of [...this.shown]) popup.remove();
  }
}
