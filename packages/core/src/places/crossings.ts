import type { GatheredPlace } from './record.js';

interface Segment {
  readonly street: number;
  readonly x1: number;
  readonly y1: number;
  readonly x2: number;
  readonly y2: number;
}

/** Ends of streets this near to another street, in degrees, touch it. */
const touching = 1e-5;
/** Meetings of the same two streets nearer than this, in degrees, are one crossing. */
const oneCrossing = 4e-4;

/** Where streets meet: one entry for each pair of names and place. */
export function crossingsOf(places: readonly GatheredPlace[]): GatheredPlace[] {
  const streets = places.filter(({ role }) => role === 'street');
  const segments: Segment[] = streets.flatMap(({ outline }, street) =>
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
  for (const [a, b] of neighbours(segments)) {
    const at = meeting(a, b);
    if (!at) continue;
    const [one, other] = [streets[a.street], streets[b.street]].toSorted((p, q) => p.name.localeCompare(q.name));
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

/** Pairs of segments of different streets that share a cell of a grid, each pair at least once. */
function* neighbours(segments: readonly Segment[]): Generator<[Segment, Segment]> {
  const lengths = segments.map(({ x1, y1, x2, y2 }) => Math.max(Math.abs(x2 - x1), Math.abs(y2 - y1)));
  const cell = Math.max(1e-4, (2 * lengths.reduce((sum, length) => sum + length, 0)) / Math.max(1, segments.length));
  const grid = new Map<string, Segment[]>();
  for (const segment of segments) {
    const { x1, y1, x2, y2 } = segment;
    const range = (a: number, b: number) =>
      [Math.floor((Math.min(a, b) - touching) / cell), Math.floor((Math.max(a, b) + touching) / cell)] as const;
    const [[fromX, toX], [fromY, toY]] = [range(x1, x2), range(y1, y2)];
    for (let x = fromX; x <= toX; x++)
      for (let y = fromY; y <= toY; y++) {
        const key = `${x},${y}`;
        const there = grid.get(key);
        if (!there) grid.set(key, [segment]);
        else {
          for (const other of there) if (other.street !== segment.street) yield [other, segment];
          there.push(segment);
        }
      }
  }
}

/** Where two segments meet, or one touches the other with an end. */
function meeting(a: Segment, b: Segment): [number, number] | undefined {
  const [ax, ay, bx, by] = [a.x2 - a.x1, a.y2 - a.y1, b.x2 - b.x1, b.y2 - b.y1];
  const cross = ax * by - ay * bx;
  if (cross !== 0) {
    const t = ((b.x1 - a.x1) * by - (b.y1 - a.y1) * bx) / cross;
    const u = ((b.x1 - a.x1) * ay - (b.y1 - a.y1) * ax) / cross;
    const slack = (x: number, y: number) => touching / Math.max(touching, Math.hypot(x, y));
    const within = (v: number, by_: number) => v >= -by_ && v <= 1 + by_;
    if (within(t, slack(ax, ay)) && within(u, slack(bx, by))) return [a.x1 + t * ax, a.y1 + t * ay];
    return undefined;
  }
  const ends: [number, number][] = [
    [b.x1, b.y1],
    [b.x2, b.y2],
  ];
  return ends.find(([x, y]) => Math.min(Math.hypot(x - a.x1, y - a.y1), Math.hypot(x - a.x2, y - a.y2)) <= touching);
}
