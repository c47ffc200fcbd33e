// What draws legends; fetched when a map first has one.
import type { LegendEntry } from '@flintwright/core';
import { numberText } from '@flintwright/core/internal';
import type { Icons } from '../base/icons.js';
import { makeElement } from './dom.js';
import { drawBar, drawSwatch } from './swatch.js';

export { legendOf } from '@flintwright/core';
export { legendStyle } from './legend-style.js';

/** The elements of a legend's part on one layer: its heading, its ramp or classes, and its list. */
export function legendSection({ title, scale, items, ramp }: LegendEntry, icons: Icons): HTMLElement[] {
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
  if (asBar) out.push(classBar(classes));
  const rest = asBar ? items.filter(({ range }) => !range) : items;
  if (rest.length) {
    const list = makeElement('ul');
    for (const { label, swatch } of rest) {
      const item = makeElement('li');
      item.append(drawSwatch(swatch, icons), makeElement('span', '', label));
      list.append(item);
    }
    out.push(list);
  }
  return out;
}

/** Classes side by side with their limits below the borders; read out as ranges. */
function classBar(classes: LegendEntry['items']): HTMLElement {
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
