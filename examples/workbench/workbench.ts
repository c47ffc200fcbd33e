// The workbench: drop data, find places, draw and correct, give attributes, save and publish. The chart of the Reach lies beneath.
import { createMap, Fault, Rail, ScaleBar } from 'flintwright';
import { DrawBar, Measure } from 'flintwright/draw';
import { DropZone } from 'flintwright/files';
import { download, featuresFile, mapPage, tileArchive } from 'flintwright/publish';
import { gazetteerFinder, SearchBox } from 'flintwright/search';
import { StylePanel } from './style-panel.js';
import { makeTabs } from './tabs.js';

const map = createMap('#map', {
  sheet: new URL('/chalk.sheet.json', location.href).href,
  title: 'Workbench',
  colorScheme: 'auto',
});
new Rail(map);
new ScaleBar(map);
const search = new SearchBox(map, {
  finders: [gazetteerFinder('/reach.gazetteer')],
  icons: { resident: 'anchor', visitor: 'anchor', trade: 'anchor', native: 'shell', rock: 'shell', seed: 'shell' },
});
new Measure(map);

const draw = new DrawBar(map, {
  title: 'Corrections',
  draft: 'workbench',
  looks: { area: { label: { text: { is: 'name' } } }, point: { label: { text: { is: 'name' } } } },
  fields: {
    required: ['name'],
    properties: {
      name: { type: 'string', title: 'Name' },
      icon: { type: 'string', title: 'Icon', format: 'icon' },
      kind: { type: 'string', title: 'Kind', enum: ['mooring', 'lease', 'mark', 'other'] },
      depth: { type: 'number', title: 'Depth', unit: 'm', minimum: 0, maximum: 60 },
      laid: { type: 'string', title: 'Laid', format: 'date' },
      lit: { type: 'boolean', title: 'Lit at night' },
    },
  },
  onStep: () => follow(),
});
const zone = new DropZone(map, {
  added: ({ id, layer }) => offer(id, layer.name, layer.features),
});

const find = <T extends HTMLElement>(selector: string) => document.querySelector<T>(selector)!;

/** A button with a line of explanation. */
function entry(title: string, note: string, press: () => unknown): HTMLLIElement {
  const [item, button] = [document.createElement('li'), document.createElement('button')];
  const [name, said] = [document.createElement('b'), document.createElement('span')];
  name.textContent = title;
  said.textContent = note;
  button.append(name, said);
  button.addEventListener('click', () => void press());
  item.append(button);
  return item;
}

/** What the conservancy was sent, and by whom. */
const samples = [
  ['leases.zip', 'Sea-bed leases', 'shapefile in a transverse Mercator grid'],
  ['zones.kmz', 'Protected zones', 'KMZ with its own styles'],
  ['survey.gpx', 'A survey walk', 'GPX with tracks and waypoints'],
  ['gauges.csv', 'Gauge readings', 'CSV with decimal commas and degrees, minutes, seconds'],
  ['chart.gpkg', 'Marks and mooring lines', 'GeoPackage with two tables'],
] as const;
find('#samples').append(
  ...samples.map(([file, title, note]) =>
    entry(title, note, async () => {
      const answer = await fetch(`/files/${file}`);
      zone.take([new File([await answer.blob()], file)]);
    }),
  ),
);

/** Offers to correct the features of a layer that was dropped: they are taken over by the bar, and the layer goes. */
function offer(id: string, name: string, features: { readonly features: readonly object[] }): void {
  find('#correct-none').hidden = true;
  const item = entry(`Correct ${name}`, `${features.features.length.toLocaleString('en')} features`, () => {
    item.remove();
    if (!map.layers.find(id)) return;
    map.layers.remove(id);
    draw.add(features, `take over ${name}`);
  });
  find('#correct').append(item);
}

/** Runs something that may take a while or fail, and says how it went. */
async function run(what: string, work: () => Promise<File | Blob>, name?: string): Promise<void> {
  const said = find('#said');
  said.textContent = `${what} …`;
  try {
    const file = await work();
    download(file, name);
    said.textContent = `${name ?? (file as File).name}, ${(file.size / 1e6).toFixed(2)} MB`;
  } catch (error) {
    // A fault says of itself what to do.
    said.textContent = error instanceof Fault ? String(error) : (error as Error).message;
  }
}

find('#save').append(
  entry('GeoJSON', 'the corrections, for any program', () =>
    run('Writing GeoJSON', () => featuresFile(draw.features, 'corrections.geojson')),
  ),
  entry('GeoPackage', 'the corrections in the grid of UTM zone 25', () =>
    run('Writing a GeoPackage', () => featuresFile(draw.features, 'corrections.gpkg', { crs: 'EPSG:32625' })),
  ),
  entry('Tiles', 'the corrections as tiles for your own map', () =>
    run('Cutting tiles', () => tileArchive(draw.features, { name: 'corrections' }), 'corrections.pmtiles'),
  ),
  entry('Picture', 'the map as it is', () =>
    run(
      'Drawing',
      async () => {
        await map.settled();
        return map.picture();
      },
      'chart.png',
    ),
  ),
  entry('Page', 'the whole chart in one file, to be opened anywhere', () =>
    run('Publishing', () =>
      mapPage(map, { library: '/flintwright.js', title: find<HTMLInputElement>('#title').value.trim() || 'Map' }),
    ),
  ),
);

const style = new StylePanel(map, find('#layers'), find('#style'));
map.legend({ host: find('#legend'), title: '' });

let hasEditor = false;
makeTabs(find('[role="tablist"]'), (tab, again) => {
  // On a phone the tabs alone stay in view until one is pressed, and again when it is pressed once more.
  document.body.classList.toggle('open', !again || !document.body.classList.contains('open'));
  document.body.classList.toggle('wide', tab === 'tab-sheet');
  if (tab === 'tab-style') style.refresh();
  if (tab !== 'tab-sheet' || hasEditor) return;
  hasEditor = true;
  // The editor is fetched when somebody asks for it.
  void import('./sheet-editor.js').then(({ SheetEditor }) => {
    const editor = new SheetEditor(find('#sheet'), map, (text) => (find('#sheet-said').textContent = text));
    Object.assign(window, { editor });
  });
});

/** Says what there is to be saved. */
function follow(): void {
  const count = draw.features.features.length;
  find('#count').textContent = count
    ? `${count} feature${count === 1 ? '' : 's'}, kept in this browser`
    : 'nothing yet';
}
follow();

Object.assign(window, { map, zone, search, draw });
