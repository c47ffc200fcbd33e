import { createMap, Drawer, Rail, ScaleBar, type Marker } from 'flintwright';
import { along } from '../shared/along.js';

interface Line {
  readonly type: string;
  readonly properties: { readonly name: string; readonly minutes: number };
  readonly geometry: { readonly coordinates: readonly [number, number][] };
}

const map = createMap('#map', { sheet: '/chalk.sheet.json', view: { center: [-31.14, 44.618], zoom: 12.9 } });
new Drawer(map, {
  title: 'Ferry board',
  elements: [document.querySelector<HTMLElement>('.panel')!],
  layers: [],
  legend: false,
});
new Rail(map);
new ScaleBar(map, { units: 'nautical' });

const { features } = (await (await fetch('/reach/ferries.geojson')).json()) as { features: Line[] };
const colors = ['#b8452f', '#3d7a6c', '#d98a2b', '#3d6f99', '#6a5a8c'];

map.layers.add({
  id: 'lines',
  of: { features: '/reach/ferries.geojson' },
  stroke: [
    { color: '#ffffff', width: 5 },
    {
      color: {
        by: 'name',
        categories: Object.fromEntries(features.map(({ properties }, i) => [properties.name, colors[i]])),
      },
      width: 3,
    },
  ],
  states: { hover: { stroke: { width: 5 } } },
});

// All lines beside the panel, whatever the size of the page.
void map.frame('lines', { duration: 0 });

const ferries: { readonly line: Line; readonly marker: Marker; readonly says: HTMLElement; at: number }[] =
  features.map((line, i) => {
    const { name, minutes } = line.properties;
    const item = document.createElement('li');
    const go = Object.assign(document.createElement('button'), { type: 'button', textContent: name });
    const says = document.createElement('span');
    item.append(go, says);
    document.querySelector('.lines')!.append(item);
    go.addEventListener('click', () => void map.frame(line));
    const marker = map.markers.add({
      at: line.geometry.coordinates[0],
      icon: 'ferry',
      color: colors[i],
      popup: { title: name, text: `${minutes} minutes each way` },
    });
    return { line, marker, says, at: i * 0.23 };
  });

// Ten positions a second; a crossing of ten minutes takes ten seconds here.
let running = true;
const tick = () => {
  for (const ferry of ferries) {
    const { minutes } = ferry.line.properties;
    if (running) ferry.at = (ferry.at + 0.1 / (2 * minutes)) % 1;
    const share = ferry.at < 0.5 ? ferry.at * 2 : 2 - ferry.at * 2;
    ferry.marker.change({ at: along(ferry.line.geometry.coordinates, share) });
    const left = Math.ceil((ferry.at < 0.5 ? 0.5 - ferry.at : 1 - ferry.at) * 2 * minutes);
    ferry.says.textContent = `${ferry.at < 0.5 ? 'out' : 'back'}, ${left} min`;
  }
};
tick();
setInterval(tick, 100);

const run = document.querySelector<HTMLButtonElement>('.run')!;
run.addEventListener('click', () => {
  running = !running;
  run.setAttribute('aria-pressed', String(running));
  run.textContent = running ? 'Under way' : 'At rest';
});
document.querySelector('.all')!.addEventListener('click', () => void map.frame('lines'));

Object.assign(window, { map });
