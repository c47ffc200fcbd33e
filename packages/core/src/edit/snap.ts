import { planeAt, type EditSpace, type TangentPlane } from './space.js';
import { pathsOf, type EditGeometry, type EditPosition } from './shape.js';

/** Result of snapping a position. */
export interface Snap {
  readonly at: readonly [number, number];
  /** What the position snapped to; `none` if nothing is near. */
  readonly to: 'vertex' | 'edge' | 'grid' | 'angle' | 'none';
}

export interface SnapOptions {
  /** Greatest distance in meters to a vertex or an edge. */
  readonly reach: number;
  /** Keys of features that are not snapped to, such as the dragged one. */
  readonly except?: ReadonlySet<string>;
  /** Whether positions snap to vertices and edges; default true. */
  readonly features?: boolean;
  /** Spacing in meters of a grid to snap to; default none. */
  readonly grid?: number | undefined;
  /** The two previous vertices: the next edge snaps to right angles with their edge, and to its continuation. Default none. */
  readonly from?: readonly EditPosition[];
}

/** Snaps positions to the vertices and edges of features, to a grid, and to right angles. */
export class Snapper {
  private readonly runs = new Map<string, readonly Run[]>();

  constructor(private readonly space: EditSpace) {}

  /** Adds or replaces the feature with a key; without a geometry removes it. */
  set(key: string, geometry: EditGeometry | undefined): void {
    if (geometry) this.runs.set(key, runsOf(geometry));
    else this.runs.delete(key);
  }

  /**
   * Snaps a position: to the nearest vertex in reach, else the nearest edge, else a right angle, else the grid.
   *
   * @param at the position
   * @param options what to snap to, and the reach
   */
  snap(at: EditPosition, { reach, except, features = true, grid, from = [] }: SnapOptions): Snap {
    const plane = planeAt(at, this.space);
    const [west, south, east, north] = boxAround(at, plane, reach);
    let [vertex, edge] = [reach, reach];
    let [toVertex, toEdge]: [[number, number] | undefined, [number, number] | undefined] = [undefined, undefined];
    const isNear = (run: Run) => run.west <= east && run.east >= west && run.south <= north && run.north >= south;
    for (const [key, runs] of features ? this.runs : [])
      for (const run of runs) {
        if (!isNear(run) || except?.has(key)) continue;
        const { spots, from, to } = run;
        let last: [number, number] | undefined;
        for (let i = from; i <= to; i++) {
          const spot = spots[i % spots.length];
          const here = plane.toPlane(spot);
          const away = Math.hypot(here[0], here[1]);
          if (away < vertex) [vertex, toVertex] = [away, [spot[0], spot[1]]];
          if (last) {
            const near = nearestOn(last, here);
            const off = Math.hypot(near[0], near[1]);
            if (off < edge) [edge, toEdge] = [off, near];
          }
          last = here;
        }
      }
    if (toVertex) return { at: toVertex, to: 'vertex' };
    if (toEdge) return { at: plane.fromPlane(toEdge), to: 'edge' };
    const squared = from.length > 1 ? this.square(at, from, reach) : undefined;
    if (squared) return { at: squared, to: 'angle' };
    if (grid) return { at: this.onGrid(at, grid), to: 'grid' };
    return { at: [at[0], at[1]], to: 'none' };
  }

  /** The place that makes the next edge run square to, or straight on from, the edge before. */
  private square(at: EditPosition, from: readonly EditPosition[], reach: number): [number, number] | undefined {
    const [before, last] = from.slice(-2);
    const plane = planeAt(last, this.space);
    const [bx, by] = plane.toPlane(before);
    const [x, y] = plane.toPlane(at);
    const length = Math.hypot(bx, by);
    if (!length) return undefined;
    const [ex, ey] = [bx / length, by / length];
    const [along, across] = [x * ex + y * ey, y * ex - x * ey];
    if (Math.abs(along) <= reach && Math.abs(across) > reach) return plane.fromPlane([-across * ey, across * ex]);
    if (Math.abs(across) <= reach && along < -reach) return plane.fromPlane([along * ex, along * ey]);
    return undefined;
  }

  /** The nearest crossing of a grid of some meters: of whole parts of a degree that are about as long, or of meters on a plan. */
  private onGrid([x, y]: EditPosition, meters: number): [number, number] {
    if (this.space === 'plane') return [Math.round(x / meters) * meters, Math.round(y / meters) * meters];
    const north = meters / 111195;
    const row = Math.round(y / north) * north;
    const east = north / Math.max(0.01, Math.cos((row * Math.PI) / 180));
    return [Math.round(x / east) * east, Math.max(-90, Math.min(90, row))];
  }
}

/** A box that holds all within some meters of a place; around a pole it goes round the world. */
function boxAround(at: EditPosition, plane: TangentPlane, reach: number): [number, number, number, number] {
  const corners = [-1, 0, 1].flatMap((e) => [-1, 0, 1].map((n) => plane.fromPlane([e * reach, n * reach])));
  const [xs, ys] = [corners.map(([x]) => x), corners.map(([, y]) => y)];
  const [west, east] = [Math.min(...xs), Math.max(...xs)];
  const isRound = east - west > 90;
  const latitudes = isRound ? [...ys, at[1] > 0 ? 90 : -90] : ys;
  const [south, north] = [Math.min(...latitudes), Math.max(...latitudes)];
  return isRound ? [-Infinity, south, Infinity, north] : [west, south, east, north];
}

/** A run of vertices of a path, from one to another, with its box: what lies far away is passed over by the run. */
interface Run {
  readonly spots: readonly EditPosition[];
  readonly from: number;
  /** The last vertex; of a ring it may be the number of vertices, which stands for the first. */
  readonly to: number;
  readonly west: number;
  readonly south: number;
  readonly east: number;
  readonly north: number;
}

/** Edges in one run. */
const runLength = 64;

function runsOf(geometry: EditGeometry): Run[] {
  return pathsOf(geometry).flatMap(({ spots, closed }) => {
    const last = closed ? spots.length : spots.length - 1;
    const runs: Run[] = [];
    for (let from = 0; from < Math.max(1, last); from += runLength) {
      const to = Math.min(last, from + runLength);
      let [west, south, east, north] = [Infinity, Infinity, -Infinity, -Infinity];
      for (let i = from; i <= to; i++) {
        const [x, y] = spots[i % spots.length];
        [west, south] = [Math.min(west, x), Math.min(south, y)];
        [east, north] = [Math.max(east, x), Math.max(north, y)];
      }
      runs.push({ spots, from, to, west, south, east, north });
    }
    return runs;
  });
}

/** The point of a segment that is nearest to the origin. */
function nearestOn([ax, ay]: readonly [number, number], [bx, by]: readonly [number, number]): [number, number] {
  const [dx, dy] = [bx - ax, by - ay];
  const length = dx * dx + dy * dy;
  const t = length ? Math.min(1, Math.max(0, -(ax * dx + ay * dy) / length)) : 0;
  return [ax + t * dx, ay + t * dy];
}
