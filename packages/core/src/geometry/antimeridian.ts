// Geometry that runs on beyond ±180°, cut along the antimeridian (RFC 7946, section 3.1.9).

type Position = readonly number[];
type Ring = readonly Position[];

/** A geometry in the form of RFC 7946, section 3.1. */
export type LonLatGeometry =
  | { readonly type: 'Point'; readonly coordinates: Position }
  | { readonly type: 'MultiPoint' | 'LineString'; readonly coordinates: readonly Position[] }
  | { readonly type: 'MultiLineString' | 'Polygon'; readonly coordinates: readonly Ring[] }
  | { readonly type: 'MultiPolygon'; readonly coordinates: readonly (readonly Ring[])[] }
  | { readonly type: 'GeometryCollection'; readonly geometries: readonly LonLatGeometry[] };

/** Which turn of the world a longitude lies in: 0 from −180° to 180°. */
const turnOf = (lon: number) => (lon >= -180 && lon <= 180 ? 0 : Math.floor((lon + 180) / 360));
const shifted = ([lon, ...rest]: Position, turns: number): Position => [lon - 360 * turns, ...rest];
const wrapped = (position: Position): Position => shifted(position, turnOf(position[0]));

function isBeyond(node: unknown): boolean {
  if (!Array.isArray(node)) return false;
  return typeof node[0] === 'number' ? Math.abs(node[0]) > 180 : node.some(isBeyond);
}

/** The point of an edge at a longitude; heights are interpolated. */
function crossing(a: Position, b: Position, lon: number): Position {
  const t = (lon - a[0]) / (b[0] - a[0]);
  return [lon, ...a.slice(1, Math.min(a.length, b.length)).map((v, k) => v + (b[k + 1] - v) * t)];
}

/** First and last turn of the world that some positions lie in. */
function turnsOf(positions: readonly Position[]): number[] {
  const lons = positions.map(([lon]) => lon);
  const [west, east] = [Math.min(...lons), Math.max(...lons)];
  const first = Math.floor((west + 180) / 360);
  // What ends at an antimeridian does not lie beyond it.
  const last = Math.max(first, Math.ceil((east + 180) / 360) - 1);
  return Array.from({ length: last - first + 1 }, (_, k) => first + k);
}

/** The antimeridians strictly between two longitudes, in the order in which one comes to them. */
function between(from: number, to: number): number[] {
  const [low, high] = [Math.min(from, to), Math.max(from, to)];
  const out: number[] = [];
  for (let lon = 360 * Math.floor((low + 180) / 360) - 180; lon < high; lon += 360) if (lon > low) out.push(lon);
  return from < to ? out : out.reverse();
}

const isAntimeridian = (lon: number) => ((lon % 360) + 360) % 360 === 180;

function cutLine(line: readonly Position[]): Ring[] {
  const pieces: Position[][] = [];
  let open: Position[] = [line[0]];
  const end = (at: Position) => {
    pieces.push(open);
    open = [at];
  };
  line.forEach((b, i) => {
    const a = line[i - 1];
    if (!a) return;
    for (const lon of between(a[0], b[0])) {
      const at = crossing(a, b, lon);
      open.push(at);
      end(at);
    }
    open.push(b);
    const next = line[i + 1];
    if (next && isAntimeridian(b[0]) && (a[0] - b[0]) * (next[0] - b[0]) < 0) end(b);
  });
  pieces.push(open);
  return pieces.map((piece) => {
    const [turns] = turnsOf(piece);
    return piece.map((position) => shifted(position, turns));
  });
}

const isInside = ([x, y]: Position, ring: Ring) =>
  ring.reduce((inside, [x1, y1], i) => {
    const [x2, y2] = ring[(i + 1) % ring.length];
    return y1 > y !== y2 > y && x < ((x2 - x1) * (y - y1)) / (y2 - y1) + x1 ? !inside : inside;
  }, false);

/**
 * The part of a polygon on one side of a meridian, as polygons: the stretches of its rings on that side, joined along the meridian from south to
 * north two by two. Rings are not closed.
 */
function half(rings: readonly Ring[], lon: number, sign: 1 | -1): Ring[][] {
  const depth = (position: Position) => (position[0] - lon) * sign;
  const whole: Ring[] = [];
  const chains: Position[][] = [];
  for (const ring of rings) {
    if (ring.every((position) => depth(position) >= 0)) whole.push(ring);
    const start = ring.findIndex((position) => depth(position) <= 0);
    if (start < 0 || ring.every((position) => depth(position) >= 0)) continue;
    let chain: Position[] | undefined;
    for (let k = 1; k <= ring.length; k++) {
      const [a, b] = [ring[(start + k - 1) % ring.length], ring[(start + k) % ring.length]];
      if (depth(a) <= 0 && depth(b) > 0) chain = [crossing(a, b, lon)];
      if (depth(b) > 0) chain!.push(b);
      if (depth(a) > 0 && depth(b) <= 0) {
        chain!.push(crossing(a, b, lon));
        chains.push(chain!);
        chain = undefined;
      }
    }
  }
  const ends = chains
    .flatMap((chain, c) => [
      { c, end: 0, lat: chain[0][1] },
      { c, end: 1, lat: chain[chain.length - 1][1] },
    ])
    .sort((a, b) => a.lat - b.lat);
  const partner = new Map(ends.map((one, i) => [`${one.c}/${one.end}`, ends[i ^ 1]]));
  const used = new Set<number>();
  const outer: Ring[] = [];
  for (let c = 0; c < chains.length; c++) {
    if (used.has(c)) continue;
    const loop: Position[] = [];
    let [at, backwards] = [c, false];
    do {
      used.add(at);
      loop.push(...(backwards ? [...chains[at]].reverse() : chains[at]));
      const next = partner.get(`${at}/${backwards ? 0 : 1}`)!;
      [at, backwards] = [next.c, next.end === 1];
    } while (!used.has(at));
    outer.push(loop);
  }
  // An outer ring that lies on this side as a whole comes first among the rings.
  if (whole.includes(rings[0])) return [whole];
  return outer.map((ring, i) => [
    ring,
    ...whole.filter((hole) => outer.findIndex((one) => isInside(hole[0], one)) === i),
  ]);
}

function cutPolygon(rings: readonly Ring[]): Ring[][] {
  // Without the position that closes each ring.
  const open = rings.map((ring) => ring.slice(0, -1));
  return turnsOf(open[0]).flatMap((turns) =>
    half(open, 360 * turns - 180, 1)
      .flatMap((polygon) => half(polygon, 360 * turns + 180, -1))
      .map((polygon) => polygon.map((ring) => [...ring, ring[0]].map((position) => shifted(position, turns)))),
  );
}

/**
 * A geometry in longitude and latitude without positions beyond ±180°: what runs on over the antimeridian is cut there (RFC 7946, section 3.1.9),
 * and becomes one of several parts. The same geometry where nothing does. Heights at cuts are interpolated.
 *
 * @param geometry longitudes in degrees, which may run on beyond ±180
 */
export function cutAtAntimeridian<T extends LonLatGeometry>(geometry: T): T | LonLatGeometry {
  return cut(geometry);
}

function cut(geometry: LonLatGeometry): LonLatGeometry {
  if (geometry.type === 'GeometryCollection') {
    const geometries = geometry.geometries.map(cut);
    return geometries.every((one, i) => one === geometry.geometries[i]) ? geometry : { ...geometry, geometries };
  }
  if (!isBeyond(geometry.coordinates)) return geometry;
  const lines = (pieces: Ring[]): LonLatGeometry =>
    pieces.length === 1
      ? { type: 'LineString', coordinates: pieces[0] }
      : { type: 'MultiLineString', coordinates: pieces };
  const polygons = (pieces: Ring[][]): LonLatGeometry =>
    pieces.length === 1 ? { type: 'Polygon', coordinates: pieces[0] } : { type: 'MultiPolygon', coordinates: pieces };
  switch (geometry.type) {
    case 'Point':
      return { type: geometry.type, coordinates: wrapped(geometry.coordinates) };
    case 'MultiPoint':
      return { type: geometry.type, coordinates: geometry.coordinates.map(wrapped) };
    case 'LineString':
      return lines(cutLine(geometry.coordinates));
    case 'MultiLineString':
      return { type: geometry.type, coordinates: geometry.coordinates.flatMap(cutLine) };
    case 'Polygon':
      return polygons(cutPolygon(geometry.coordinates));
    case 'MultiPolygon':
      return { type: geometry.type, coordinates: geometry.coordinates.flatMap(cutPolygon) };
  }
}
