import { meetingOf, nearPairs, type Segment } from '../geometry/segment-grid.js';
import type { GatheredPlace } from './record.js';

interface StreetSegment extends Segment {
  readonly street: number;
}

/** Ends of streets this near to another street, in degrees, touch it. */
const touching = 1e-5;
/** Meetings of the same two streets nearer than this, in degrees, are one crossing. */
const oneCrossing = 4e-4;

/** Where streets meet: one entry for each pair of names and place. */
export function crossingsOf(places: readonly GatheredPlace[]): GatheredPlace[] {
  const streets = places.filter(({ role }) => role === 'street');
  const segments: StreetSegment[] = streets.flatMap(({ outline }, street) =>
    (outline?.paths ?? []).flatMap((path) =>
      Array.from({ length: Math.max(0, (path.length >> 1) - 1) }, (_, i) => ({
        street,
        x1: path[2 * i],
        y1: path[2 * i + 1],
        x2: path[2 * i + 2],
        y2: path[2 * i + 3],
      })),
    ),
  );
  const found = new Map<string, [number, number][]>();
  const out: GatheredPlace[] = [];
  for (const [a, b] of nearPairs(segments, touching)) {
    if (a.street === b.street) continue;
    const at = touchOf(a, b);
    if (!at) continue;
    const [one, other] = [streets[a.street], streets[b.street]].toSorted((p, q) => (p.name < q.name ? -1 : 1));
    if (one.name === other.name) continue;
    const key = `${one.name}\n${other.name}`;
    const there = found.get(key) ?? [];
    if (there.some(([x, y]) => Math.hypot(x - at[0], y - at[1]) < oneCrossing)) continue;
    found.set(key, [...there, at]);
    const within = one.within || other.within;
    out.push({
      ...{ role: 'crossing', kind: 'crossing', name: `${one.name} & ${other.name}`, number: '', names: [], within, at },
      ...{ bounds: undefined, outline: undefined, list: one.list, id: undefined, weight: 0.15 },
    });
  }
  return out;
}

/** Where two segments meet, or one touches the other with an end. */
function touchOf(a: Segment, b: Segment): [number, number] | undefined {
  const slack = ({ x1, y1, x2, y2 }: Segment) => touching / Math.max(touching, Math.hypot(x2 - x1, y2 - y1));
  const met = meetingOf(a, b, [slack(a), slack(b)]);
  if (met) return met.at;
  const ends: [number, number][] = [
    [b.x1, b.y1],
    [b.x2, b.y2],
  ];
  return ends.find(([x, y]) => Math.min(Math.hypot(x - a.x1, y - a.y1), Math.hypot(x - a.x2, y - a.y2)) <= touching);
}
