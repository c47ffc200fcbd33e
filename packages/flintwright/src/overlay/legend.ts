import type { JoinReport, LegendEntry } from '@flintwright/core';
import type { Corner } from '../base/check-options.js';
import { LatePart } from '../base/late-part.js';
import type { MapContext } from '../base/map-context.js';
import { dispose, type Removable } from '../base/removable.js';
import { makeElement, place, removeElement } from './dom.js';
import type * as LegendTools from './legend-body.js';
import { adoptStyles } from './adopt-styles.js';

export interface LegendOptions {
  /** Parent element; default a card in the lower left corner of the map. */
  readonly host?: HTMLElement;
  /** Heading; default "Legend"; an empty string for none. */
  readonly title?: string;
  /** Corner of the map; controls in one corner stack. Default: the lower corner at the inline start. */
  readonly position?: Corner | undefined;
}

/** What draws legends. */
type Drawing = LatePart<typeof LegendTools>;

/** How the join of a data entry to its table went; undefined where there is none. */
type JoinReports = (data: string) => JoinReport | undefined;

/**
 * Legend of a map as HTML: a list for each layer, with a swatch and a text for each item. It follows the sheet, the visibility of layers
 * and the zoom.
 */
export class Legend implements Removable {
  readonly element: HTMLElement;
  /** Resolves when the legend is drawn, or a fault has been reported. The code that draws legends is loaded with the first one. */
  readonly ready: Promise<void>;
  private shown = '';
  private removed = false;

  /** @internal */
  constructor(
    private readonly context: MapContext,
    private readonly options: LegendOptions,
    private readonly drawing: Drawing,
    private readonly joinReport: JoinReports,
    private readonly isEmpty: (data: string) => boolean,
    private readonly gone: (legend: Legend) => void,
  ) {
    this.element = place(options.host ?? context.overlay, makeElement('section', 'flint-legend'));
    if (!options.host) {
      this.element.classList.add('flint-seated');
      this.element.dataset['seat'] = options.position ?? 'bottom-start';
    }
    this.element.setAttribute('aria-label', options.title || 'Legend');
    this.element.hidden = true;
    this.ready = drawing.ready();
    this.update();
  }

  /** The legend as data; empty before it is {@link ready}. */
  get entries(): LegendEntry[] {
    const { sheet, view } = this.context.state;
    const entries = this.drawing.now?.legendOf(sheet, view.zoom, (data, attribute) => this.mayMiss(data, attribute));
    // A layer without features has nothing to explain.
    const empty = new Set(sheet.layers.filter(({ data }) => this.isEmpty(data)).map(({ id }) => id));
    return (entries ?? []).filter(({ layer }) => !empty.has(layer));
  }

  /** Whether features may lack an attribute, because their table has no row for them. */
  private mayMiss(data: string, attribute: string): boolean {
    const join = this.joinReport(data);
    return (
      join !== undefined && join.added.includes(attribute) && join.featuresAlone.length + join.keyless.features > 0
    );
  }

  /**
   * Brings the element up to date; nothing is touched when nothing differs.
   *
   * @param again whether it is drawn anew in any case, because an icon has come
   * @internal
   */
  update(again = false): void {
    const drawing = this.drawing.now;
    if (!drawing) return;
    const { entries } = this;
    const text = JSON.stringify(entries);
    if (text === this.shown && !again) return;
    this.shown = text;
    adoptStyles(this.element, drawing.legendStyle);
    const body = makeElement('div');
    const { title = 'Legend' } = this.options;
    if (title) body.append(makeElement('p', 'flint-title', title));
    for (const entry of entries) body.append(...drawing.legendSection(entry, this.context.icons));
    const card = this.options.host ? body : makeElement('div', 'flint-card');
    if (!this.options.host) card.append(body);
    this.element.replaceChildren(card);
    this.element.hidden = !entries.length;
  }

  /** Removes the legend from the page. A second call does nothing. */
  remove(): void {
    if (this.removed) return;
    this.removed = true;
    removeElement(this.element);
    this.gone(this);
  }

  [dispose](): void {
    this.remove();
  }
}

/** The legends of a map. */
export class Legends {
  private readonly shown = new Set<Legend>();
  private readonly drawing: Drawing;

  constructor(
    private readonly context: MapContext,
    private readonly joinReport: JoinReports,
    private readonly isEmpty: (data: string) => boolean,
  ) {
    this.drawing = new LatePart(
      context,
      () => import('./legend-body.js'),
      () => this.update(),
    );
  }

  add(options: LegendOptions): Legend {
    const titled = { title: this.context.strings.legend, ...options };
    const legend = new Legend(this.context, titled, this.drawing, this.joinReport, this.isEmpty, (gone) =>
      this.shown.delete(gone),
    );
    this.shown.add(legend);
    return legend;
  }

  /** @param again whether they are drawn anew in any case */
  update(again = false): void {
    for (const legend of this.shown) legend.update(again);
  }

  remove(): void {
    for (const legend of [...this.shown]) legend.remove();
  }
}
