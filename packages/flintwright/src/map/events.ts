import type { Fault, Sheet, View } from '@flintwright/core';
import type { PickedFeature } from '../base/picked-feature.js';
import type { DataState } from '../load/data-entry.js';
import type { PressDetail } from '../markers/markers.js';

/** What `datachange` events tell. */
export interface DataChange {
  /** Name of the data entry. */
  readonly data: string;
  readonly state: DataState;
}

/** The events of a map, by name. The element `<flint-map>` has the same. */
export interface MapEvents {
  /** Somebody pressed the map, a marker or a cluster. Prevented, nothing more is done. */
  press: CustomEvent<PressDetail>;
  /** Two presses in quick succession. Prevented, the map does not zoom in. */
  dblpress: CustomEvent<PressDetail>;
  /** The other button, a long press, or the menu key. */
  contextmenu: CustomEvent<PressDetail>;
  /** The pointer came over a feature, a cluster or a marker; `detail` says which. */
  pointerenter: CustomEvent<PressDetail>;
  /** The pointer left what it was over; `detail` says which that was. */
  pointerleave: CustomEvent<PressDetail>;
  /** The view has changed. */
  viewchange: CustomEvent<View>;
  /** Nothing is loading, moving or fading any more. */
  settled: CustomEvent<View>;
  /** Something went wrong. Prevented, no notice is shown. */
  fault: CustomEvent<Fault>;
  /** Other features are selected. */
  selectionchange: CustomEvent<readonly PickedFeature[]>;
  /** The sheet has changed, by another sheet or by a change of layers. */
  sheetchange: CustomEvent<Sheet>;
  /** How it stands with a data entry has changed. */
  datachange: CustomEvent<DataChange>;
  /** The map is about to be taken off the page. */
  remove: CustomEvent<null>;
}

/** Detail of an event, by its name. */
export type MapEventDetail<K extends keyof MapEvents> = MapEvents[K]['detail'];

/** Hears one event of a map. */
export type MapListener<K extends keyof MapEvents> =
  | ((event: MapEvents[K]) => void)
  | { handleEvent(event: MapEvents[K]): void };

/** An event target that knows its events. A misspelt name does not compile. */
export interface MapEventTarget extends EventTarget {
  /**
   * Listens to an event.
   *
   * @param type name of the event; see {@link MapEvents}
   * @param listener called with the event, whose `detail` says more
   * @param options as everywhere on the platform; a `signal` takes the listener off when it aborts
   */
  addEventListener<K extends keyof MapEvents>(
    type: K,
    listener: MapListener<K> | null,
    options?: boolean | AddEventListenerOptions,
  ): void;
  /**
   * Takes a listener off.
   *
   * @param type name of the event
   * @param listener the one that was added
   * @param options of these only `capture` matters
   */
  removeEventListener<K extends keyof MapEvents>(
    type: K,
    listener: MapListener<K> | null,
    options?: boolean | EventListenerOptions,
  ): void;
}

/** The base of a map: the platform's event target, which knows the map's events. */
export const MapEventTargetBase = EventTarget as unknown as new () => MapEventTarget;
