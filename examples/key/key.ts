import { createMap, forHost, Rail, ScaleBar, type Sheet } from 'flintwright';

// The key comes from the environment, through Vite (VITE_REACH_KEY); it stands in no file of this example and in no sheet.
const { VITE_REACH_KEY: key = '' } = import.meta.env as { readonly VITE_REACH_KEY?: string };

const slate = (await (await fetch('/slate.sheet.json')).json()) as Sheet;
// The base map, from a tile service that gives nothing without a key.
const sheet: Sheet = { ...slate, data: { ...slate.data, reach: { tiles: '/tiles/reach.json' } } };

const map = createMap('#map', {
  sheet,
  view: { center: [-31.15, 44.618], zoom: 13 },
  colorScheme: 'dark',
  request: forHost(location.host, { headers: { Authorization: `Bearer ${key}` } }),
});
new Rail(map);
new ScaleBar(map);

Object.assign(window, { map });
