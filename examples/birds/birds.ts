import { createMap, Drawer, Rail } from 'flintwright';

const map = createMap('#map', { sheet: '/chalk.sheet.json', view: { center: [-31.15, 44.618], zoom: 12.5 } });
new Drawer(map, {
  title: 'Bird watch',
  elements: [document.querySelector<HTMLElement>('.panel')!],
  layers: [],
});
new Rail(map);

const species = [
  'slate tern',
  'reed heron',
  'amber wader',
  'lantern gull',
  'chalk plover',
  'marsh piper',
  'ledge gannet',
  'copper teal',
];
// The same data twice: as heat, and gathered into flocks.
const sightings = {
  features: '/sightings.csv',
  cluster: { within: 54, until: 17, share: 'species', sum: { birds: 'count' } },
};
map.layers.add({ id: 'heat', title: 'Birds seen', of: sightings, heat: { weight: { is: 'count' }, radius: 20 } });
map.layers.add({
  id: 'flocks',
  title: 'Species',
  of: sightings,
  visible: false,
  mark: {
    icon: 'bird',
    size: 20,
    color: { by: 'species', categories: species, scheme: 'Dark2' },
    outline: { color: '#fff', width: 2 },
  },
  popup: { title: 'species', lines: { Birds: 'count', Seen: "format(seen, 'long date')" } },
});

const buttons = [...document.querySelectorAll<HTMLButtonElement>('[data-show]')];
for (const button of buttons)
  button.addEventListener('click', () => {
    for (const other of buttons) {
      const on = other === button;
      other.setAttribute('aria-pressed', String(on));
      map.layers.show(other.dataset['show']!, on);
    }
  });

const chooser = document.querySelector('.species')!;
for (const name of species) {
  const label = document.createElement('label');
  const input = Object.assign(document.createElement('input'), { type: 'radio', name: 'species', value: name });
  label.append(input, ` ${name}`);
  chooser.append(label);
}
chooser.addEventListener('change', (event) => {
  const name = (event.target as HTMLInputElement).value;
  const where = name ? `species = '${name}'` : 'TRUE';
  for (const id of ['heat', 'flocks']) map.layers.change(id, { where });
});

Object.assign(window, { map });
