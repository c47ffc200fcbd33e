import type { Camera, Fault } from '@flintwright/core';
import type { Words } from './strings.js';
import type { LayerPopup } from '../input/pointer.js';
import { Popup, type PopupOptions } from './popup.js';

export interface PopupsHost {
  /** Where popups stand. */
  readonly over: HTMLElement;
  readonly words: Words;
  /** What places are. */
  space(): 'lonlat' | 'plane';
  changed(): void;
  fault(fault: Fault): void;
}

/** The popups that are open, and those that an application gives its layers. */
export class Popups {
  private readonly shown = new Set<Popup>();
  private readonly ofLayers = new Map<string, LayerPopup>();

  constructor(private readonly host: PopupsHost) {}

  open(options: PopupOptions): Popup {
    const { over, words } = this.host;
    const popup = new Popup(over, words, options, {
      gone: () => this.shown.delete(popup),
      moved: () => this.host.changed(),
      failed: (fault) => this.host.fault(fault),
      space: this.host.space(),
    });
    this.shown.add(popup);
    this.host.changed();
    return popup;
  }

  /** Gives the features of a layer popups; returns what takes them off again. */
  give(layer: string, own: LayerPopup): () => void {
    this.ofLayers.set(layer, own);
    return () => {
      if (this.ofLayers.get(layer) === own) this.ofLayers.delete(layer);
    };
  }

  of(layer: string): LayerPopup | undefined {
    return this.ofLayers.get(layer);
  }

  /** Closes all but those that are to stay. */
  dismiss(): void {
    for (const popup of [...this.shown]) if (!popup.stays) popup.close();
  }

  follow(camera: Camera): void {
    for (const popup of this.shown) popup.follow(camera);
  }

  destroy(): void {
    for (const popup of [...this.shown]) popup.close();
  }
}
