// What the conservancy was sent, in the formats in which such things come: a shapefile in a local grid, KMZ, GPX, CSV, GeoPackage.
import { ellipsoid, makeCrs } from '@flintwright/core';
import {
  inSystem,
  writeFeatureFile,
  type FileFeature,
  type FileGeometry,
  type FileLayer,
} from '@flintwright/core/files';
import { getCrs } from '@flintwright/core';
import { distance, toDegrees, type DemoFeature, type Metres } from './frame.js';
import { randomFrom } from './random.js';
import type { Terrain } from './terrain.js';

const lonLat = getCrs('OGC:CRS84');

/** The grid of the Reach: a transverse Mercator system of its own, on an ellipsoid that everybody has. */
export const reachGrid = makeCrs({
  id: 'Tessary Reach Grid',
  ellipsoid: ellipsoid(6378137, 298.257223563),
  method: 'transverse-mercator',
  parameters: { lat0: 44.5, lon0: -31.2, k0: 0.9999, x0: 200000, y0: 50000 },
});

const layer = (name: string, features: readonly FileFeature[]): FileLayer => ({
  name,
  features,
  crs: lonLat,
  crsSource: 'made here',
});

const feature = (type: string, coordinates: unknown, properties: Record<string, unknown>): FileFeature => ({
  type: 'Feature',
  geometry: { type, coordinates } as FileGeometry,
  properties,
});

/** Blocks of sea-bed side by side along the channel, which share their borders. */
function leases({ channel, height }: Terrain): FileFeature[] {
  const random = randomFrom(211);
  const holders = ['Sefkin Kelp', 'Osier Mussel', 'Lantern Reach', 'Quayside Growers'];
  const uses = ['kelp', 'mussel', 'scallop'];
  const along = channel.filter(([x]) => x > 5600 && x < 13200).filter((_, i) => i % 4 === 0);
  // One corner a station and row, moved a little, so that neighbors meet in it.
  const corner = along.map(([x, y]) =>
    [-1, 0, 1, 2].map((row): Metres => [x + random.between(-90, 90), y - 700 + row * 620 + random.between(-70, 70)]),
  );
  const out: FileFeature[] = [];
  for (let i = 0; i + 1 < corner.length; i++)
    for (let row = 0; row < 3; row++) {
      const ring = [corner[i][row], corner[i + 1][row], corner[i + 1][row + 1], corner[i][row + 1]];
      const [cx, cy] = [0, 1].map((k) => ring.reduce((sum, at) => sum + at[k], 0) / 4);
      if (height(cx, cy) > -1 || random() < 0.12) continue;
      out.push(
        feature('Polygon', [[...ring, ring[0]].map(toDegrees)], {
          lease: `SB-${String(out.length + 101)}`,
          holder: random.pick(holders),
          use: random.pick(uses),
          granted: `20${String(10 + Math.floor(random() * 14))}-0${1 + Math.floor(random() * 8)}-15`,
          hectares: Math.round(area(ring) / 1000) / 10,
          renewed: random() < 0.6,
        }),
      );
    }
  return out;
}

const area = (ring: readonly Metres[]) =>
  Math.abs(
    ring.reduce((sum, [x, y], i) => sum + x * ring[(i + 1) % ring.length][1] - ring[(i + 1) % ring.length][0] * y, 0),
  ) / 2;

/** Rounded areas with a look of their own, in folders by what they protect. */
function zones(): FileFeature[] {
  const random = randomFrom(223);
  const all: readonly [string, string, Metres, number, string][] = [
    ['Birds', 'Plover Sands', [-6100, -900], 900, '#d0743c'],
    ['Birds', 'Ulvrask Flats', [-8900, 700], 1150, '#d0743c'],
    ['Birds', 'Lantern Spit', [3300, 1500], 620, '#d0743c'],
    ['Seals', 'Cold Vandrel Rocks', [9300, -2400], 780, '#3f7f8c'],
    ['Seals', 'Sefkin Ledge', [11200, 1200], 700, '#3f7f8c'],
    ['Eelgrass', 'Marvuthe Meadow', [-3600, -900], 640, '#5d8a3c'],
    ['Eelgrass', 'Thrift Pool', [5200, -600], 560, '#5d8a3c'],
  ];
  return all.map(([folder, name, [x, y], reach, color]) => {
    const waves = [random.between(0, 6), random.between(0, 6)];
    const ring = Array.from({ length: 48 }, (_, k): Metres => {
      const a = (2 * Math.PI * k) / 48;
      const r = reach * (1 + 0.16 * Math.sin(2 * a + waves[0]) + 0.09 * Math.sin(3 * a + waves[1]));
      return [x + 1.3 * r * Math.cos(a), y + 0.8 * r * Math.sin(a)];
    });
    return feature('Polygon', [[...ring, ring[0]].map(toDegrees)], {
      name,
      description: `No landing and no anchoring from April to August.`,
      folder,
      warden: `Warden ${1 + Math.floor(random() * 5)}`,
      fill: `${color}80`,
      stroke: color,
      stroke_width: 2,
    });
  });
}

/** A walk along the shore in two halves, with the places where the walker stopped. */
function survey({ height, channel }: Terrain): FileLayer[] {
  const random = randomFrom(227);
  const shore = channel
    .filter(([x]) => x > -5200 && x < 1600)
    .map(([x, y]): Metres => {
      // The northern bank: as far up from the channel as it takes to be dry.
      let up = y;
      while (height(x, up) < 3.4 && up < y + 4000) up += 12;
      return [x + random.between(-20, 20), up + random.between(5, 35)];
    });
  const half = Math.floor(shore.length / 2);
  const began = Date.UTC(2026, 4, 14, 6, 40);
  let seconds = 0;
  const lines = [shore.slice(0, half), shore.slice(half + 1)].map((part) =>
    part.map((at, i) => {
      seconds += i ? distance(at, part[i - 1]) / 1.1 : 900;
      const time = new Date(began + 1000 * Math.round(seconds)).toISOString().replace('.000', '');
      return { position: [...toDegrees(at), Math.round(10 * Math.max(3, height(...at))) / 10], time };
    }),
  );
  const track = feature(
    'MultiLineString',
    lines.map((part) => part.map(({ position }) => position)),
    {
      name: 'Northern shore, May',
      desc: 'Count of nests above the tide line',
      times: lines.map((part) => part.map(({ time }) => time)),
    },
  );
  const stops = shore
    .filter((_, i) => i % 5 === 2)
    .map((at, i) =>
      feature('Point', [...toDegrees(at), Math.round(height(...at))], {
        name: `Stop ${i + 1}`,
        desc: `${Math.floor(random.between(0, 14))} nests`,
        sym: 'Flag',
      }),
    );
  return [layer('survey', [...stops, track])];
}

/** Degrees, minutes and seconds with a decimal comma. */
function angle(value: number, positive: string, negative: string): string {
  const tenths = Math.round(Math.abs(value) * 36000);
  const [d, m, s] = [Math.floor(tenths / 36000), Math.floor(tenths / 600) % 60, (tenths % 600) / 10];
  return `${d}°${String(m).padStart(2, '0')}'${s.toFixed(1).padStart(4, '0').replace('.', ',')}"${value < 0 ? negative : positive}`;
}

/** Readings of the tide gauges as an office sends them: semicolons, decimal commas, an older encoding, one row without a place. */
function gauges(seamarks: readonly DemoFeature[]): Uint8Array {
  const random = randomFrom(229);
  const rows = seamarks.map(({ geometry, properties }, i) => {
    const [lon, lat] = geometry.coordinates as [number, number];
    const name = String(properties['name'] ?? `Gauge ${i + 1}`);
    return [
      name,
      angle(lat, 'N', 'S'),
      angle(lon, 'E', 'W'),
      random.between(0.4, 4.9).toFixed(2).replace('.', ','),
      random.pick(['rising', 'falling', 'slack']),
    ];
  });
  const lines = [
    ['Station', 'Latitude', 'Longitude', 'Level (m)', 'Tide'],
    ...rows,
    ['Spare gauge, Søndre shed', '', '', '0,00', 'slack'],
  ].map((cells) => cells.map((cell) => (/[;"]/.test(cell) ? `"${cell.replaceAll('"', '""')}"` : cell)).join(';'));
  // Windows-1252: every letter here has the number that it has in Unicode.
  return Uint8Array.from(`${lines.join('\r\n')}\r\n`, (letter) => letter.codePointAt(0)!);
}

/** What the leases cost, as the office keeps it: one of them has ended, and has no block any more. */
function rents(blocks: readonly FileFeature[]): Uint8Array {
  const random = randomFrom(233);
  const rows = blocks.map(({ properties }) => [
    String(properties['lease']),
    (Number(properties['hectares']) * random.between(1.1, 2.6)).toFixed(2).replace('.', ','),
    random.pick(['yes', 'yes', 'no']),
  ]);
  const lines = [['lease', 'rent', 'paid'], ...rows.slice(0, -1), ['SB-099', '54,20', 'no']];
  return new TextEncoder().encode(`${lines.map((cells) => cells.join(';')).join('\n')}\n`);
}

/** Marks, and the lines between the moorings of each trot. */
function chart(seamarks: readonly DemoFeature[], moorings: readonly DemoFeature[]): FileLayer[] {
  const trots = new Map<string, DemoFeature[]>();
  for (const mooring of moorings) {
    const trot = /^[A-Z]+/.exec(String(mooring.properties['code']))?.[0] ?? '';
    trots.set(trot, [...(trots.get(trot) ?? []), mooring]);
  }
  const lines = [...trots]
    .filter(([, members]) => members.length > 1)
    .slice(0, 60)
    .map(([trot, members]) =>
      feature(
        'LineString',
        members.slice(0, 12).map(({ geometry }) => geometry.coordinates),
        {
          trot,
          berths: members.slice(0, 12).reduce((sum, { properties }) => sum + Number(properties['berths'] ?? 1), 0),
        },
      ),
    );
  const marks = seamarks.map(({ geometry, properties }) => feature(geometry.type, geometry.coordinates, properties));
  return [layer('marks', marks), layer('mooring_lines', lines)];
}

/** All files, by their names. */
export async function sentFiles(
  terrain: Terrain,
  seamarks: readonly DemoFeature[],
  gaugeMarks: readonly DemoFeature[],
  moorings: readonly DemoFeature[],
): Promise<Readonly<Record<string, Uint8Array>>> {
  const write = async (layers: readonly FileLayer[], name: string) => (await writeFeatureFile(layers, name)).bytes;
  return {
    'rents.csv': rents(leases(terrain)),
    'leases.zip': await write([inSystem(layer('leases', leases(terrain)), reachGrid)], 'leases.zip'),
    'zones.kmz': await write([layer('zones', zones())], 'zones.kmz'),
    'survey.gpx': await write(survey(terrain), 'survey.gpx'),
    'gauges.csv': gauges(gaugeMarks),
    'chart.gpkg': await write(chart(seamarks, moorings), 'chart.gpkg'),
  };
}
