import type { Padding, Place, Sheet, ViewChange, ViewLimits } from '@flintwright/core';
import type { IconSource } from '../base/icons.js';
import type { Strings } from '../base/strings.js';
import type { RequestHook } from '../load/request.js';
import type { ColorScheme } from '../overlay/map-elements.js';
import type { MoveOptions } from './view-animation.js';

/** Options of `createMap`. All may be left out. */
export interface MapOptions {
  /** The sheet, or its address. Without one the map starts with an empty sheet. */
  readonly sheet?: Sheet | string;
  /** Where to start; takes the place of the sheet's own view, key by key. */
  readonly view?: ViewChange;
  /** Limits of the view; take the place of the sheet's own, key by key. */
  readonly limits?: Partial<ViewLimits>;
  /** `smooth` (the default), or `whole` to rest only at whole zoom levels. */
  readonly levels?: 'smooth' | 'whole';
  /**
   * Whose the wheel and a finger are: the `map`'s (the default), or `shared` with the page. Shared, the page scrolls by them; the wheel
   * zooms with Ctrl or ⌘ held, two fingers move the map, and a short hint says so.
   */
  readonly scroll?: 'map' | 'shared';
  /** Adds a key or headers to requests. */
  readonly request?: RequestHook;
  /** Archives handed over as `File` or `Blob`, by the name of their data entry. */
  readonly files?: Readonly<Record<string, Blob>>;
  /**
   * Icons of the application by name, for layers, clusters and markers alike: SVG path data on a grid of 24 units, the text of an SVG
   * document, the address of an SVG or a picture, or an `ImageBitmap`. Path data take the color of their symbol, all else keeps its own;
   * `{ source, tinted }` says otherwise.
   */
  readonly icons?: Readonly<Record<string, IconSource>>;
  /**
   * Memory in MiB that the tiles of one data entry may hold, on the graphics card and beside it; default 256. Those out of view are let go
   * of beyond it, the longest unused first.
   */
  readonly tileMemory?: number;
  /** Address of `flintwright/worker`, for pages whose content security policy forbids blob workers. */
  readonly worker?: string | URL;
  /** Light or dark cards and controls; `auto` follows what people have set in their system. Default `light`. */
  readonly colorScheme?: ColorScheme;
  /** Whether faults are also shown on the map; default true. */
  readonly notices?: boolean;
  /** The name of the map when it is read out; default the title of the sheet, or "Map". */
  readonly title?: string;
  /** Texts of the interface in place of the English ones. */
  readonly strings?: Partial<Strings>;
  /** Whether the address of the page keeps the view behind `#`, and the map begins with what stands there; default false. */
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

/** Targets of a frame: a layer by its id, a list of places, bounds (`[west, south, east, north]`, plain or under their name), or GeoJSON. */
export type FrameTarget =
  | string
  | readonly Place[]
  | readonly [number, number, number, number]
  | BoundsTarget
  | GeoJsonTarget;

/** How something is framed. */
export interface FrameOptions extends MoveOptions {
  /** Room to leave free beside what controls and panels named with `map.keepClear` take, in CSS pixels; default 40. */
  readonly padding?: Padding;
  /** Greatest zoom; default 18. */
  readonly zoom?: number;
}

/** How one look of the map fades into another. */
export interface FadeOptions {
  /** Milliseconds of the fade; default 300, and 0 for people who ask for less motion. */
  readonly duration?: number;
}

/** How a sheet is put in force. */
export interface SheetOptions extends FadeOptions {
  /** Whether the sheet is all there is: what was added and changed at run time goes, as it stands in the sheet; default false. */
  readonly whole?: boolean;
}
