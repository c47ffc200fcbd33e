// What draws legends; fetched when a map first has one.
import type { LegendEntry } from '@flintwright/core';
import { numberText } from '@flintwright/core/internal';
import type { Icons } from '../base/icons.js';
import { makeElement } from './dom.js';
import { drawBar, drawSwatch } from './swatch.js';

export { legendOf } from '@flintwright/core';
export { legendStyle } from './legend-style.js';

/** Width of a bar in CSS pixels, and of a digit of its limits. */
const [barWidth, digit] = [200, 7.6];

/** The elements of a legend's part on one layer: its heading, what its scale shows, its ramp or classes, and its list. */
export function legendSection({ title, scale, items, ramp, opacity }: LegendEntry, icons: Icons): HTMLElement[] {
  const out: HTMLElement[] = [];
  if (scale) {
    const heading = makeElement('p', 'flint-heading', title);
    out.push(heading);
    const { title: subject, unit } = scale;
    // Two layers may show the same attribute: each has its own title, and below it what it shows. A unit is never in capital letters.
    if (subject && subject !== title)
      out.push(makeElement('p', 'flint-subject', [subject, unit].filter(Boolean).join(', ')));
    // The comma belongs to the heading, whichever way that runs.
    else if (unit) heading.append(', ', makeElement('span', '', unit));
  }
  if (ramp) {
    const figure = makeElement('div', 'flint-ramp');
    figure.setAttribute('role', 'img');
    figure.setAttribute('aria-label', `${scale?.title ?? title}: from ${ramp.ends[0]} to ${ramp.ends[1]}`);
    const ends = makeElement('div', 'flint-ends');
    ends.append(...ramp.ends.map((end) => makeElement('span', '', end)));
    figure.append(drawBar(ramp.colors, barWidth, 14, true, (ramp.opacity ?? 1) * (opacity ?? 1)), ends);
    out.push(figure);
  }
  const classes = items.filter(({ range }) => range);
  const asBar =
    classes.length > 1 &&
    classes.every(({ swatch }) => swatch.kind === 'area' || swatch.kind === 'extrusion') &&
    hasRoom(classes);
  if (asBar) out.push(classBar(classes, opacity ?? 1));
  const rest = asBar ? items.filter(({ range }) => !range) : items;
  if (rest.length) {
    const list = makeElement('ul');
    for (const { label, swatch } of rest) {
      const item = makeElement('li');
      item.append(drawSwatch(swatch, icons, opacity), makeElement('span', '', label));
      list.append(item);
    }
    out.push(list);
  }
  return out;
}

/** Whether the limits of classes fit side by side below their borders; otherwise each class has a line of its own. */
function hasRoom(classes: LegendEntry['items']): boolean {
  const wide = barWidth / classes.length;
  const limits = [...classes.map(({ range }) => range![0]), classes[classes.length - 1].range![1]];
  // Limits stand centered below the borders, the lowest and the highest value within the ends of the bar.
  const spans = limits.flatMap((limit, i) => {
    if (!Number.isFinite(limit)) return [];
    const width = numberText(limit).length * digit;
    const middle = Math.max(width / 2, Math.min(barWidth - width / 2, i * wide));
    return [[middle - width / 2, middle + width / 2]];
  });
  return spans.every(([from], i) => !i || spans[i - 1][1] + 4 <= from);
}

/** Classes side by side with their limits below the borders; read out as ranges. */
function classBar(classes: LegendEntry['items'], opacity: number): HTMLElement {
  const list = makeElement('ol', 'flint-classes');
  for (const { label, swatch, range } of classes) {
    const item = makeElement('li');
    item.setAttribute('aria-label', label);
    const low = range![0];
    item.append(drawBar([swatch.fill ?? 'none'], 40, 14, false, (swatch.opacity ?? 1) * opacity));
    if (Number.isFinite(low)) item.append(makeElement('span', '', numberText(low)));
    list.append(item);
  }
  const highest = classes[classes.length - 1].range![1];
  if (Number.isFinite(highest))
    list.lastElementChild!.append(makeElement('span', 'flint-highest', numberText(highest)));
  return list;
}
