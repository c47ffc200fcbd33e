// Room "element": `<flint-map>` and its children, their attributes and properties.
import { Fault, type Sheet, type ViewChange } from '@flintwright/core';
import type { Corner } from '../base/check-options.js';
import { hasPage } from '../base/page.js';
import type { Removable } from '../base/removable.js';
import { Drawer } from '../controls/drawer.js';
import { Rail } from '../controls/rail.js';
import { ScaleBar, type Units } from '../controls/scale-bar.js';
import type { MapEvents, MapListener } from '../map/events.js';
import { createMap, type FlintMap } from '../map/map.js';
import type { ColorScheme } from '../overlay/map-elements.js';
import { adoptProperties, ElementBase, numbers, propertyOf, reflect } from './attributes.js';
import { FlintLayerElement, FlintMarkerElement, FlintPopupElement, MapChild } from './children.js';

export { FlintLayerElement, FlintMarkerElement, FlintPopupElement } from './children.js';

// `pointerenter` and `pointerleave` of the map have names of the platform's; they are told by `map` alone.
const events = [
  'press',
  'dblpress',
  'contextmenu',
  'viewchange',
  'settled',
  'fault',
  'selectionchange',
  'sheetchange',
  'datachange',
] as const;
/** Attributes that are properties too. */
const reflected = [
  'center',
  'zoom',
  'bearing',
  'tilt',
  'color-scheme',
  'surface',
  'controls',
  'units',
  'permalink',
] as const;
const schemes = ['light', 'dark', 'auto'] as const;

/**
 * A map as an element: `<flint-map sheet="reach.sheet.json" center="-31.18, 44.62" zoom="12" controls="rail scale drawer">`. Attributes:
 * `sheet` (a URL), `center`, `zoom`, `bearing`, `tilt`, `surface`, `color-scheme`, `title`, `units`, `permalink`, `controls`; all except
 * `sheet` and `title` are also properties. The properties `sheet` and `view` accept and return objects; `map` is the map itself. The
 * element dispatches the events of the map. Children: `<flint-marker>`, `<flint-popup>` and `<flint-layer>`.
 */
// oxlint-disable-next-line typescript/no-unsafe-declaration-merging -- see the interface
export class FlintMapElement extends ElementBase {
  // What is remembered in the address is read once, when the map is made.
  static readonly observedAttributes = ['sheet', ...reflected.filter((name) => name !== 'permalink')];
  declare center: string | null;
  declare zoom: string | number | null;
  declare bearing: string | number | null;
  declare tilt: string | number | null;
  declare colorScheme: string | null;
  declare surface: string | null;
  declare controls: string | null;
  declare units: string | null;
  declare permalink: string | boolean | null;
  private made: FlintMap | undefined;
  private given: Sheet | string | undefined;
  private watcher: MutationObserver | undefined;
  /** View that was set before there was a map. */
  private viewAhead: ViewChange | undefined;
  private readonly shown: Removable[] = [];

  /** The map; undefined while the element is not connected. */
  get map(): FlintMap | undefined {
    return this.made;
  }

  get sheet(): Sheet | string | undefined {
    return this.made?.sheet ?? this.given;
  }

  set sheet(sheet: Sheet | string | undefined) {
    this.given = sheet;
    if (typeof sheet === 'object' && this.made) this.made.setSheet(sheet);
    else if (this.isConnected) this.remake();
  }

  get view(): ViewChange {
    return this.made?.view ?? this.viewGiven();
  }

  set view(view: ViewChange) {
    if (this.made) void this.made.move(view);
    else this.viewAhead = { ...this.viewAhead, ...view };
  }

  connectedCallback(): void {
    // Where there is no page to draw on, the element stays empty, so that what is around it can be rendered or tested.
    if (this.made || !hasPage()) return;
    adoptProperties(this, [...reflected.map(propertyOf), 'sheet', 'view']);
    const root = this.shadowRoot ?? this.attachShadow({ mode: 'open' });
    const host = document.createElement('div');
    host.part.add('map');
    const fit = new CSSStyleSheet();
    fit.replaceSync(
      ':host { display: block; position: relative; min-height: 120px; } div[part=map] { position: absolute; inset: 0; }',
    );
    root.adoptedStyleSheets = [fit];
    root.replaceChildren(host);
    const sheet = this.given ?? this.getAttribute('sheet') ?? undefined;
    this.made = createMap(host, {
      ...(sheet === undefined ? {} : { sheet }),
      view: this.viewGiven(),
      colorScheme: this.scheme,
      permalink: this.hasAttribute('permalink'),
      ...(this.title ? { title: this.title } : {}),
    });
    for (const type of events)
      this.made.addEventListener(type, (event) => {
        const { detail } = event as CustomEvent<unknown>;
        const passed = this.dispatchEvent(
          new CustomEvent(type, { detail, cancelable: true, bubbles: true, composed: true }),
        );
        if (!passed) event.preventDefault();
      });
    const surface = this.getAttribute('surface');
    // A sheet that is fetched has to be there first.
    if (surface !== null) void this.made.settled().then(() => this.lay(surface));
    this.addControls(this.made);
    this.adopt();
    this.watcher = new MutationObserver(() => this.adopt());
    this.watcher.observe(this, { childList: true });
  }

  /** Adds the controls that the attribute lists, each with a corner where it names one: `rail scale:top-left`. */
  private addControls(map: FlintMap): void {
    for (const control of this.shown.splice(0)) control.remove();
    for (const word of (this.getAttribute('controls') ?? '').split(/\s+/).filter(Boolean)) {
      const [name, corner] = word.split(':');
      const position = corner as Corner | undefined;
      if (name === 'rail') this.shown.push(new Rail(map, { position }));
      else if (name === 'drawer') this.shown.push(new Drawer(map, { position }));
      else if (name === 'scale') {
        const units = (this.getAttribute('units') ?? 'metric') as Units;
        this.shown.push(new ScaleBar(map, { position, units }));
      } else
        throw new Fault(
          'element.controls',
          `expected controls in "controls" of <flint-map>, got "${word}"`,
          'Write rail, drawer or scale, each with a corner where needed: controls="rail scale:top-left".',
        );
    }
  }

  disconnectedCallback(): void {
    this.watcher?.disconnect();
    if (!this.made) return;
    this.made.remove();
    this.made = undefined;
    this.shown.length = 0;
  }

  attributeChangedCallback(name: string, before: string | null, after: string | null): void {
    const { made } = this;
    if (!made || before === after) return;
    if (name === 'sheet') this.remake();
    else if (name === 'surface') this.lay(after);
    else if (name === 'color-scheme') made.colorScheme = this.scheme;
    else if (name === 'controls' || name === 'units') this.addControls(made);
    else void made.move(this.viewGiven(), { duration: 400 });
  }

  /** Draws the map on another surface than its sheet's. */
  private lay(surface: string | null): void {
    const { made } = this;
    if (!made) return;
    made.setSurface(surface ?? 'EPSG:3857').catch((error: unknown) => {
      if (error instanceof Fault) made.report(error);
      else throw error;
    });
  }

  /** @throws Fault `element.scheme` */
  private get scheme(): ColorScheme {
    const text = this.getAttribute('color-scheme') ?? 'light';
    const scheme = schemes.find((one) => one === text);
    if (scheme) return scheme;
    throw new Fault('element.scheme', `color-scheme="${text}" is not a color scheme`, 'Write light, dark or auto.');
  }

  private remake(): void {
    this.disconnectedCallback();
    this.connectedCallback();
  }

  private viewGiven(): ViewChange {
    const center = numbers(this, 'center', 2);
    const one = (name: string) => numbers(this, name, 1)?.[0];
    const [zoom, bearing, tilt] = [one('zoom'), one('bearing'), one('tilt')];
    return {
      ...this.viewAhead,
      ...(center ? { center } : {}),
      ...(zoom === undefined ? {} : { zoom }),
      ...(bearing === undefined ? {} : { bearing }),
      ...(tilt === undefined ? {} : { tilt }),
    };
  }

  /** Takes in children that came since. */
  private adopt(): void {
    for (const child of this.children) if (child instanceof MapChild) child.join(this.made!);
  }
}

/** Events of a map, and those that any element has. */
type ElementEvents = Omit<HTMLElementEventMap, keyof MapEvents> & MapEvents;

/** An element with typed events. A misspelt event name does not compile. */
// oxlint-disable-next-line typescript/no-unsafe-declaration-merging -- the platform's two methods, with the map's events
export interface FlintMapElement {
  addEventListener<K extends keyof MapEvents>(
    type: K,
    listener: MapListener<K> | null,
    options?: boolean | AddEventListenerOptions,
  ): void;
  addEventListener<K extends keyof HTMLElementEventMap>(
    type: K,
    listener: (event: ElementEvents[K]) => void,
    options?: boolean | AddEventListenerOptions,
  ): void;
  removeEventListener<K extends keyof MapEvents>(
    type: K,
    listener: MapListener<K> | null,
    options?: boolean | EventListenerOptions,
  ): void;
  removeEventListener<K extends keyof HTMLElementEventMap>(
    type: K,
    listener: (event: ElementEvents[K]) => void,
    options?: boolean | EventListenerOptions,
  ): void;
}

declare global {
  interface HTMLElementTagNameMap {
    'flint-map': FlintMapElement;
    'flint-marker': FlintMarkerElement;
    'flint-layer': FlintLayerElement;
    'flint-popup': FlintPopupElement;
  }
}

type Text = string | number | boolean | null | undefined;

/** Attributes and properties of the elements, for typed templates; see `flintwright/jsx`. */
export interface FlintElements {
  'flint-map': FlintAttributes<
    FlintMapElement,
    'center' | 'zoom' | 'bearing' | 'tilt' | 'color-scheme' | 'surface' | 'controls' | 'units' | 'permalink'
  > & { sheet?: string | Sheet | undefined };
  'flint-marker': FlintAttributes<
    FlintMarkerElement,
    'at' | 'icon' | 'text' | 'color' | 'ink' | 'size' | 'image' | 'draggable'
  >;
  'flint-popup': FlintAttributes<FlintPopupElement, 'at'>;
  'flint-layer': FlintAttributes<FlintLayerElement, never>;
}

/** Attributes of an element in JSX: its own, and those of every element. */
export type FlintAttributes<E, Name extends string> = { readonly [K in Name]?: Text } & {
  readonly id?: string;
  readonly class?: string;
  readonly className?: string;
  readonly title?: string;
  readonly slot?: string;
  readonly style?: unknown;
  readonly children?: unknown;
  readonly key?: string | number | null;
  readonly ref?: unknown;
  /** Properties that a framework names differently, such as event handlers. */
  readonly [handler: `on${string}`]: ((event: CustomEvent & { currentTarget: E }) => void) | undefined;
};

reflect(FlintMapElement.prototype, reflected);

// A second copy of the library on a page leaves the first one's elements as they are.
// On a server there are no elements, and the import does nothing.
for (const [name, element] of [
  ['flint-marker', FlintMarkerElement],
  ['flint-layer', FlintLayerElement],
  ['flint-popup', FlintPopupElement],
  ['flint-map', FlintMapElement],
] as const)
  if (typeof customElements !== 'undefined' && !customElements.get(name)) customElements.define(name, element);
