import type { Pad, Place, Sheet, ViewChange, ViewLimits } from '@flintwright/core';
import type { MoveOptions } from './view-animation.js';
import type { RequestHook } from '../load/request.js';
import type { Words } from '../overlay/strings.js';

export interface MapOptions {
  /** The sheet, or its address. Without one the map starts with an empty sheet. */
  readonly sheet?: Sheet | string;
  /** Where to start; takes the place of the sheet's own view, key by key. */
  readonly view?: ViewChange;
  readonly limits?: Partial<ViewLimits>;
  /** `smooth` (the default), or `whole` to rest only at whole zoom levels. */
  readonly levels?: 'smooth' | 'whole';
  /** Adds a key or headers to requests. */
  readonly request?: RequestHook;
  /** Archives handed over as `File` or `Blob`, by the name of their data entry. */
  readonly files?: Readonly<Record<string, Blob>>;
  /** Icons of the application: SVG path data on a grid of 24 units, by name. */
  readonly icons?: Readonly<Record<string, string>>;
  /** Address of `flintwright/worker`, for pages whose content security policy forbids blob workers. */
  readonly worker?: string | URL;
  /** `light` (the default) or `dark`: the look of cards and notices. */
  readonly look?: 'light' | 'dark';
  /** Whether faults are also shown on the map; default true. */
  readonly notices?: boolean;
  /** How much the browser is to read out for the map; default "Map". */
  readonly title?: string;
  /** Texts of the interface in place of the English ones. */
  readonly words?: Partial<Words>;
  /** Whether the address of the page keeps the view behind `#`, and the map begins with what stands there; default false. */
  readonly hash?: boolean;
}

/** What the map is to show: features, bounds, a list of places, or a layer by its id. */
export type FrameTarget =
  string | readonly Place[] | { readonly bounds: readonly [number, number, number, number] } | object;

export interface FrameOptions extends MoveOptions {
  /** Room to leave free beside what controls and panels named with `map.keepClear` take, in CSS pixels; default 40. */
  readonly pad?: Pad;
  /** Greatest zoom; default 18. */
  readonly zoom?: number;
}
