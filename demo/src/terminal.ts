import type { Sheet } from '@flintwright/core';

// The floor plan of the ferry terminal at Hallow Quay, in meters from its south-west corner.

type Spot = readonly [number, number];
interface PlanFeature {
  readonly type: 'Feature';
  readonly id: number;
  readonly properties: Record<string, string | number>;
  readonly geometry: { readonly type: string; readonly coordinates: unknown };
}

const rectangle = (x: number, y: number, w: number, h: number): Spot[] => [
  [x, y],
  [x + w, y],
  [x + w, y + h],
  [x, y + h],
  [x, y],
];

export interface Terminal {
  readonly rooms: PlanFeature[];
  readonly walls: PlanFeature[];
  readonly seats: PlanFeature[];
  readonly gates: PlanFeature[];
  readonly doors: PlanFeature[];
  readonly names: PlanFeature[];
}

export function buildTerminal(): Terminal {
  const rooms: [string, string, number, number, number, number][] = [
    ['Hall', 'public', 0, 8, 26, 20],
    ['Waiting room', 'public', 26, 8, 26, 20],
    ['Gangway A', 'gate', 52, 20, 12, 8],
    ['Gangway B', 'gate', 52, 8, 12, 12],
    ['Tickets', 'service', 0, 0, 12, 8],
    ['Café', 'service', 12, 0, 18, 8],
    ['Left luggage', 'service', 30, 0, 10, 8],
    ['Toilets', 'service', 40, 0, 12, 8],
    ['Harbour office', 'staff', 52, 0, 12, 8],
  ];
  const feature = (
    id: number,
    properties: PlanFeature['properties'],
    type: string,
    coordinates: unknown,
  ): PlanFeature => ({
    type: 'Feature',
    id,
    properties,
    geometry: { type, coordinates },
  });
  // Walls with gaps where the doors are.
  const walls: Spot[][] = [
    [
      [0, 14],
      [0, 0],
      [64, 0],
      [64, 8],
    ],
    [
      [64, 12],
      [64, 20],
      [64, 22],
    ],
    [
      [64, 26],
      [64, 28],
      [0, 28],
      [0, 18],
    ],
    [
      [0, 8],
      [5, 8],
    ],
    [
      [7, 8],
      [18, 8],
    ],
    [
      [22, 8],
      [34, 8],
    ],
    [
      [36, 8],
      [45, 8],
    ],
    [
      [47, 8],
      [57, 8],
    ],
    [
      [59, 8],
      [64, 8],
    ],
    [
      [12, 0],
      [12, 8],
    ],
    [
      [30, 0],
      [30, 8],
    ],
    [
      [40, 0],
      [40, 8],
    ],
    [
      [52, 0],
      [52, 12],
    ],
    [
      [52, 15],
      [52, 22],
    ],
    [
      [52, 25],
      [52, 28],
    ],
    [
      [52, 20],
      [64, 20],
    ],
    [
      [26, 28],
      [26, 21],
    ],
    [
      [26, 15],
      [26, 8],
    ],
  ];
  const seats: PlanFeature[] = [];
  for (let row = 0; row < 6; row++)
    for (let k = 0; k < 16; k++) {
      if (k === 7 || k === 8) continue;
      const [x, y] = [28.6 + k * 1.3, 9.8 + row * 2.45];
      seats.push(
        feature(
          seats.length + 1,
          { seat: `${'ABCDEF'[row]}${k + 1}`, kind: row === 0 ? 'priority' : 'plain' },
          'Polygon',
          [rectangle(x, y, 0.9, 1.1)],
        ),
      );
    }
  const gates: [string, string, Spot][] = [
    ['Gate A', 'ferry', [62.2, 24]],
    ['Gate B', 'ferry', [62.2, 10]],
    ['Entrance', 'door', [3.6, 16]],
  ];
  // The two leaves of the door, open inward, with the way that each swings.
  const leaf = (hinge: number, way: number) => {
    const at = (turn: number): Spot => [
      Math.round(200 * Math.sin(turn)) / 100,
      hinge + (way * Math.round(200 * Math.cos(turn))) / 100,
    ];
    const open = 1.35;
    return [
      ['leaf', [[0, hinge], at(open)]],
      ['swing', Array.from({ length: 10 }, (_, i) => at((open * i) / 9))],
    ] as const;
  };
  const doors = [...leaf(14, 1), ...leaf(18, -1)];
  // Names of rooms, clear of the seats.
  const spots: Record<string, Spot> = { 'Waiting room': [39, 25.9] };
  return {
    rooms: rooms.map(([name, kind, x, y, w, h], i) =>
      feature(i + 1, { name, kind, area: w * h }, 'Polygon', [rectangle(x, y, w, h)]),
    ),
    walls: walls.map((line, i) => feature(i + 1, {}, 'LineString', line)),
    seats,
    doors: doors.map(([kind, line], i) => feature(i + 1, { kind }, 'LineString', line)),
    names: rooms.map(([name, , x, y, w, h], i) =>
      feature(i + 1, { name }, 'Point', spots[name] ?? [x + w / 2, y + h / 2]),
    ),
    gates: gates.map(([name, icon, at], i) => feature(i + 1, { name, icon }, 'Point', at)),
  };
}

export function terminalSheet(): Sheet {
  return {
    sheet: 1,
    title: 'Ferry terminal, Hallow Quay',
    palette: { page: '#e9eef0', ink: '#22303a', wall: '#33444f', halo: '#fbf8f0' },
    data: {
      rooms: { features: 'terminal/rooms.geojson', id: 'name' },
      walls: { features: 'terminal/walls.geojson' },
      doors: { features: 'terminal/doors.geojson' },
      names: { features: 'terminal/names.geojson' },
      seats: { features: 'terminal/seats.geojson', id: 'seat' },
      gates: { features: 'terminal/gates.geojson', id: 'name', credit: 'Made-up plan' },
    },
    view: { surface: 'plan', center: [32, 14], zoom: 20.9, limits: { zoom: [18.5, 24], bounds: [-10, -10, 74, 38] } },
    background: '@page',
    icons: {
      door: 'M5 2H19V22H17V4H7V22H5ZM8.5 5.5L15.5 7.5V22L8.5 21ZM13 13.2A1.1 1.1 0 1 0 13 15.4A1.1 1.1 0 1 0 13 13.2Z',
    },
    layers: [
      {
        id: 'rooms',
        title: 'Rooms',
        of: 'rooms',
        fill: {
          color: {
            by: 'kind',
            categories: { public: '#f7f5ef', gate: '#cfe0e4', service: '#ecdfc4', staff: '#ddd6d0' },
            names: { public: 'open to all', gate: 'to the boats', service: 'services', staff: 'staff only' },
            title: 'Rooms',
          },
        },
        states: { hover: { fill: { color: '#f3d9ae' } } },
        popup: { title: 'name', lines: { Area: "format(area, '0 m²')" } },
      },
      {
        id: 'seats',
        title: 'Seats',
        of: 'seats',
        fill: {
          color: {
            by: 'kind',
            categories: { plain: '#9fb4ba', priority: '#3d7a6c' },
            names: { plain: 'any', priority: 'kept free for those who need them' },
            title: 'Seats',
          },
        },
        stroke: { color: '#ffffff', width: 1 },
        states: { hover: { stroke: { color: '#d98a2b', width: 2.5 } }, selected: { fill: { color: '#d98a2b' } } },
        select: 'several',
      },
      {
        id: 'seat-names',
        of: 'seats',
        zoom: [22.2, 25],
        label: { text: { is: 'seat' }, size: 10, color: '#ffffff', halo: { color: '#22303a', width: 1 } },
      },
      {
        id: 'doors',
        of: 'doors',
        rules: [
          { where: "kind = 'leaf'", stroke: { color: '@wall', width: '0.18m' } },
          { otherwise: true, stroke: { color: '@wall', width: 0.8, dash: [3, 2] } },
        ],
      },
      { id: 'walls', of: 'walls', stroke: { color: '@wall', width: '0.35m', cap: 'square' } },
      {
        id: 'room-names',
        of: 'names',
        label: {
          text: { is: 'name' },
          size: {
            by: 'zoom',
            ramp: [
              [19.6, 10.5],
              [21, 14],
            ],
          },
          weight: 600,
          wrap: 7,
          side: 'on',
          color: '@ink',
          halo: { color: '@halo', width: 1.5 },
        },
      },
      {
        id: 'gates',
        of: 'gates',
        mark: { icon: { is: 'icon' }, size: 20, color: '#b8452f' },
        label: {
          text: { is: 'name' },
          size: 12,
          side: ['above', 'below'],
          distance: 10,
          halo: { color: '@halo', width: 1.5 },
        },
      },
    ],
  } as unknown as Sheet;
}
