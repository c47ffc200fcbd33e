import { Fault, readPlace, type Place } from '@flintwright/core';
import { checkOptions, type OptionTable } from '../base/check-options.js';
import type { Icons } from '../base/icons.js';
import { nearestSpelling, type Rgba } from '@flintwright/core/internal';
import { findPageColor } from '../base/page-color.js';
import type { PickedCluster } from '../base/picked-cluster.js';
import type { PickedFeature } from '../base/picked-feature.js';
import type { Removable } from '../base/removable.js';
import type { PopupOptions } from '../overlay/popup-options.js';
import type { Listeners } from './listeners.js';

/** Keys that a form of marker does not have, so that the compiler tells the forms apart. */
type Without<Key extends string> = { readonly [K in Key]?: undefined };

/** Options of all markers. */
export interface MarkerBase {
  /** Position in degrees. */
  readonly at: Place;
  /** Name, read out and shown as a tooltip; default the title of the popup. */
  readonly title?: string;
  /** Description, read out after the name. */
  readonly description?: string;
  /** Point of the marker that lies at its position: the middle of its `bottom` edge (the default), or its `center`. */
  readonly anchor?: 'bottom' | 'center';
  /** CSS color of the marker; default slate. */
  readonly color?: string;
  /** CSS color of icon and rim; default chalk. */
  readonly ink?: string;
  /** Height in CSS pixels; default 36. */
  readonly size?: number;
  /** Markers of higher priority are kept where markers overlap; default 0. */
  readonly priority?: number;
  /** Reaction to an overlapping marker of higher priority: `stay` (the default), `hide`, or `shrink`. */
  readonly crowded?: 'stay' | 'hide' | 'shrink';
  /** Whether people can drag the marker, or move it with Shift and the arrow keys; default false. */
  readonly draggable?: boolean;
  /** Called while the marker is dragged (`done` is false) and at the end (`done` is true). */
  readonly onMove?: (at: readonly [number, number], done: boolean) => void;
  /** Popup that a press opens. */
  readonly popup?: Omit<PopupOptions, 'at'>;
}

/** A marker with an icon, up to three letters, or nothing in it. */
export interface ShardMarker extends MarkerBase, Without<'shape' | 'image' | 'element' | 'words'> {
  /** Name of an icon; see the icons of the guide, or the option `icons`. */
  readonly icon?: string;
  /** Up to three letters or digits, in place of an icon. */
  readonly text?: string;
}

/** A marker that is an icon. */
export interface ShapeMarker extends MarkerBase, Without<'icon' | 'text' | 'image' | 'element' | 'words'> {
  /** Name of the icon. */
  readonly shape: string;
}

/** A marker that is a picture, shown as an element of the page. */
export interface ImageMarker extends MarkerBase, Without<'icon' | 'text' | 'shape' | 'element' | 'words'> {
  /** URL of the picture. */
  readonly image: string;
}

/** A marker that is an element of the application. Thousands of these are slow; drawn markers are not. */
export interface ElementMarker extends MarkerBase, Without<'icon' | 'text' | 'shape' | 'image' | 'words'> {
  readonly element: HTMLElement;
}

/** A marker that is text; its `color` is that of the letters. */
export interface WordsMarker extends MarkerBase, Without<'icon' | 'text' | 'shape' | 'image' | 'element'> {
  /** The text; line feeds separate lines. `size` is the font size, default 16 CSS pixels. */
  readonly words: string;
  /** Rotation in degrees clockwise, relative to the screen; default 0. */
  readonly rotation?: number;
  /** Halo around the letters: a CSS color, and its width in CSS pixels, default 2. */
  readonly halo?: { readonly color: string; readonly width?: number };
  /** CSS font weight, 100 to 900; default 600. */
  readonly weight?: number;
}

/** A marker in one of five forms. */
export type MarkerOptions = ShardMarker | ShapeMarker | ImageMarker | ElementMarker | WordsMarker;

/** Change of a marker; `undefined` removes a key. */
export type MarkerChange = Partial<Omit<MarkerBase, 'popup'>> & {
  readonly popup?: MarkerBase['popup'] | undefined;
  readonly icon?: string | undefined;
  readonly text?: string | undefined;
  readonly shape?: string | undefined;
  readonly image?: string | undefined;
  readonly element?: HTMLElement | undefined;
  readonly words?: string | undefined;
  readonly rotation?: number;
  readonly halo?: WordsMarker['halo'];
  readonly weight?: number;
};

/** Detail of pointer events of the map: the position, and what is there. */
export interface PressDetail {
  /** CSS pixels from the upper left corner of the map. */
  readonly point: readonly [number, number];
  /** `[longitude, latitude]` in degrees; undefined beside the surface. */
  readonly place: readonly [number, number] | undefined;
  /** Features at the point, topmost first. */
  readonly features: readonly PickedFeature[];
  /** The event of the browser. */
  readonly original: Event;
  /** Cluster at the point, if any. */
  readonly cluster?: PickedCluster;
  /** Marker at the point, if any. */
  readonly marker?: Marker;
}

/** Events of a marker, by name. `preventDefault()` suppresses the default reaction and the event of the map. */
export interface MarkerEvents {
  /** The marker was pressed, or chosen with the keyboard. */
  press: CustomEvent<PressDetail>;
  /** Two presses in quick succession. */
  dblpress: CustomEvent<PressDetail>;
  /** The secondary button, a long press, or the menu key. */
  contextmenu: CustomEvent<PressDetail>;
  /** The pointer entered the marker. */
  pointerenter: CustomEvent<PressDetail>;
  /** The pointer left the marker. */
  pointerleave: CustomEvent<PressDetail>;
}

/** Listener of one event of a marker. */
export type MarkerListener<K extends keyof MarkerEvents> =
  | ((event: MarkerEvents[K]) => void)
  | { handleEvent(event: MarkerEvents[K]): void };

/** A marker on the map. */
export interface Marker extends Removable {
  /**
   * Adds a listener for an event of this marker.
   *
   * @param type name of the event; see {@link MarkerEvents}
   * @param listener called with the event, whose `detail` describes it
   * @param options as for `EventTarget`; a `signal` removes the listener when aborted
   */
  addEventListener<K extends keyof MarkerEvents>(
    type: K,
    listener: MarkerListener<K>,
    options?: boolean | AddEventListenerOptions,
  ): void;
  /**
   * Removes an event listener.
   *
   * @param type name of the event
   * @param listener the listener that was added
   * @param options only `capture` matters
   */
  removeEventListener<K extends keyof MarkerEvents>(
    type: K,
    listener: MarkerListener<K>,
    options?: boolean | EventListenerOptions,
  ): void;
  readonly options: MarkerOptions;
  /** Position, `[longitude, latitude]` in degrees. */
  readonly at: readonly [number, number];
  /** Changes options; does nothing after removal. @throws Fault as `markers.add` does; the marker is then unchanged */
  change(options: MarkerChange): void;
  /** Removes the marker and its element from the map. A second call does nothing. */
  remove(): void;
}

/** A marker as the collection keeps it: options read once, and where its place on the screen is kept. */
export interface HeldMarker extends Marker {
  readonly listeners: Listeners;
  options: MarkerOptions;
  at: readonly [number, number];
  color: Rgba;
  ink: Rgba;
  size: number;
  /** Its number among those that stand; see `MarkerPositions`. −1 once it was removed. */
  slot: number;
  /** The element that shows it, for those that are one. */
  shown: MarkerFigure | undefined;
}

/** The element of a marker that stands in the page. */
export interface MarkerFigure {
  readonly box: HTMLElement;
  /** Puts its upper left corner at a pixel. */
  show(x: number, y: number, scale: number): void;
  hide(): void;
  remove(): void;
}

const slate = '#22303a';
const chalk = '#f7f5ef';

const table: OptionTable<
  MarkerBase &
    Record<'icon' | 'text' | 'shape' | 'image' | 'element' | 'words' | 'rotation' | 'halo' | 'weight', unknown>
> = {
  at: 'any',
  icon: 'text',
  text: 'text',
  shape: 'text',
  image: 'text',
  element: 'element',
  words: 'text',
  rotation: 'number',
  halo: 'object',
  weight: 'number',
  title: 'text',
  description: 'text',
  anchor: 'text',
  color: 'text',
  ink: 'text',
  size: 'number',
  priority: 'number',
  crowded: 'text',
  draggable: 'switch',
  onMove: 'function',
  popup: 'object',
};

/** Checks what a marker is given. @throws Fault `option.*` */
export const checkMarker = (call: string, options: unknown): void =>
  checkOptions(call, options, table, `${call}({ at: [longitude, latitude], icon: 'star' })`);

/**
 * The part of a marker that is the same for as long as its options are.
 *
 * @throws Fault `place.*`, `marker.icon`, `marker.color`, `marker.text` or `marker.size`
 */
export function readMarker(
  options: MarkerOptions,
  icons: Pick<Icons, 'number' | 'names'>,
  space: 'lonlat' | 'plane' = 'lonlat',
): Pick<HeldMarker, 'color' | 'ink' | 'size' | 'at'> {
  const { words } = options;
  const {
    color = slate,
    ink = words === undefined ? chalk : (options.halo?.color ?? chalk),
    icon,
    shape,
    text,
  } = options;
  const { size = words === undefined ? 36 : 16 } = options;
  for (const name of [icon, shape]) {
    if (name === undefined || icons.number(name) !== undefined) continue;
    const near = nearestSpelling(name, icons.names);
    throw new Fault(
      'marker.icon',
      `there is no icon "${name}"`,
      near
        ? `Did you mean "${near}"?`
        : 'Name one of the built-in icons, or pass your own icon in the option "icons" of the map.',
    );
  }
  if (text !== undefined && [...text].length > 3)
    throw new Fault('marker.text', `"${text}" does not fit in a marker`, 'Write up to three letters or digits.');
  if (!(size > 0 && size <= 400))
    throw new Fault('marker.size', `the size ${String(size)} is not a height`, 'Give CSS pixels, 1 to 400.');
  const read = (value: string) => {
    const found = findPageColor(value);
    if (found) return found;
    throw new Fault('marker.color', `${JSON.stringify(value)} is not a CSS color`, 'Write a color such as "#d98a2b".');
  };
  return { at: readPlace(options.at, space), color: read(color), ink: read(ink), size };
}

/** A marker's picture that could not be had. */
export const missingImage = (address: string): Fault =>
  new Fault(
    'marker.image',
    `the image of a marker failed to load: ${address.length > 120 ? `${address.slice(0, 120)}…` : address}`,
    'Check its address; a placeholder is drawn instead.',
  );

/** Reach of a marker's box to either side of its place, above and below it, in CSS pixels. */
export interface Extent {
  readonly half: number;
  readonly above: number;
  readonly below: number;
}

/** How far a marker reaches. */
export function extentOf({ options, size, shown }: HeldMarker): Extent {
  if (options.words !== undefined) {
    // Letters are about half as wide as they are high; turned words take the room of both ways.
    const lines = options.words.split('\n');
    const width = Math.max(...lines.map(({ length }) => length)) * size * 0.56;
    const height = lines.length * size * 1.2;
    const turn = ((options.rotation ?? 0) * Math.PI) / 180;
    const [c, s] = [Math.abs(Math.cos(turn)), Math.abs(Math.sin(turn))];
    const [half, rise] = [(width * c + height * s) / 2, (width * s + height * c) / 2];
    return { half, above: rise, below: rise };
  }
  const middle = (options.anchor ?? (options.shape ? 'center' : 'bottom')) === 'center';
  const width = shown ? shown.box.offsetWidth || size : size * (options.shape ? 0.9 : 0.72);
  const height = shown ? shown.box.offsetHeight || size : size;
  return { half: width / 2, above: middle ? height / 2 : height, below: middle ? height / 2 : 0 };
}
