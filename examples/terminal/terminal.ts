import { createMap, Drawer, Rail, ScaleBar } from 'flintwright';

// A floor plan in local meters: the same map, with no world around it.
const map = createMap('#map', { sheet: '/terminal.sheet.json' });
new Drawer(map, {
  title: 'Ferry terminal',
  elements: [document.querySelector<HTMLElement>('.panel')!],
  layers: [],
});
new Rail(map, { parts: ['zoom', 'compass', 'home'] });
new ScaleBar(map);

// All of it beside the panel, whatever the size of the page.
await map.settled();
await map.frame({ bounds: [0, 0, 64, 28] }, { zoom: 23, duration: 0 });

const taken = document.querySelector('.taken')!;
map.addEventListener('selectionchange', (event) => {
  const seats = event.detail.map(({ properties }) => String(properties.seat));
  taken.textContent = seats.length ? `Taken: ${seats.sort().join(', ')}` : 'No seat taken';
});

Object.assign(window, { map });
