// The workbench: files of any kind dropped on the chart of the Reach.
import { createMap, Drawer, Rail, ScaleBar } from 'flintwright';
import { DrawBar, Measure } from 'flintwright/draw';
import { DropZone } from 'flintwright/files';
import { gazetteerFinder, SearchBox } from 'flintwright/search';

const map = createMap('#map', { sheet: new URL('/chalk.sheet.json', location.href).href, title: 'Workbench' });
new Rail(map);
new ScaleBar(map);
new Drawer(map, { title: 'On the map' });
const zone = new DropZone(map);
const search = new SearchBox(map, { finders: [gazetteerFinder('/reach.gazetteer')] });

/** What the conservancy was sent, and by whom. */
const samples = [
  ['leases.zip', 'Sea-bed leases', 'shapefile in a transverse Mercator grid'],
  ['zones.kmz', 'Protected zones', 'KMZ with styles of its own'],
  ['survey.gpx', 'A survey walk', 'GPX with tracks and waypoints'],
  ['gauges.csv', 'Gauge readings', 'CSV with decimal commas and degrees, minutes, seconds'],
  ['chart.gpkg', 'Marks and mooring lines', 'GeoPackage with two tables'],
] as const;

const list = document.querySelector('.samples ul')!;
for (const [file, title, form] of samples) {
  const [item, button] = [document.createElement('li'), document.createElement('button')];
  const [name, note] = [document.createElement('b'), document.createElement('span')];
  name.textContent = title;
  note.textContent = form;
  button.append(name, note);
  button.addEventListener('click', () => {
    void fetch(`/files/${file}`)
      .then((answer) => answer.blob())
      .then((blob) => zone.take([new File([blob], file)]));
  });
  item.append(button);
  list.append(item);
}

const draw = new DrawBar(map, {
  draft: 'workbench',
  fields: {
    required: ['name'],
    properties: {
      name: { type: 'string', title: 'Name' },
      kind: { type: 'string', title: 'Kind', enum: ['mooring', 'lease', 'mark', 'other'] },
      depth: { type: 'number', title: 'Depth', unit: 'm', minimum: 0, maximum: 60 },
      laid: { type: 'string', title: 'Laid', format: 'date' },
      lit: { type: 'boolean', title: 'Lit at night' },
    },
  },
});
new Measure(map);
Object.assign(window, { map, zone, search, draw });
