import { createMap, type ViewChange } from 'flintwright';

interface Piece {
  readonly title: string;
  readonly says: string;
  readonly sheet: string;
  readonly view: ViewChange;
  readonly link: string;
}

const pieces: readonly Piece[] = [
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
    says: 'full colour',
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
    view: { center: [-31.06, 44.614], zoom: 11.6 },
    link: '/workbench/',
  },
  {
    title: 'The oyster beds',
    says: 'a joined table, classes, legend, selection',
    sheet: 'symbols/fill',
    view: { center: [-31.135, 44.622], zoom: 13.4 },
    link: '/beds/',
  },
  {
    title: 'The mooring finder',
    says: 'clusters with shares, filters, popups',
    sheet: 'tide',
    view: { center: [-31.14, 44.62], zoom: 12.6 },
    link: '/moorings/',
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
    says: 'a plan in local metres, seats to be taken',
    sheet: 'terminal',
    view: { center: [32, 14], zoom: 20.1 },
    link: '/terminal/',
  },
  {
    title: 'Tiles behind a key',
    says: 'from the environment, through one hook',
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
for (const { title, says, sheet, view, link } of pieces) {
  const figure = document.createElement('figure');
  const host = document.createElement('div');
  const caption = document.createElement('figcaption');
  const anchor = Object.assign(document.createElement('a'), { href: link, textContent: title });
  const note = Object.assign(document.createElement('span'), { textContent: ` · ${says}` });
  caption.append(anchor, note);
  figure.append(host, caption);
  main.append(figure);
  createMap(host, { sheet: `/${sheet}.sheet.json`, view, title, colorScheme: sheet === 'slate' ? 'dark' : 'light' });
}
