import { createMap, Drawer, Position, Rail, ScaleBar, type Sheet } from 'flintwright';
import 'flintwright/expressions';

const themes = ['chalk', 'slate', 'tide'] as const;
type Theme = (typeof themes)[number];

const wanted = new URLSearchParams(location.search);
const number = (name: string, otherwise: number) => Number(wanted.get(name) ?? otherwise);
const first = themes.find((theme) => theme === wanted.get('theme')) ?? 'chalk';

async function sheetOf(theme: Theme): Promise<Sheet> {
  const address = new URL(`/${theme}.sheet.json`, location.href);
  const sheet = (await (await fetch(address)).json()) as Sheet;
  return { ...sheet, data: { reach: { tiles: new URL('/reach.pmtiles', address).href } } };
}

const map = createMap('#map', {
  sheet: await sheetOf(first),
  view: {
    center: [number('lon', -31.18), number('lat', 44.62)],
    zoom: number('zoom', 14),
    bearing: number('bearing', 0),
    tilt: number('tilt', 0),
  },
  colorScheme: first === 'slate' ? 'dark' : 'light',
});

// `?bare` shows the base sheet alone.
const bare = wanted.has('bare');
document.body.classList.toggle('bare', bare);

// The oyster beds: GeoJSON from an address, laid over the base map below its labels.
if (!bare)
  map.layers.add(
    {
      id: 'beds',
      title: 'Oyster beds',
      of: { features: '/beds.geojson' },
      zoom: [11, 25],
      fill: {
        color: { by: 'kind', title: 'Oysters', categories: { native: '#5fa8a0', rock: '#3d7f99', seed: '#b9d8b0' } },
        opacity: 0.72,
      },
      stroke: { color: '#22303a', width: 1 },
      states: {
        hover: { stroke: { width: 3 } },
        selected: { fill: { opacity: 1 }, stroke: { color: '#d98a2b', width: 3 } },
      },
      popup: { title: 'name', lines: { Bed: 'code', Kind: 'kind' } },
    },
    { below: 'seamarks' },
  );

if (!bare) {
  map.layers.add({
    id: 'moorings',
    title: 'Moorings',
    of: { features: '/moorings.geojson', cluster: { until: 15, share: 'kind' } },
    zoom: [12, 25],
    mark: {
      size: 11,
      color: { by: 'kind', title: 'Berths', categories: { visitor: '#c5523a', resident: '#3d7a6c', trade: '#d98a2b' } },
      outline: { color: '#ffffff', width: 1.5 },
    },
    popup: { title: 'name', lines: { Kind: 'kind', Berths: 'berths', Depth: "format(draught, '0.0 m')" } },
  });
  map.markers.add({
    at: [-31.0851, 44.6315],
    icon: 'light',
    color: '#b8452f',
    popup: {
      title: 'Gannet Ledge light',
      text: 'Fl(3) 15 s · 31 m · 14 nmi',
      lines: { 'Tended by': 'the conservancy', 'Last visit': '12 March' },
    },
  });
  map.markers.add({
    at: { lon: -31.1845, lat: 44.6218 },
    icon: 'anchor',
    popup: { title: 'Hallow Quay', text: 'Ferry terminal and harbour office' },
  });
}

const chooser = document.querySelector<HTMLFieldSetElement>('.themes')!;
if (!bare) {
  new Drawer(map, { title: 'Tessary Reach', elements: [chooser] });
  new Rail(map);
  new ScaleBar(map, { units: 'nautical' });
  new Position(map, { form: 'dms' });
}
chooser.querySelector<HTMLInputElement>(`input[value=${first}]`)!.checked = true;
const dressed = (theme: Theme) => (map.colorScheme = theme === 'slate' ? 'dark' : 'light');
dressed(first);
chooser.addEventListener('change', (event) => {
  const theme = (event.target as HTMLInputElement).value as Theme;
  void sheetOf(theme).then((sheet) => {
    map.setSheet(sheet);
    dressed(theme);
  });
});

map.addEventListener('press', ({ detail: { features } }) => {
  document.body.dataset['pressed'] = JSON.stringify(features.map(({ layer, properties }) => ({ layer, properties })));
});

Object.assign(window, { map });
