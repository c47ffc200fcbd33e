import type { Fault, Sheet, View } from '@flintwright/core';
import type { PickedFeature } from '../base/picked-feature.js';
import type { DataState } from '../load/data-entry.js';
import type { PressDetail } from '../markers/markers.js';

/** Detail of `datachange` events. */
export interface DataChange {
  /** Name of the data entry. */
  readonly data: string;
  readonly state: DataState;
}

/** Events of a map, by name. The element `<flint-map>` dispatches the same. */
export interface MapEvents {
  /** The map, a marker or a cluster was pressed. `preventDefault()` suppresses the default reaction, such as a popup. */
  press: CustomEvent<PressDetail>;
  /** Two presses in quick succession. `preventDefault()` suppresses zooming in. */
  dblpress: CustomEvent<PressDetail>;
  /** The secondary button, a long press, or the menu key. */
  contextmenu: CustomEvent<PressDetail>;
  /** The pointer entered a feature, a cluster or a marker, which `detail` contains. */
  pointerenter: CustomEvent<PressDetail>;
  /** The pointer left a feature, a cluster or a marker, which `detail` contains. */
  pointerleave: CustomEvent<PressDetail>;
  /** The view changed. */
  viewchange: CustomEvent<View>;
  /** Nothing is loading, moving or fading any longer. */
  settled: CustomEvent<View>;
  /** A fault occurred. `preventDefault()` suppresses the notice. */
  fault: CustomEvent<Fault>;
  /** The selection changed. */
  selectionchange: CustomEvent<readonly PickedFeature[]>;
  /** The sheet changed: another sheet was set, or layers were changed. */
  sheetchange: CustomEvent<Sheet>;
  /** The load state of a data entry changed. */
  datachange: CustomEvent<DataChange>;
  /** The map is about to be removed. */
  remove: CustomEvent<null>;
}

/** Detail of the event with this name. */
export type MapEventDetail<K extends keyof MapEvents> = MapEvents[K]['detail'];

/** Listener of one event of a map. */
export type MapListener<K extends keyof MapEvents> =
  | ((event: MapEvents[K]) => void)
  | { handleEvent(event: MapEvents[K]): void };

/** An event target with typed events. A misspelt event name does not compile. */
export interface MapEventTarget extends EventTarget {
  /**
   * Adds an event listener.
   *
   * @param type name of the event; see {@link MapEvents}
   * @param listener called with the event, whose `detail` describes it
   * @param options as for `EventTarget`; a `signal` removes the listener when aborted
   */
  addEventListener<K extends keyof MapEvents>(
    type: K,
    listener: MapListener<K> | null,
    options?: boolean | AddEventListenerOptions,
  ): void;
  /**
   * Removes an event listener.
   *
   * @param type name of the event
   * @param listener the listener that was added
   * @param options only `capture` matters
   */
  removeEventListener<K extends keyof MapEvents>(
    type: K,
    listener: MapListener<K> | null,
    options?: boolean | EventListenerOptions,
  ): void;
}

/** The base of a map: the platform's event target, which knows the map's events. */
export const MapEventTargetBase = EventTarget as unknown as new () => MapEventTarget;
