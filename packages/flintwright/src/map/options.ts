import type { Padding, Place, Sheet, ViewChange, ViewLimits } from '@flintwright/core';
import type { IconSource } from '../base/icons.js';
import type { Strings } from '../base/strings.js';
import type { RequestHook } from '../load/request.js';
import type { ColorScheme } from '../overlay/map-elements.js';
import type { MoveOptions } from './view-animation.js';

/** Options of `createMap`. All are optional. */
export interface MapOptions {
  /** The sheet, or its URL; default an empty sheet. */
  readonly sheet?: Sheet | string;
  /** Initial view; overrides the sheet's `view` key by key. */
  readonly view?: ViewChange;
  /** Limits of the view; override those of the sheet key by key. */
  readonly limits?: Partial<ViewLimits>;
  /** `smooth` (the default), or `whole` to rest only at integer zoom levels. */
  readonly levels?: 'smooth' | 'whole';
  /**
   * What the wheel and one finger do: move the `map` (the default), or scroll the page (`shared`). If shared, the wheel zooms with Ctrl or
   * ⌘ held, two fingers move the map, and a short hint explains it.
   */
  readonly scroll?: 'map' | 'shared';
  /** Called before each request, to add a key or headers. */
  readonly request?: RequestHook;
  /** Archives as `File` or `Blob`, by the name of their data entry. */
  readonly files?: Readonly<Record<string, Blob>>;
  /**
   * Icons of the application by name, for layers, clusters and markers: SVG path data on a grid of 24 units, the text of an SVG document,
   * the URL of an SVG or a picture, or an `ImageBitmap`. Path data take the color of their symbol; all others keep their own colors, unless
   * `{ source, tinted }` sets it.
   */
  readonly icons?: Readonly<Record<string, IconSource>>;
  /**
   * Memory limit in MiB for the tiles of one data entry, on the graphics card and in main memory; default 256. Beyond it, tiles out of view
   * are released, least recently used first.
   */
  readonly tileMemory?: number;
  /** URL of `flintwright/worker`, for pages whose content security policy forbids blob workers. */
  readonly worker?: string | URL;
  /** Color scheme of controls and popups: `light` (the default), `dark`, or `auto` for the setting of the reader's system. */
  readonly colorScheme?: ColorScheme;
  /** Whether faults are also shown as notices on the map; default true. */
  readonly notices?: boolean;
  /** Accessible name of the map; default the title of the sheet, or "Map". */
  readonly title?: string;
  /** Texts to replace the English ones. */
  readonly strings?: Partial<Strings>;
  /** Whether the fragment (`#…`) of the page's URL stores the view, which the map then starts with; default false. */
  readonly permalink?: boolean;
}

/** `[west, south, east, north]` in degrees, or in the meters of a plan. */
export interface BoundsTarget {
  readonly bounds: readonly [number, number, number, number];
}

/** A GeoJSON object (RFC 7946): a geometry, a feature, a picked feature, or a collection. */
export interface GeoJsonTarget {
  readonly type: string;
}

/** Target of `map.frame`: the id of a layer, a list of places, bounds (`[west, south, east, north]`, as an array or named), or GeoJSON. */
export type FrameTarget =
  | string
  | readonly Place[]
  | readonly [number, number, number, number]
  | BoundsTarget
  | GeoJsonTarget;

/** Options of `map.frame`. */
export interface FrameOptions extends MoveOptions {
  /** Free space in CSS pixels, beside controls and panels given to `map.keepClear`; default 40. */
  readonly padding?: Padding;
  /** Maximum zoom; default 18. */
  readonly zoom?: number;
}

/** Options of a fade between two appearances of the map. */
export interface FadeOptions {
  /** Duration of the fade in milliseconds; default 300, and 0 if the reader prefers reduced motion. */
  readonly duration?: number;
}

/** Options of `map.setSheet`. */
export interface SheetOptions extends FadeOptions {
  /** Whether changes made at run time are discarded, so that only the sheet is in effect; default false. */
  readonly whole?: boolean;
}
