import { createMap, Drawer, liveCounts, type PickedFeature, type Sheet, type SheetLayer } from 'flintwright';

type Theme = 'chalk' | 'slate' | 'tide';
type Look = 'yield' | 'density' | 'kind' | 'flag';

async function sheetOf(theme: Theme): Promise<Sheet> {
  const address = new URL(`/${theme}.sheet.json`, location.href);
  const sheet = (await (await fetch(address)).json()) as Sheet;
  return { ...sheet, data: { reach: { tiles: new URL('/reach.pmtiles', address).href } } };
}

/** Choices for the color of the beds: an attribute of the joined table, one of their own, or a color given in the table. */
const looks: Record<Look, NonNullable<SheetLayer['fill']>> = {
  yield: {
    opacity: 0.85,
    color: {
      by: 'tonnes',
      title: 'Yield',
      unit: 't',
      classes: { breaks: [5, 20, 60], values: ['#f2ecd2', '#a9d3b4', '#4d9fa8', '#22567f'] },
    },
  },
  density: {
    opacity: 0.85,
    color: {
      by: 'density',
      title: 'Density',
      categories: { thin: '#e9d8a6', fair: '#94b49f', dense: '#3f6f6a' },
    },
  },
  kind: {
    opacity: 0.85,
    color: {
      by: 'kind',
      title: 'Kind of oyster',
      categories: ['native', 'rock', 'seed'],
      scheme: 'Set2',
      names: { native: 'native oyster', rock: 'rock oyster', seed: 'seed, not yet for sale' },
    },
  },
  flag: { opacity: 0.85, color: { is: 'flag' } },
};

const wanted = new URLSearchParams(location.search);
const firstTheme = (wanted.get('theme') ?? 'chalk') as Theme;
const firstLook = (wanted.get('by') ?? 'yield') as Look;

const map = createMap('#map', {
  sheet: await sheetOf(firstTheme),
  view: { center: [-31.134, 44.621], zoom: 14.2 },
});
new Drawer(map, {
  title: 'Oyster beds',
  elements: [document.querySelector<HTMLElement>('.panel')!],
  layers: [],
  legend: false,
});

map.layers.add(
  {
    id: 'beds',
    title: 'Oyster beds',
    of: { features: '/beds.geojson', id: 'code', join: { table: '/yield.csv', match: ['code', 'bed'] } },
    fill: looks[firstLook],
    stroke: { color: '@ink', width: 1 },
    states: {
      hover: { stroke: { width: 2.5 } },
      selected: { fill: { opacity: 1 }, stroke: { color: '@light', width: 4 } },
    },
    select: 'several',
  },
  { below: 'seamarks' },
);
map.legend({ host: document.querySelector<HTMLElement>('.key')!, title: '' });

// Coloring by something else changes the layer in place.
const radios = (name: string, first: string, use: (value: string) => void) => {
  const group = document.querySelector<HTMLFieldSetElement>(`.${name}`)!;
  group.querySelector<HTMLInputElement>(`input[value=${first}]`)!.checked = true;
  group.addEventListener('change', (event) => use((event.target as HTMLInputElement).value));
};
radios('by', firstLook, (value) => map.layers.change('beds', { fill: looks[value as Look] }));

const dress = (theme: Theme) => (map.colorScheme = theme === 'slate' ? 'dark' : 'light');
dress(firstTheme);
radios('theme', firstTheme, (value) => {
  void sheetOf(value as Theme).then((sheet) => {
    map.setSheet(sheet);
    dress(value as Theme);
  });
});

const chosen = document.querySelector('.chosen')!;
function list(features: readonly PickedFeature[]): void {
  const tonnes = features.reduce((sum, { properties }) => sum + Number(properties['tonnes'] ?? 0), 0);
  chosen.querySelector('p')!.textContent = features.length
    ? `${features.length} of 42 beds, ${tonnes.toFixed(1)} t`
    : 'Press beds on the map to choose them.';
  chosen.querySelector('ul')!.replaceChildren(
    ...features.map(({ properties }) => {
      const item = document.createElement('li');
      const [name, figure] = [document.createElement('span'), document.createElement('span')];
      name.textContent = String(properties['name']);
      figure.textContent = properties['tonnes'] === undefined ? 'no figure' : `${String(properties['tonnes'])} t`;
      item.append(name, figure);
      return item;
    }),
  );
}
list([]);
map.addEventListener('selectionchange', (event) => list((event as CustomEvent<PickedFeature[]>).detail));

await map.settled();
const join = map.joinReport('beds');
if (join)
  document.querySelector('.join')!.textContent =
    `The table meets ${join.matched} beds; ${join.featuresAlone.join(', ')} have no row, row ${join.rowsAlone.join(', ')} has no bed.`;

Object.assign(window, { map, liveCounts });
