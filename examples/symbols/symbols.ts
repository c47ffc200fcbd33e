import { createMap } from 'flintwright';

// One sheet for each symbol; the guide explains them page by page.
const names = ['fill', 'stroke', 'mark', 'label', 'image', 'heat', 'extrusion', 'background'] as const;
const wanted = new URLSearchParams(location.search).get('symbol');
const name = names.find((known) => known === wanted) ?? 'fill';

const nav = document.querySelector('.symbols')!;
for (const symbol of names) {
  const link = document.createElement('a');
  link.href = `?symbol=${symbol}`;
  link.textContent = symbol;
  if (symbol === name) link.setAttribute('aria-current', 'page');
  nav.append(link);
}

const map = createMap('#map', {
  sheet: `/symbols/${name}.sheet.json`,
  colorScheme: name === 'background' ? 'dark' : 'light',
});
map.keepClear(document.querySelector('nav')!);
map.legend({ title: '' });

Object.assign(window, { map });
