import { pathsOf, type EditDocument, type EditFeature } from '@flintwright/core/edit';
import { cross, drawing } from '../controls/control.js';
import type { FlintMap } from '../map/map.js';
import { makeElement, place, removeElement } from '../overlay/dom.js';
import { DrawForm, type FieldsSchema } from './draw-form.js';
import type { DrawStrings } from './draw-strings.js';

/** Pixels for a rail beside the panel and for the handles of features. */
const besidePanel = 100;

/** The panel with the attributes of what is selected: one form for one feature or many. */
export class DrawPanel {
  private readonly element: HTMLElement;
  private readonly head = makeElement('h2');
  private readonly body = makeElement('div');
  private readonly card = makeElement('div', 'flint-card');
  /** Keys of the features that the form is of. */
  private of = '';

  constructor(
    private readonly map: FlintMap,
    private readonly document: EditDocument,
    private readonly fields: FieldsSchema,
    private readonly strings: DrawStrings,
  ) {
    this.element = place(map.host, makeElement('div', 'flint-control flint-draw-panel'));
    this.element.dataset['seat'] = 'top-end';
    const close = makeElement('button');
    close.type = 'button';
    close.setAttribute('aria-label', map.strings.close);
    close.title = map.strings.close;
    close.append(drawing(cross));
    close.addEventListener('click', () => this.close());
    const top = makeElement('div', 'flint-form-head');
    top.append(this.head, close);
    const inside = makeElement('div');
    inside.append(top, this.body);
    this.card.append(inside);
  }

  /** Opens the form of some features, and closes it where there are none; that of the same features stays as it is. */
  show(keys: readonly string[]): void {
    const of = keys.join('\n');
    if (of === this.of) return;
    this.close();
    this.of = of;
    if (!keys.length) return;
    const { document, fields, strings } = this;
    const features = keys.map((key) => document.require(key));
    const values: Record<string, unknown> = {};
    for (const name of Object.keys(fields.properties)) {
      const [first, ...rest] = features.map(({ properties }) => properties[name]);
      if (rest.every((value) => value === first)) values[name] = first;
    }
    const form = new DrawForm({ schema: fields, icons: this.map.icons, strings }, values, keys.length > 1, (filled) =>
      this.save(keys, filled),
    );
    this.head.textContent = strings.attributes(keys.length);
    this.body.replaceChildren(form.element);
    this.element.replaceChildren(this.card);
    this.element.scrollTop = 0;
    this.element.dataset['seat'] = this.seatBeside(features);
    // Panels are arranged when one comes; a form of the same size would stay where the last one was.
    this.map.host.append(this.element);
    this.map.host.classList.add('flint-forming');
  }

  /** The seat that leaves features in view: in the upper corner at the end of lines, or on the other side where they are there. */
  private seatBeside(features: readonly EditFeature[]): 'top-end' | 'middle-start' {
    const { map } = this;
    const { clientWidth: width, clientHeight: height } = map.host;
    const spots = features.flatMap(({ geometry }) => [...pathsOf(geometry)].flatMap((path) => path.spots));
    const pixels = spots.flatMap(([x, y]) => map.toPixel([x, y]) ?? []);
    const [xs, ys] = [0, 1].map((axis) => pixels.filter((_, i) => i % 2 === axis));
    const isMirrored = getComputedStyle(map.host).direction === 'rtl';
    // Beside it stands a rail, and handles reach beyond the features.
    const reach = this.element.offsetWidth + besidePanel;
    const isAtEnd = isMirrored ? Math.min(...xs) < reach : Math.max(...xs) > width - reach;
    return isAtEnd && Math.min(...ys) < height * 0.5 ? 'middle-start' : 'top-end';
  }

  /** Moves the focus into the form, where one is open. */
  focus(): void {
    this.body.querySelector<HTMLElement>('input, select')?.focus({ preventScroll: true });
  }

  /** Has the form made anew when the features are shown the next time: their attributes have changed. */
  outdate(): void {
    this.of = '';
  }

  private save(keys: readonly string[], filled: Readonly<Record<string, unknown>>): void {
    const after = new Map<string, EditFeature | undefined>();
    // Of several features only what somebody filled in is changed.
    const given = Object.entries(filled).filter(([, value]) => keys.length === 1 || value !== undefined);
    for (const key of keys) {
      const feature = this.document.features.get(key);
      if (!feature) continue;
      const properties = { ...feature.properties, ...Object.fromEntries(given) };
      for (const [name, value] of Object.entries(properties)) if (value === undefined) delete properties[name];
      if (JSON.stringify(properties) !== JSON.stringify(feature.properties)) after.set(key, { ...feature, properties });
    }
    this.document.apply(this.strings.steps.fields, after);
    this.close();
  }

  private close(): void {
    const { activeElement } = this.element.getRootNode() as Document | ShadowRoot;
    if (activeElement && this.element.contains(activeElement))
      this.map.host.querySelector<HTMLElement>('.flint-canvas')?.focus({ preventScroll: true });
    this.element.replaceChildren();
    this.map.host.classList.remove('flint-forming');
  }

  remove(): void {
    this.map.host.classList.remove('flint-forming');
    removeElement(this.element);
  }
}
