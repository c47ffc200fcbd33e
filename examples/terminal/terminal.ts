import { createMap, Rail, ScaleBar } from 'flintwright';

// A floor plan in local metres: the same map, with no world around it.
const map = createMap('#map', { sheet: '/terminal.sheet.json' });
map.keepClear(document.querySelector('.panel')!);
new Rail(map, { parts: ['zoom', 'compass', 'home'] });
new ScaleBar(map);
map.legend({ host: document.querySelector<HTMLElement>('.key')!, title: '' });

// All of it beside the panel, whatever the size of the page.
await map.settled();
await map.frame({ bounds: [0, 0, 64, 28] }, { zoom: 23, duration: 0 });

const taken = document.querySelector('.taken')!;
map.addEventListener('selectionchange', (event) => {
  const seats = event.detail.map(({ properties }) => String(properties.seat));
  taken.textContent = seats.length ? `Taken: ${seats.sort().join(', ')}` : 'No seat taken';
});

Object.assign(window, { map });
