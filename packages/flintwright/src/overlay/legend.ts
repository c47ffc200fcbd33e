import { legendOf, type JoinReport, type LegendEntry } from '@flintwright/core';
import { numberText } from '@flintwright/core/internal';
import type { MapContext } from '../base/map-context.js';
import { dispose, type Removable } from '../base/removable.js';
import { makeElement, place, removeElement } from './dom.js';
import { drawBar, drawSwatch } from './swatch.js';

export interface LegendOptions {
  /** Where to put it; default a card in the lower left corner of the map. */
  readonly host?: HTMLElement;
  /** Heading; default "Legend", and none when empty. */
  readonly title?: string;
}

/** How the join of a data entry to its table went; undefined where there is none. */
type JoinReports = (data: string) => JoinReport | undefined;

/**
 * The legend of a map as HTML: a list a layer, each look with its text. It follows the sheet, the visibility of layers and the
 * zoom.
 */
export class Legend implements Removable {
  readonly element: HTMLElement;
  private shown = '';

  /** @internal */
  constructor(
    private readonly context: MapContext,
    private readonly options: LegendOptions,
    private readonly joinReport: JoinReports,
    private readonly gone: (legend: Legend) => void,
  ) {
    this.element = place(options.host ?? context.overlay, makeElement('section', 'flint-legend'));
    if (!options.host) this.element.classList.add('flint-corner');
    this.element.setAttribute('aria-label', options.title || 'Legend');
    this.update();
  }

  /** The legend as data. */
  get entries(): LegendEntry[] {
    const { sheet, view } = this.context.state;
    return legendOf(sheet, view.zoom, (data, attribute) => this.mayMiss(data, attribute));
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
    const { entries } = this;
    const text = JSON.stringify(entries);
    if (text === this.shown && !again) return;
    this.shown = text;
    const body = makeElement('div');
    const { title = 'Legend' } = this.options;
    if (title) body.append(makeElement('p', 'flint-title', title));
    for (const entry of entries) body.append(...this.section(entry));
    const card = this.options.host ? body : makeElement('div', 'flint-card');
    if (!this.options.host) card.append(body);
    this.element.replaceChildren(card);
    this.element.hidden = !entries.length;
  }

  private section({ title, scale, items, ramp }: LegendEntry): HTMLElement[] {
    const named = scale?.title ?? title;
    const heading = scale ? `${named}${scale.unit ? `, ${scale.unit}` : ''}` : undefined;
    const out: HTMLElement[] = [];
    if (heading) out.push(makeElement('p', 'flint-heading', heading));
    if (ramp) {
      const figure = makeElement('div', 'flint-ramp');
      figure.setAttribute('role', 'img');
      figure.setAttribute('aria-label', `${named}: from ${ramp.ends[0]} to ${ramp.ends[1]}`);
      const ends = makeElement('div', 'flint-ends');
      ends.append(...ramp.ends.map((end) => makeElement('span', '', end)));
      figure.append(drawBar(ramp.colors, 200, 14, true), ends);
      out.push(figure);
    }
    const classes = items.filter(({ range }) => range);
    const asBar =
      classes.length > 1 && classes.every(({ swatch }) => swatch.kind === 'area' || swatch.kind === 'extrusion');
    if (asBar) out.push(this.classBar(classes));
    const rest = asBar ? items.filter(({ range }) => !range) : items;
    if (rest.length) {
      const list = makeElement('ul');
      for (const { label, swatch } of rest) {
        const item = makeElement('li');
        item.append(drawSwatch(swatch, this.context.icons), makeElement('span', '', label));
        list.append(item);
      }
      out.push(list);
    }
    return out;
  }

  /** Classes side by side with their limits below the borders; read out as ranges. */
  private classBar(classes: LegendEntry['items']): HTMLElement {
    const list = makeElement('ol', 'flint-classes');
    for (const { label, swatch, range } of classes) {
      const item = makeElement('li');
      item.setAttribute('aria-label', label);
      const low = range![0];
      item.append(drawBar([swatch.fill ?? 'none'], 40, 14, false));
      if (Number.isFinite(low)) item.append(makeElement('span', '', numberText(low)));
      list.append(item);
    }
    return list;
  }

  /** Takes it off the page. A second call does nothing. */
  remove(): void {
    if (!this.element.isConnected && !this.shown) return;
    removeElement(this.element);
    this.shown = '';
    this.gone(this);
  }

  [dispose](): void {
    this.remove();
  }
}

/** The legends of a map. */
export class Legends {
  private readonly shown = new Set<Legend>();

  constructor(
    private readonly context: MapContext,
    private readonly joinReport: JoinReports,
  ) {}

  add(options: LegendOptions): Legend {
    const titled = { title: this.context.strings.legend, ...options };
    const legend = new Legend(this.context, titled, this.joinReport, (gone) => this.shown.delete(gone));
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
