import { Fault, type CompiledSheet, type Surface, type View, type ViewLimits } from '@flintwright/core';
import type { Camera, Size } from '@flintwright/core/internal';
import type { FeatureFilters } from './feature-filters.js';
import type { FeatureStates } from './feature-states.js';
import type { Icons } from './icons.js';
import type { SheetParts } from './sheet-parts.js';
import type { Strings } from './strings.js';

export type Box = readonly [left: number, top: number, right: number, bottom: number];

/** All that a map shows follows from this. Readonly: a change makes a new one. */
export interface MapState {
  readonly view: View;
  /** The first view, to which `home` leads. */
  readonly home: View;
  readonly limits: ViewLimits;
  readonly size: Size;
  /** Device pixels in a CSS pixel. */
  readonly ratio: number;
  readonly parts: SheetParts;
  readonly sheet: CompiledSheet;
  readonly surface: Surface;
}

/** The context that every part of a map works with. */
export interface MapContext {
  /** The element of the page that holds the map. */
  readonly host: HTMLElement;
  readonly canvas: HTMLCanvasElement;
  /** The element that popups and elements of markers stand in. */
  readonly overlay: HTMLElement;
  /** Boxes of the panels on the map, in CSS pixels from its upper left corner. */
  readonly panelBoxes: readonly Box[];
  /** The boxes among them that a fitted view keeps clear of. */
  readonly fitBoxes: readonly Box[];
  readonly strings: Strings;
  /** Icons and shapes. */
  readonly icons: Icons;
  readonly state: MapState;
  readonly camera: Camera;
  /** States of features. */
  readonly states: FeatureStates;
  /** The application's own tests of what layers show. */
  readonly filters: FeatureFilters;
  /** Whether people ask for less motion. */
  readonly reducedMotion: boolean;
  /** Whether the map has been taken off the page. */
  readonly removed: boolean;
  /** Number of an icon or shape; undefined for none. */
  sprite(name: string): number | undefined;
  /** Attribute that tells the features of a data entry apart, as the sheet names it. */
  idName(data: string): string | undefined;
  /** Changes the state. @throws Fault `map.circle` where handlers answer every change by another */
  update(change: Partial<MapState>): void;
  /**
   * Asks for a frame.
   *
   * @param what `ground` where anything of the ground may differ, `overlay` where only what lies over it does
   * @param labels whether labels are to be placed anew; default false
   */
  invalidate(what: 'ground' | 'overlay', labels?: boolean): void;
  /** Tells of a fault at once: an event and, where nobody prevents it, the console and a notice on the map. */
  report(fault: Fault): void;
  /** Tells of a fault when the present call has returned, so that whoever made the map can listen. */
  reportLater(fault: Fault): void;
  /** Counts something that is on its way, until what it returns is called. */
  begin(): () => void;
}

/** Refuses a call on a map that was removed. @throws Fault `map.removed` */
export function requireAlive({ removed }: Pick<MapContext, 'removed'>): void {
  if (removed) throw new Fault('map.removed', 'the map was removed', 'Make a new one with createMap.');
}
