import { Fault } from '@flintwright/core';
import type { FlintMap } from '../map/map.js';
import type { Marker } from '../markers/markers.js';
import type { Popup } from '../overlay/popup.js';
import { adoptProperties, ElementBase, numbers, reflect } from './attributes.js';

/** A child of a map element. */
export abstract class MapChild extends ElementBase {
  static readonly observedAttributes: readonly string[] = [];
  protected made: FlintMap | undefined;

  join(map: FlintMap): void {
    if (this.made === map) return;
    adoptProperties(this, (this.constructor as typeof MapChild).observedAttributes);
    this.made = map;
    this.show(map);
  }

  connectedCallback(): void {
    // A map that was upgraded before its children does not know them yet. Attributes may be set in the same task.
    queueMicrotask(() => {
      const { map } = (this.parentElement ?? {}) as { readonly map?: FlintMap };
      if (map && this.isConnected) this.join(map);
    });
  }

  disconnectedCallback(): void {
    const { made } = this;
    this.made = undefined;
    // A map that has been removed has let go of everything itself.
    if (made && this.isOn(made)) this.hide(made);
  }

  protected abstract show(map: FlintMap): void;
  protected abstract hide(map: FlintMap): void;
  protected isOn(map: FlintMap): boolean {
    return map.host.isConnected;
  }
}

/** Events of a marker that its element tells of. */
const pointed = ['press', 'dblpress', 'contextmenu', 'pointerenter', 'pointerleave'] as const;

/**
 * `<flint-marker at="-31.18, 44.62" icon="anchor" color="#b8452f" title="Hallow Quay">HTML of the popup</flint-marker>`. With `draggable`
 * people can move it; `markermove` events then contain its position (`detail.at`, `detail.done`). `press`, `dblpress`, `contextmenu`,
 * `pointerenter` and `pointerleave` are dispatched as for a marker of `map.markers`.
 */
export class FlintMarkerElement extends MapChild {
  static override readonly observedAttributes = [
    'at',
    'icon',
    'text',
    'color',
    'ink',
    'size',
    'image',
    'title',
    'draggable',
  ];
  declare at: string | null;
  declare icon: string | null;
  declare text: string | null;
  declare color: string | null;
  declare ink: string | null;
  declare size: string | number | null;
  declare image: string | null;
  private marker: Marker | undefined;
  private inner: MutationObserver | undefined;

  /** The marker on the map; undefined while the element is not inside a map. */
  get onMap(): Marker | undefined {
    return this.marker;
  }

  attributeChangedCallback(): void {
    if (this.marker && !this.moving) this.marker.change(this.options());
  }

  private moving = false;

  protected show(map: FlintMap): void {
    const marker = map.markers.add(this.options());
    this.marker = marker;
    for (const type of pointed)
      marker.addEventListener(type, (event) => {
        const { detail } = event;
        if (!this.dispatchEvent(new CustomEvent(type, { detail, cancelable: true }))) event.preventDefault();
      });
    // What is written within is the popup; it may change.
    this.inner = new MutationObserver(() => this.marker?.change({ popup: this.options().popup }));
    this.inner.observe(this, { childList: true, characterData: true, attributes: true, subtree: true });
  }

  override disconnectedCallback(): void {
    this.inner?.disconnect();
    super.disconnectedCallback();
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

/** `<flint-popup at="-31.18, 44.62" title="Hallow Quay">HTML of the popup</flint-popup>`: open while the element is connected. */
export class FlintPopupElement extends MapChild {
  static override readonly observedAttributes = ['at'];
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
    this.popup?.remove();
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

reflect(FlintMarkerElement.prototype, ['at', 'icon', 'text', 'color', 'ink', 'size', 'image']);
reflect(FlintPopupElement.prototype, ['at']);
