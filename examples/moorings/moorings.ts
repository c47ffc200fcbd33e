import { createMap, Drawer, type SheetLayer } from 'flintwright';

const map = createMap('#map', {
  sheet: '/chalk.sheet.json',
  view: { center: [-31.158, 44.6185], zoom: 12.7 },
});
new Drawer(map, {
  title: 'Find a mooring',
  elements: [document.querySelector<HTMLElement>('.panel')!],
  layers: [],
});

const colors = { visitor: '#c5523a', resident: '#3d7a6c', trade: '#d98a2b' };
let unit: 'm' | 'ft' = 'm';
const perMetre = { m: 1, ft: 3.28084 };
const depth = () => (unit === 'm' ? "format(draught, '0.0 m')" : "format(draught * 3.28084, '0.0 ft')");

const popup = (): NonNullable<SheetLayer['popup']> => ({
  title: 'name',
  lines: { Kind: 'kind', Berths: 'berths', Depth: depth() },
});

// 4,000 moorings that come together where it gets crowded; the rim tells what a cluster holds.
map.layers.add({
  id: 'moorings',
  title: 'Moorings',
  of: {
    features: '/moorings.geojson',
    cluster: { within: 46, until: 15, share: 'kind', sum: { berths: 'berths' } },
  },
  mark: {
    size: 12,
    color: {
      by: 'kind',
      title: 'Berths',
      categories: colors,
      names: { visitor: 'for visitors', resident: 'of residents' },
    },
    outline: { color: '#ffffff', width: 1.6 },
  },
  popup: popup(),
});

const kinds = [...document.querySelectorAll<HTMLInputElement>('.kinds input')];
const draught = document.querySelector<HTMLInputElement>('#draught')!;
const shown = document.querySelector<HTMLOutputElement>('output')!;

// The filter is CQL2; the clusters follow it.
function find(): void {
  const chosen = kinds.filter(({ checked }) => checked).map(({ value }) => `'${value}'`);
  const least = Number(draught.value);
  shown.textContent = `${(least * perMetre[unit]).toFixed(1)} ${unit} of water and more`;
  map.layers.change('moorings', {
    where: chosen.length ? `kind IN (${chosen.join(', ')}) AND draught >= ${least}` : 'FALSE',
    popup: popup(),
  });
}
for (const input of [...kinds, draught]) input.addEventListener('change', find);
draught.addEventListener('input', find);
document.querySelector('.units')!.addEventListener('change', (event) => {
  unit = (event.target as HTMLInputElement).value as typeof unit;
  find();
});
find();

Object.assign(window, { map });
