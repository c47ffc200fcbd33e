import { Fault, type Sheet, type ViewChange } from '@flintwright/core';
import { createMap, type FlintMap } from '../map/map.js';
import { Drawer } from '../controls/drawer.js';
import { ScaleBar, type Units } from '../controls/scale-bar.js';
import type { Marker } from '../markers/markers.js';
import type { Popup } from '../overlay/popup.js';
import { Rail } from '../controls/rail.js';

const events = ['press', 'viewchange', 'settled', 'fault', 'selectionchange', 'sheetchange', 'datachange'] as const;

/** Gives an element properties that stand for its attributes, both ways. */
function reflect(prototype: object, names: readonly string[]): void {
  for (const name of names)
    Object.defineProperty(prototype, name, {
      configurable: true,
      enumerable: true,
      get(this: HTMLElement) {
        return this.getAttribute(name);
      },
      set(this: HTMLElement, value: unknown) {
        if (value === null || value === undefined || value === false) this.removeAttribute(name);
        else this.setAttribute(name, value === true ? '' : String(value));
      },
    });
}

/** Numbers of an attribute such as `-31.18, 44.62`. */
function numbers(element: Element, name: string, count: number): number[] | undefined {
  const text = element.getAttribute(name);
  if (text === null) return undefined;
  const list = text
    .split(/[\s,]+/)
    .filter(Boolean)
    .map(Number);
  if (list.length !== count || list.some(Number.isNaN))
    throw new Fault(
      'element.numbers',
      `${name}="${text}" of <${element.localName}> is no ${count === 1 ? 'number' : `list of ${count} numbers`}`,
      count === 2 ? 'Write longitude and latitude, as in at="-31.18, 44.62".' : 'Write a number.',
    );
  return list;
}

/**
 * A map as an element: `<flint-map sheet="reach.sheet.json" center="-31.18, 44.62" zoom="12" controls="rail scale drawer">`.
 *
 * Attributes: `sheet` (an address), `center`, `zoom`, `bearing`, `tilt`, `surface`, `look`, `title`, `units`, `hash`, `controls`; all but the
 * first and `title` are properties too. The properties `sheet` and `view` take and give objects, `map` is the map itself. Events of
 * the map are events of the element. Children: `<flint-marker>`, `<flint-popup>` and `<flint-layer>`.
 */
export class FlintMapElement extends HTMLElement {
  static readonly observedAttributes = ['sheet', 'center', 'zoom', 'bearing', 'tilt', 'look', 'surface'];
  declare center: string | null;
  declare zoom: string | number | null;
  declare bearing: string | number | null;
  declare tilt: string | number | null;
  declare look: string | null;
  declare surface: string | null;
  declare controls: string | null;
  declare units: string | null;
  declare hash: string | boolean | null;
  private made: FlintMap | undefined;
  private given: Sheet | string | undefined;
  private watcher: MutationObserver | undefined;

  /** The map; undefined while the element is not on a page. */
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
    void this.made?.move(view);
  }

  connectedCallback(): void {
    if (this.made) return;
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
      look: this.getAttribute('look') === 'dark' ? 'dark' : 'light',
      hash: this.hasAttribute('hash'),
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
    const wanted = (this.getAttribute('controls') ?? '').split(/\s+/);
    if (wanted.includes('rail')) new Rail(this.made);
    if (wanted.includes('drawer')) new Drawer(this.made);
    if (wanted.includes('scale')) new ScaleBar(this.made, { units: (this.getAttribute('units') ?? 'metric') as Units });
    this.adopt();
    this.watcher = new MutationObserver(() => this.adopt());
    this.watcher.observe(this, { childList: true });
  }

  disconnectedCallback(): void {
    this.watcher?.disconnect();
    this.made?.destroy();
    this.made = undefined;
  }

  attributeChangedCallback(name: string, before: string | null, after: string | null): void {
    const { made } = this;
    if (!made || before === after) return;
    if (name === 'sheet') this.remake();
    else if (name === 'surface') this.lay(after);
    else if (name === 'look') made.host.dataset['look'] = after === 'dark' ? 'dark' : 'light';
    else void made.move(this.viewGiven(), { over: 400 });
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

  private remake(): void {
    this.disconnectedCallback();
    this.connectedCallback();
  }

  private viewGiven(): ViewChange {
    const center = numbers(this, 'center', 2);
    const one = (name: string) => numbers(this, name, 1)?.[0];
    const [zoom, bearing, tilt] = [one('zoom'), one('bearing'), one('tilt')];
    return {
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

/** What stands inside a map element. */
abstract class MapChild extends HTMLElement {
  protected made: FlintMap | undefined;

  join(map: FlintMap): void {
    if (this.made === map) return;
    this.made = map;
    this.show(map);
  }

  disconnectedCallback(): void {
    const { made } = this;
    this.made = undefined;
    // A map that has been destroyed has let go of everything itself.
    if (made && this.isOn(made)) this.hide(made);
  }

  protected abstract show(map: FlintMap): void;
  protected abstract hide(map: FlintMap): void;
  protected isOn(map: FlintMap): boolean {
    return map.host.isConnected;
  }
}

/**
 * `<flint-marker at="-31.18, 44.62" icon="anchor" color="#b8452f" title="Hallow Quay">HTML of the popup</flint-marker>`. With
 * `draggable` people can move it; `markermove` events then tell where it is (`detail.at`, `detail.done`).
 */
export class FlintMarkerElement extends MapChild {
  static readonly observedAttributes = ['at', 'icon', 'text', 'color', 'ink', 'size', 'image', 'title', 'draggable'];
  declare at: string | null;
  declare icon: string | null;
  declare text: string | null;
  declare color: string | null;
  declare ink: string | null;
  declare size: string | number | null;
  declare image: string | null;
  private marker: Marker | undefined;

  /** The marker on the map; undefined while the element is not in one. */
  get onMap(): Marker | undefined {
    return this.marker;
  }

  attributeChangedCallback(): void {
    if (this.marker && !this.moving) this.marker.change(this.options());
  }

  private moving = false;

  protected show(map: FlintMap): void {
    this.marker = map.markers.add(this.options());
  }

  protected hide(): void {
    this.marker?.remove();
    this.marker = undefined;
  }

  private options() {
    const at = numbers(this, 'at', 2);
    if (!at) throw new Fault('element.at', 'a <flint-marker> has no "at"', 'Write at="longitude, latitude".');
    const texts = Object.fromEntries(
      ['icon', 'text', 'color', 'ink', 'image'].flatMap((name) => {
        const value = this.getAttribute(name);
        return value === null ? [] : [[name, value]];
      }),
    );
    const size = numbers(this, 'size', 1)?.[0];
    const html = this.innerHTML.trim();
    return {
      at,
      ...texts,
      ...(size === undefined ? {} : { size }),
      ...(this.title ? { title: this.title } : {}),
      draggable: this.hasAttribute('draggable') && this.getAttribute('draggable') !== 'false',
      onMove: (to: readonly [number, number], done: boolean) => {
        this.moving = true;
        this.setAttribute('at', to.map((v) => v.toFixed(7)).join(', '));
        this.moving = false;
        this.dispatchEvent(new CustomEvent('markermove', { detail: { at: to, done }, bubbles: true, composed: true }));
      },
      ...(this.title || html
        ? { popup: { ...(this.title ? { title: this.title } : {}), ...(html ? { html } : {}) } }
        : {}),
    };
  }
}

/** `<flint-popup at="-31.18, 44.62" title="Hallow Quay">HTML of the popup</flint-popup>`: open for as long as the element is there. */
export class FlintPopupElement extends MapChild {
  static readonly observedAttributes = ['at'];
  declare at: string | null;
  private popup: Popup | undefined;

  attributeChangedCallback(): void {
    const at = this.popup && numbers(this, 'at', 2);
    if (at) this.popup!.move(at);
  }

  protected show(map: FlintMap): void {
    const at = numbers(this, 'at', 2);
    if (!at) throw new Fault('element.at', 'a <flint-popup> has no "at"', 'Write at="longitude, latitude".');
    const html = this.innerHTML.trim();
    this.popup = map.popup({
      at,
      stays: true,
      focus: false,
      ...(this.title ? { title: this.title } : {}),
      ...(html ? { html } : {}),
      // Closed by hand, the element goes too, so that the page says what is on the map.
      onClose: () => this.remove(),
    });
  }

  protected hide(): void {
    this.popup?.close();
    this.popup = undefined;
  }
}

/** `<flint-layer>` with the layer as JSON inside, as `map.layers.add` takes it. */
export class FlintLayerElement extends MapChild {
  private layer: string | undefined;

  protected show(map: FlintMap): void {
    let spec: Parameters<FlintMap['layers']['add']>[0];
    try {
      spec = JSON.parse(this.textContent) as typeof spec;
    } catch (error) {
      map.report(
        new Fault(
          'element.layer',
          `the text of a <flint-layer> is not JSON: ${(error as Error).message}`,
          'Write the layer as JSON.',
          undefined,
          error,
        ),
      );
      return;
    }
    map.layers.add(spec);
    this.layer = spec.id;
  }

  protected hide(map: FlintMap): void {
    if (this.layer !== undefined && map.layers.find(this.layer)) map.layers.remove(this.layer);
    this.layer = undefined;
  }
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
    'center' | 'zoom' | 'bearing' | 'tilt' | 'look' | 'surface' | 'controls' | 'units' | 'hash'
  > & { sheet?: string | Sheet | undefined };
  'flint-marker': FlintAttributes<
    FlintMarkerElement,
    'at' | 'icon' | 'text' | 'color' | 'ink' | 'size' | 'image' | 'draggable'
  >;
  'flint-popup': FlintAttributes<FlintPopupElement, 'at'>;
  'flint-layer': FlintAttributes<FlintLayerElement, never>;
}

/** What every element of the library takes: its own attributes, and those that any element has. */
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
  /** Whatever a framework passes an element by other names, such as its handlers of events. */
  readonly [handler: `on${string}`]: ((event: CustomEvent & { currentTarget: E }) => void) | undefined;
};

reflect(FlintMapElement.prototype, [
  'center',
  'zoom',
  'bearing',
  'tilt',
  'look',
  'surface',
  'controls',
  'units',
  'hash',
]);
reflect(FlintMarkerElement.prototype, ['at', 'icon', 'text', 'color', 'ink', 'size', 'image']);
reflect(FlintPopupElement.prototype, ['at']);

// A second copy of the library on a page leaves the first one's elements as they are.
for (const [name, element] of [
  ['flint-marker', FlintMarkerElement],
  ['flint-layer', FlintLayerElement],
  ['flint-popup', FlintPopupElement],
  ['flint-map', FlintMapElement],
] as const)
  if (!customElements.get(name)) customElements.define(name, element);
