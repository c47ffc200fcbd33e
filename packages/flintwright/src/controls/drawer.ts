import { checkOptions, type Corner, type OptionTable } from '../base/check-options.js';
import type { SheetLayer } from '@flintwright/core';
import type { FlintMap } from '../map/map.js';
import { Control } from './control.js';
import { makeElement } from '../overlay/dom.js';
import type { Legend } from '../overlay/legend.js';

export interface DrawerOptions {
  readonly title?: string;
  /** Ids of the layers to list; default those with a title, topmost first. */
  readonly layers?: readonly string[];
  /** Whether the drawer contains the legend; default true. */
  readonly legend?: boolean;
  /** Whether the drawer lists bookmarked views as buttons; default true if there are any. */
  readonly bookmarks?: boolean;
  /** Elements of the application, shown above the rest. */
  readonly elements?: readonly HTMLElement[];
  /** Whether the drawer is open at first; default true if the map is wide enough. */
  readonly open?: boolean;
  /** Corner of the map; controls in one corner stack. Default: the upper corner at the inline start. */
  readonly position?: Corner | undefined;
}

const chevron = 'M15 5L8 12L15 19L16.4 17.6L10.8 12L16.4 6.4Z';

/** Pixels by which the bar of a sheet is pulled until it opens or closes. */
const pullDistance = 16;

const table: OptionTable<DrawerOptions> = {
  title: 'text',
  layers: 'list',
  legend: 'switch',
  bookmarks: 'switch',
  elements: 'list',
  open: 'switch',
  position: 'corner',
};

/**
 * The drawer: layers with visibility and opacity, the legend, and elements of the application. On a narrow map it is a sheet along the
 * lower edge. Its bar with the title stays in view; opened, it covers at most half of the map.
 */
export class Drawer extends Control {
  private readonly list: HTMLElement;
  private readonly legend: Legend | undefined;
  private readonly places: HTMLElement;
  private shown = '';
  private isPulled = false;

  /**
   * Adds a drawer to a map.
   *
   * @param map the map
   * @param options title, layers, and elements of the application
   */
  constructor(
    map: FlintMap,
    private readonly options: DrawerOptions = {},
  ) {
    checkOptions('new Drawer', options, table, "new Drawer(map, { title: 'Layers' })");
    super(map, 'flint-drawer', { position: options.position, seat: 'top-start' });
    const { strings } = map;
    const card = makeElement('div', 'flint-card');
    const body = makeElement('div');
    body.id = `flint-drawer-${++drawers}`;
    card.append(body);
    if (options.title) body.append(makeElement('h2', 'flint-title', options.title));
    if (options.elements?.length) {
      const given = makeElement('div', 'flint-given');
      given.append(...options.elements);
      body.append(given);
    }
    this.list = makeElement('div', 'flint-layers');
    body.append(this.list);
    this.places = makeElement('div', 'flint-views');
    if (options.bookmarks ?? true) body.append(this.places);
    if (options.legend ?? true) this.legend = map.legend({ host: body, title: '' });
    const toggle = this.button(strings.closeDrawer, chevron, () => {
      // A drag has opened or closed it already.
      if (!this.isPulled) set(Boolean(card.hidden));
      this.isPulled = false;
    });
    toggle.classList.add('flint-toggle');
    const bar = makeElement('span', 'flint-peek', options.title ?? strings.layers);
    bar.setAttribute('aria-hidden', 'true');
    toggle.prepend(bar);
    toggle.setAttribute('aria-controls', body.id);
    const set = (open: boolean) => {
      card.hidden = !open;
      this.element.classList.toggle('flint-shut', !open);
      toggle.setAttribute('aria-expanded', String(open));
      toggle.title = open ? strings.closeDrawer : strings.openDrawer;
      toggle.setAttribute('aria-label', toggle.title);
    };
    this.pull(toggle, set);
    this.element.append(card, toggle);
    set(options.open ?? map.host.clientWidth > 640);
    this.on(map, 'sheetchange', () => this.follow());
    this.on(map, 'datachange', () => this.tellStates());
    this.follow();
  }

  /** Opens and closes the sheet of a narrow map by a drag of its bar. */
  private pull(bar: HTMLElement, set: (open: boolean) => void): void {
    let from: number | undefined;
    this.on<PointerEvent>(bar, 'pointerdown', (event) => {
      from = event.clientY;
      this.isPulled = false;
      bar.setPointerCapture(event.pointerId);
    });
    this.on<PointerEvent>(bar, 'pointermove', ({ clientY }) => {
      if (from === undefined || !this.map.host.classList.contains('flint-narrow')) return;
      if (Math.abs(clientY - from) < pullDistance) return;
      set(clientY < from);
      from = clientY;
      this.isPulled = true;
    });
    for (const type of ['pointerup', 'pointercancel'])
      this.on(bar, type, () => {
        from = undefined;
        // The click that may end a drag comes first.
        setTimeout(() => (this.isPulled = false));
      });
  }

  private follow(): void {
    const { map, options } = this;
    this.tellBookmarks();
    const all = map.layers.all;
    const listed = (
      options.layers ??
      all
        .filter(({ title }) => title !== undefined)
        .map(({ id }) => id)
        .reverse()
    )
      .map((id) => all.find((layer) => layer.id === id))
      .filter((layer) => layer !== undefined);
    const text = JSON.stringify(listed.map(({ id, title, visible, opacity }) => [id, title, visible, opacity]));
    if (text === this.shown) return;
    // Where only a value differs, the controls stay, so that a drag on one of them goes on.
    const same = this.shown !== '' && ids(this.shown) === ids(text);
    this.shown = text;
    if (same) for (const layer of listed) this.set(layer);
    else {
      this.list.replaceChildren(
        ...(listed.length ? [makeElement('p', 'flint-heading', map.strings.layers)] : []),
        ...listed.map((layer) => this.row(layer)),
      );
    }
    this.tellStates();
  }

  /** Says beside a layer when its data is on its way, empty, or could not be had. */
  private tellStates(): void {
    const { map } = this;
    for (const row of this.list.querySelectorAll<HTMLElement>('.flint-layer')) {
      const layer = map.layers.find(row.dataset['layer']!);
      const state = layer && map.dataState(layer.of.split('/')[0]);
      const word = state === undefined || state === 'ready' ? '' : map.strings[state];
      const says = row.querySelector('small')!;
      if (says.textContent !== word) says.textContent = word;
      row.dataset['state'] = state ?? '';
    }
  }

  private tellBookmarks(): void {
    const { map, places } = this;
    const names = Object.keys(map.bookmarks.all);
    if (places.dataset['names'] === names.join('\u0000')) return;
    places.dataset['names'] = names.join('\u0000');
    const buttons = names.map((name) => {
      const button = makeElement('button', 'flint-view', name);
      button.type = 'button';
      button.addEventListener('click', () => void map.bookmarks.go(name));
      return button;
    });
    places.replaceChildren(...(names.length ? [makeElement('p', 'flint-heading', map.strings.views)] : []), ...buttons);
  }

  private row(layer: SheetLayer): HTMLElement {
    const { map } = this;
    const { id, title = id } = layer;
    const row = makeElement('div', 'flint-layer');
    row.dataset['layer'] = id;
    const label = makeElement('label');
    const box = makeElement('input');
    box.type = 'checkbox';
    label.append(box, makeElement('span', '', title), makeElement('small'));
    const slider = makeElement('input');
    Object.assign(slider, { type: 'range', min: '0', max: '1', step: '0.05' });
    slider.setAttribute('aria-label', map.strings.opacityOf(title));
    this.on(box, 'change', () => map.layers.show(id, box.checked));
    this.on(slider, 'input', () => map.layers.change(id, { opacity: Number(slider.value) }));
    row.append(label, slider);
    this.set(layer, row);
    return row;
  }

  private set(
    { id, visible = true, opacity = 1 }: SheetLayer,
    row = this.list.querySelector(`[data-layer="${CSS.escape(id)}"]`),
  ): void {
    const [box, slider] = row?.querySelectorAll('input') ?? [];
    if (box) box.checked = visible;
    if (slider) slider.value = String(opacity);
  }

  override remove(): void {
    this.legend?.remove();
    super.remove();
  }
}

let drawers = 0;
const ids = (text: string) =>
  (JSON.parse(text) as [string, string][]).map(([id, title]) => `${id}\u0000${title}`).join();
