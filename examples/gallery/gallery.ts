import { createMap, type AddedLayer, type ViewChange } from 'flintwright';

interface Piece {
  readonly title: string;
  readonly says: string;
  readonly sheet: string;
  readonly view: ViewChange;
  readonly link: string;
  /** What the example shows over its sheet. */
  readonly layers?: readonly AddedLayer[];
}

const pieces: readonly Piece[] = [
  {
    title: 'One tide',
    says: 'a sea chart through twelve hours: flats, currents, ferries, lights',
    sheet: 'one-tide',
    view: { center: [-31.1, 44.62], zoom: 12.4 },
    link: '/tide/',
  },
  {
    title: 'Chalk',
    says: 'pale, meant to stay behind data',
    sheet: 'chalk',
    view: { center: [-31.182, 44.624], zoom: 13.6 },
    link: '/harbour/?theme=chalk',
  },
  {
    title: 'Slate',
    says: 'the Reach by night',
    sheet: 'slate',
    view: { center: [-31.15, 44.615], zoom: 12.6 },
    link: '/harbour/?theme=slate',
  },
  {
    title: 'Tide',
    says: 'full color',
    sheet: 'tide',
    view: { center: [-31.11, 44.62], zoom: 12.2 },
    link: '/harbour/?theme=tide',
  },
  {
    title: 'Turned and tilted',
    says: 'the same sheet from the south-west',
    sheet: 'chalk',
    view: { center: [-31.187, 44.623], zoom: 15, bearing: 38, tilt: 52 },
    link: '/harbour/?zoom=15&bearing=38&tilt=52',
  },
  {
    title: 'The workbench',
    says: 'files dropped, places found, borders corrected, the chart published',
    sheet: 'chalk',
    view: { center: [-31.062, 44.611], zoom: 11.7 },
    link: '/workbench/',
    layers: [
      {
        id: 'leases',
        of: { features: '/files/leases.zip' },
        fill: { color: '#d98a2b', opacity: 0.45 },
        stroke: { color: '#22303a', width: 1.2 },
      },
    ],
  },
  {
    title: 'The oyster beds',
    says: 'a joined table, classes, legend, selection',
    sheet: 'chalk',
    view: { center: [-31.135, 44.622], zoom: 13.2 },
    link: '/beds/',
    layers: [
      {
        id: 'beds',
        of: { features: '/beds.geojson', id: 'code', join: { table: '/yield.csv', match: ['code', 'bed'] } },
        fill: { color: { by: 'tonnes', classes: { breaks: [5, 20, 60], scheme: 'YlGnBu' } }, opacity: 0.9 },
        stroke: { color: '#22303a', width: 1 },
      },
    ],
  },
  {
    title: 'The mooring finder',
    says: 'clusters with shares, filters, popups',
    sheet: 'tide',
    view: { center: [-31.148, 44.619], zoom: 12.3 },
    link: '/moorings/',
    layers: [
      {
        id: 'moorings',
        of: { features: '/moorings.geojson', cluster: { until: 15, share: 'kind' } },
        mark: {
          size: 12,
          color: { by: 'kind', categories: { visitor: '#c5523a', resident: '#3d7a6c', trade: '#d98a2b' } },
          outline: { color: '#ffffff', width: 1.6 },
        },
      },
    ],
  },
  {
    title: 'The projection room',
    says: 'a planet on twenty-one surfaces',
    sheet: 'zeblune',
    view: { center: [0, 0], zoom: 0.62 },
    link: '/projections/',
  },
  {
    title: 'The ferry terminal',
    says: 'a plan in local meters, seats to be taken',
    sheet: 'terminal',
    view: { center: [32, 14], zoom: 20.1 },
    link: '/terminal/',
  },
  {
    title: 'Tiles behind a key',
    says: 'the key from the environment, through one hook',
    sheet: 'slate',
    view: { center: [-31.12, 44.62], zoom: 12.4 },
    link: '/key/',
  },
  {
    title: 'Symbols',
    says: 'fill, stroke, mark, label, image, heat, extrusion',
    sheet: 'symbols/heat',
    view: { center: [-31.155, 44.618], zoom: 11.8 },
    link: '/symbols/?symbol=heat',
  },
  {
    title: 'Houses by height',
    says: 'raised from the ground',
    sheet: 'symbols/extrusion',
    view: { center: [-31.1843, 44.6247], zoom: 15.2, bearing: 24, tilt: 55 },
    link: '/symbols/?symbol=extrusion',
  },
  {
    title: 'The whole land',
    says: 'far out',
    sheet: 'tide',
    view: { center: [-31.35, 44.61], zoom: 8.6 },
    link: '/harbour/?theme=tide&zoom=9&lon=-31.35',
  },
  {
    title: 'Street by street',
    says: 'close in',
    sheet: 'slate',
    view: { center: [-31.1843, 44.6272], zoom: 17 },
    link: '/harbour/?theme=slate&zoom=17&lat=44.6272&lon=-31.1843',
  },
];

const main = document.querySelector('main')!;
for (const { title, says, sheet, view, link, layers = [] } of pieces) {
  const figure = document.createElement('figure');
  const host = document.createElement('div');
  const caption = document.createElement('figcaption');
  const anchor = Object.assign(document.createElement('a'), { href: link, textContent: title });
  const note = Object.assign(document.createElement('span'), { textContent: ` · ${says}` });
  caption.append(anchor, note);
  figure.append(host, caption);
  main.append(figure);
  const colorScheme = sheet === 'slate' ? 'dark' : 'light';
  const map = createMap(host, { sheet: `/${sheet}.sheet.json`, view, title, colorScheme });
  for (const layer of layers) map.layers.add(layer);
}
