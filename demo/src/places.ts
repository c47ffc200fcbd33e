import { point, type DemoFeature, type Metres } from './frame.js';
import { towns, villages } from './towns.js';

const waters: readonly (readonly [string, Metres, string, number])[] = [
  ['Tessary Reach', [1700, -200], 'water', 1],
  ['Outer Roads', [6500, 420], 'water', 1],
  ['Sallow Creek', [-5700, -1650], 'creek', 2],
  ['Osier Creek', [-3500, 1500], 'creek', 2],
  ['Long Mud Creek', [3200, -2750], 'creek', 2],
  ['Sefkin Creek', [5000, 2500], 'creek', 2],
  ['Head Water', [-10200, 1150], 'creek', 2],
  ['Hollow Sound', [12800, 300], 'water', 2],
];
const lands: readonly (readonly [string, Metres, string, number])[] = [
  ['Inner Skarn', [3420, 190], 'island', 2],
  ['Gannet Ledge', [7600, 1330], 'island', 2],
  ['Wether Island', [9500, -1900], 'island', 2],
  ['Great Skarn', [13300, -3150], 'island', 2],
  ['Outer Skarn', [16500, 830], 'island', 3],
  ['Sefkin Head', [8900, 5300], 'headland', 3],
  ['Cold Point', [8600, -5200], 'headland', 3],
  ['Hallow Woods', [-4300, 4400], 'wood', 3],
  ['Tamvoril Down', [-600, -4100], 'hill', 3],
  ['High Tessary', [-20500, 1200], 'hill', 2],
];

export function buildPlaces(): DemoFeature[] {
  let id = 0;
  const place = (name: string, at: Metres, kind: string, rank: number, people?: number) =>
    point(at, { name, kind, rank, ...(people ? { people } : {}) }, ++id);
  return [
    place('Tessary', [-21500, -2600], 'landmass', 0),
    ...towns.map((t, i) => place(t.name, t.at, 'town', t.rank, [18400, 11200, 5900][i])),
    ...villages.map((v, i) => place(v.name, v.at, 'village', v.rank, 240 + 90 * i)),
    ...waters.map((w) => place(...w)),
    ...lands.map((l) => place(...l)),
  ];
}
