import { legendOf, numberText, type CompiledSheet, type LegendEntry } from '@flintwright/core';
import { makeElement, place, dropElement } from './dom.js';
import { drawBar, drawSwatch } from './swatch.js';

export interface LegendOptions {
  /** Where to put it; default a card in the lower left corner of the map. */
  readonly host?: HTMLElement;
  /** Heading; default "Legend", and none when empty. */
  readonly title?: string;
}

export interface LegendSource {
  readonly sheet: CompiledSheet;
  readonly zoom: number;
  readonly sprites: Readonly<Record<string, string>>;
  mayMiss(data: string, attribute: string): boolean;
}

/**
 * The legend of a map as HTML: a list a layer, each look with its text. It follows the sheet, the visibility of layers and the
 * zoom.
 */
export class Legend {
  readonly element: HTMLElement;
  private shown = '';

  constructor(
    over: HTMLElement,
    private readonly options: LegendOptions,
    private readonly source: () => LegendSource,
    private readonly gone: (legend: Legend) => void,
  ) {
    this.element = place(options.host ?? over, makeElement('section', 'flint-legend'));
    if (!options.host) this.element.classList.add('flint-corner');
    this.element.setAttribute('aria-label', options.title || 'Legend');
    this.update();
  }

  /** The legend as data. */
  get entries(): LegendEntry[] {
    const { sheet, zoom, mayMiss } = this.source();
    return legendOf(sheet, zoom, mayMiss);
  }

  /** Brings the element up to date; nothing is touched when nothing differs. */
  update(): void {
    const { entries } = this;
    const text = JSON.stringify(entries);
    if (text === this.shown) return;
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
      classes.length > 1 && classes.every(({ swatch }) => swatch.kind === 'area' || swatch.kind === 'block');
    if (asBar) out.push(this.classBar(classes));
    const rest = asBar ? items.filter(({ range }) => !range) : items;
    if (rest.length) {
      const list = makeElement('ul');
      for (const { label, swatch } of rest) {
        const item = makeElement('li');
        item.append(drawSwatch(swatch, this.source().sprites), makeElement('span', '', label));
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

  destroy(): void {
    if (!this.element.isConnected && !this.shown) return;
    dropElement(this.element);
    this.shown = '';
    this.gone(this);
  }
}
