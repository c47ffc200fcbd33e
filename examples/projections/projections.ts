import { distortionAt, geodesicOn, getSurface } from '@flintwright/core';
import { createMap, Drawer, Rail, type SurfaceForm, type SurfaceSpec } from 'flintwright';

type Place = [lon: number, lat: number];
type Parameter = 'lon0' | 'lat0' | 'lat1' | 'lat2';
interface Room {
  readonly name: string;
  readonly says: string;
  /** A surface as it is, or a method with the parameters that can be drawn. */
  readonly surface: SurfaceSpec;
  readonly parameters?: Readonly<Partial<Record<Parameter, readonly [from: number, to: number]>>>;
}

const around = [-180, 180] as const;
const rooms: readonly Room[] = [
  { name: 'Globe', says: 'The planet itself: drag it round.', surface: 'globe' },
  {
    name: 'Robinson',
    says: 'A compromise, drawn from a table.',
    surface: { method: 'robinson', lon0: 0 },
    parameters: { lon0: around },
  },
  {
    name: 'Equal Earth',
    says: 'Areas are true.',
    surface: { method: 'equal-earth', lon0: 0 },
    parameters: { lon0: around },
  },
  {
    name: 'Natural Earth',
    says: 'A compromise with round corners.',
    surface: { method: 'natural-earth', lon0: 0 },
    parameters: { lon0: around },
  },
  {
    name: 'Winkel Tripel',
    says: 'Neither areas nor angles, but little of either lost.',
    surface: { method: 'winkel-tripel', lon0: 0, lat1: 50.467 },
    parameters: { lon0: around, lat1: [0, 70] },
  },
  {
    name: 'Mollweide',
    says: 'Areas are true, in an ellipse.',
    surface: { method: 'mollweide', lon0: 0 },
    parameters: { lon0: around },
  },
  {
    name: 'Eckert IV',
    says: 'Areas are true, the poles are lines.',
    surface: { method: 'eckert-4', lon0: 0 },
    parameters: { lon0: around },
  },
  {
    name: 'Sinusoidal',
    says: 'Areas are true, and so are the parallels.',
    surface: { method: 'sinusoidal', lon0: 0 },
    parameters: { lon0: around },
  },
  {
    name: 'Mercator',
    says: 'Angles are true; the poles lie at infinity.',
    surface: { method: 'mercator', lon0: 0 },
    parameters: { lon0: around },
  },
  {
    name: 'Equidistant cylindrical',
    says: 'Degrees in equal steps.',
    surface: { method: 'equirectangular', lon0: 0, lat1: 0 },
    parameters: { lon0: around, lat1: [0, 60] },
  },
  {
    name: 'Cylindrical equal-area',
    says: 'Areas are true, shapes are not.',
    surface: { method: 'cylindrical-equal-area', lon0: 0, lat1: 30 },
    parameters: { lon0: around, lat1: [0, 60] },
  },
  {
    name: 'Lambert azimuthal',
    says: 'Areas are true, round a center.',
    surface: { method: 'lambert-azimuthal', lon0: 0, lat0: 30 },
    parameters: { lon0: around, lat0: [-90, 90] },
  },
  {
    name: 'Azimuthal equidistant',
    says: 'Distances from the center are true.',
    surface: { method: 'azimuthal-equidistant', lon0: 0, lat0: 90 },
    parameters: { lon0: around, lat0: [-90, 90] },
  },
  {
    name: 'Stereographic',
    says: 'Angles are true, circles stay circles.',
    surface: { method: 'oblique-stereographic', lon0: 0, lat0: 40 },
    parameters: { lon0: around, lat0: [-89, 89] },
  },
  {
    name: 'Polar stereographic, north',
    says: 'Angles are true, round the pole.',
    surface: { method: 'polar-stereographic', lat1: 71, lon0: 0 },
    parameters: { lon0: around, lat1: [50, 90] },
  },
  {
    name: 'Polar equal-area, south',
    says: 'Areas are true, round the other pole.',
    surface: { method: 'lambert-azimuthal', lon0: 0, lat0: -90 },
    parameters: { lon0: around },
  },
  {
    name: 'Orthographic',
    says: 'As seen from very far away.',
    surface: { method: 'orthographic', lon0: 0, lat0: 30 },
    parameters: { lon0: around, lat0: [-90, 90] },
  },
  {
    name: 'Gnomonic',
    says: 'The shortest ways are straight.',
    surface: { method: 'gnomonic', lon0: 0, lat0: 40 },
    parameters: { lon0: around, lat0: [-90, 90] },
  },
  {
    name: 'Lambert conformal conic',
    says: 'Angles are true; made for the middle latitudes.',
    surface: { method: 'lambert-conformal-conic', lon0: 0, lat0: 40, lat1: 30, lat2: 60 },
    parameters: { lon0: around, lat1: [10, 80], lat2: [10, 80] },
  },
  {
    name: 'Albers',
    says: 'Areas are true; made for the middle latitudes.',
    surface: { method: 'albers', lon0: 0, lat0: 40, lat1: 20, lat2: 60 },
    parameters: { lon0: around, lat1: [10, 80], lat2: [10, 80] },
  },
  {
    name: 'Bonne',
    says: 'Areas are true, in a heart.',
    surface: { method: 'bonne', lon0: 0, lat1: 45 },
    parameters: { lon0: around, lat1: [10, 90] },
  },
];

const labels: Readonly<Record<Parameter, string>> = {
  lon0: 'Central meridian',
  lat0: 'Latitude of the center',
  lat1: 'Standard parallel',
  lat2: 'Second standard parallel',
};

const asked = new URLSearchParams(location.search);
const first = rooms.find(({ name }) => name === asked.get('surface')) ?? rooms[1];

const map = createMap('#map', { sheet: '/zeblune.sheet.json' });
new Drawer(map, {
  title: 'The projection room',
  elements: [document.querySelector<HTMLElement>('.panel')!],
  layers: [],
  legend: false,
});
await map.settled();
new Rail(map);

const find = <E extends Element>(selector: string) => document.querySelector<E>(selector)!;
const choice = find<HTMLSelectElement>('#surface');
const parameters = find<HTMLElement>('#parameters');
const says = find<HTMLElement>('.says');
choice.append(...rooms.map(({ name }) => new Option(name)));
choice.value = first.name;

let room = first;
let form: SurfaceSpec = first.surface;
const whole = () =>
  form === 'globe'
    ? map.move({ center: [-50, 10], zoom: 2.35 + Math.log2(map.host.clientHeight / 597), tilt: 0, bearing: 0 })
    : map.frame('sea', { duration: 0 });

// One change at a time; of several that come meanwhile the last counts.
let busy = false;
let next: (() => Promise<void>) | undefined;
async function oneByOne(task: () => Promise<void>): Promise<void> {
  next = task;
  if (busy) return;
  busy = true;
  while (next) {
    const now: () => Promise<void> = next;
    next = undefined;
    await now();
  }
  busy = false;
}

async function draw(fade: boolean): Promise<void> {
  await map.setSurface(form, { duration: fade ? 500 : 0 });
  map.layers.feed('rim', { features: rim() });
  await whole();
  distortion();
}

function sliders(): void {
  parameters.replaceChildren(
    ...Object.entries(room.parameters ?? {}).map(([key, [from, to]]) => {
      const name = key as Parameter;
      const label = Object.assign(document.createElement('label'), { className: 'parameter' });
      const slider = Object.assign(document.createElement('input'), { type: 'range', min: from, max: to, step: 1 });
      const value = document.createElement('output');
      slider.value = String((form as SurfaceForm)[name] ?? 0);
      const tell = () => (value.textContent = `${slider.value}°`);
      slider.addEventListener('input', () => {
        tell();
        form = { ...(form as SurfaceForm), [name]: Number(slider.value) };
        void oneByOne(() => draw(false));
      });
      tell();
      // The value is a labelable element too, and would take the label.
      slider.id = `parameter-${name}`;
      label.htmlFor = slider.id;
      label.append(labels[name], value, slider);
      return label;
    }),
  );
  says.textContent = room.says;
}

choice.addEventListener('change', () => {
  room = rooms.find(({ name }) => name === choice.value)!;
  form = room.surface;
  sliders();
  void oneByOne(() => draw(true));
});

// --- what a projection does to the ground ---------------------------------------------------------

const collection = (features: object[]) => ({ type: 'FeatureCollection', features });
const geodesic = geodesicOn();
const circles = collection(
  [-75, -60, -45, -30, -15, 0, 15, 30, 45, 60, 75].flatMap((lat) =>
    Array.from({ length: Math.abs(lat) > 60 ? 6 : 12 }, (_, i) => {
      const step = 360 / (Math.abs(lat) > 60 ? 6 : 12);
      const ring = Array.from({ length: 49 }, (_, k) => {
        const at = geodesic.direct(-180 + step / 2 + i * step, lat, -k * 7.5, 6e5);
        return [at.lon, at.lat];
      });
      return { type: 'Feature', properties: {}, geometry: { type: 'Polygon', coordinates: [ring] } };
    }),
  ),
);
/** The neat line: both sides of the cut and the poles, where the surface draws them as lines. */
function rim(): object {
  const surface = getSurface(form);
  const middle = typeof form === 'object' && 'lon0' in form ? (form.lon0 ?? 0) : 0;
  const on = (lon: number, lat: number) => {
    const at: [number, number, number] = [0, 0, 0];
    return surface.forward(lon, lat, at) ? at : undefined;
  };
  const isApart = (one: Place, other: Place) => {
    const [a, b] = [on(...one), on(...other)];
    return a && b && Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]) > 1e5;
  };
  // A line on the cut itself counts as part of it, and is not drawn.
  const [west, east] = [middle - 179.95, middle + 179.95];
  const across = Array.from({ length: 181 }, (_, i) => i - 90);
  const around = Array.from({ length: 361 }, (_, i) => west + ((east - west) * i) / 360);
  const lines: Place[][] = [];
  if (isApart([west, 0], [east, 0])) for (const lon of [west, east]) lines.push(across.map((lat) => [lon, lat]));
  for (const lat of [-90, 90]) if (isApart([west, lat], [middle, lat])) lines.push(around.map((lon) => [lon, lat]));
  return collection(
    lines.map((coordinates) => ({ type: 'Feature', properties: {}, geometry: { type: 'LineString', coordinates } })),
  );
}
map.layers.add(
  {
    id: 'rim',
    of: { features: collection([]) },
    legend: false,
    stroke: [
      { color: '#22303a', width: 6, cap: 'square' },
      { color: '#f7f5ef', width: 4.4, cap: 'square' },
      { color: '#22303a', width: 1.2 },
    ],
  },
  { below: 'cities' },
);
map.layers.add({
  id: 'circles',
  of: { features: circles },
  visible: false,
  fill: { color: '#d98a2b', opacity: 0.35 },
  stroke: { color: '#8f5410', width: 1.2 },
});
map.layers.add(
  {
    id: 'distortion',
    title: 'Distortion',
    of: { features: collection([]) },
    visible: false,
    fill: {
      color: {
        by: 'value',
        classes: { breaks: [0.25, 0.5, 0.8, 1.25, 2, 4], scheme: 'RdBu' },
        title: 'Areas, times the true ones',
      },
      opacity: 0.75,
    },
  },
  { below: 'coast' },
);
map.legend({ host: find<HTMLElement>('.key'), title: '' });

const shown = () => find<HTMLInputElement>('input[name=show]:checked').value;

/** Colors cells of five degrees by what the surface does to them. */
function distortion(): void {
  const kind = shown();
  map.layers.show('circles', kind === 'circles');
  map.layers.show('distortion', kind === 'area' || kind === 'angle');
  if (kind !== 'area' && kind !== 'angle') return;
  const surface = getSurface(form);
  const cells = [];
  for (let lat = -90; lat < 90; lat += 5)
    for (let lon = -180; lon < 180; lon += 5) {
      const found = distortionAt(surface, lon + 2.5, lat + 2.5);
      if (!found) continue;
      const ring = [
        [lon, lat],
        [lon + 5, lat],
        [lon + 5, lat + 5],
        [lon, lat + 5],
        [lon, lat],
      ];
      cells.push({
        type: 'Feature',
        properties: { value: found[kind] },
        geometry: { type: 'Polygon', coordinates: [ring] },
      });
    }
  map.layers.change('distortion', {
    fill: {
      color: {
        by: 'value',
        ...(kind === 'area'
          ? { classes: { breaks: [0.25, 0.5, 0.8, 1.25, 2, 4], scheme: 'RdBu' }, title: 'Areas, times the true ones' }
          : { classes: { breaks: [5, 15, 30, 50, 80], scheme: 'YlOrBr' }, title: 'Angles, degrees off at most' }),
      },
      opacity: 0.75,
    },
  });
  map.layers.feed('distortion', { features: collection(cells) });
}
for (const input of document.querySelectorAll('input[name=show]')) input.addEventListener('change', distortion);

find('#save').addEventListener('click', () => {
  void map.picture().then((png) => {
    const link = Object.assign(document.createElement('a'), {
      href: URL.createObjectURL(png),
      download: 'zeblune.png',
    });
    link.click();
    URL.revokeObjectURL(link.href);
  });
});

sliders();
await draw(false);

Object.assign(window, { map });
