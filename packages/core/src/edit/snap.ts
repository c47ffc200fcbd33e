import { planeAt, type EditSpace } from './space.js';
import { boxOfGeometry, pathsOf, type EditGeometry, type EditPosition } from './shape.js';

/** What a place is drawn to. */
export interface Snap {
  readonly at: readonly [number, number];
  /** What it was drawn to; `none` where nothing is near. */
  readonly to: 'vertex' | 'edge' | 'grid' | 'angle' | 'none';
}

export interface SnapOptions {
  /** How near a vertex or an edge has to be, metres. */
  readonly reach: number;
  /** Features that do not draw, such as the one that is dragged. */
  readonly except?: ReadonlySet<string>;
  /** Whether vertices and edges draw; default true. */
  readonly features?: boolean;
  /** Spacing in metres of a grid that draws; default none. */
  readonly grid?: number | undefined;
  /** The two vertices before: the next edge snaps to right angles, and to going straight on, from their edge. Default none. */
  readonly from?: readonly EditPosition[];
}

/** Draws places to the vertices and edges of features, to a grid, and to right angles. */
export class Snapper {
  private readonly boxes = new Map<string, { readonly geometry: EditGeometry; readonly box: readonly number[] }>();

  constructor(private readonly space: EditSpace) {}

  /** Puts a feature in, or in place of the one of that key; without a geometry takes it out. */
  set(key: string, geometry: EditGeometry | undefined): void {
    if (geometry) this.boxes.set(key, { geometry, box: boxOfGeometry(geometry) });
    else this.boxes.delete(key);
  }

  /**
   * Where a place is drawn to: the nearest vertex in reach, else the nearest edge, else a right angle, else the grid.
   *
   * @param at the place
   * @param options what draws, and how far
   */
  snap(at: EditPosition, { reach, except, features = true, grid, from = [] }: SnapOptions): Snap {
    const plane = planeAt(at, this.space);
    const [west, south] = plane.fromPlane([-reach, -reach]);
    const [east, north] = plane.fromPlane([reach, reach]);
    let [vertex, edge] = [reach, reach];
    let [toVertex, toEdge]: [[number, number] | undefined, [number, number] | undefined] = [undefined, undefined];
    for (const [key, { geometry, box }] of features ? this.boxes : []) {
      if (box[0] > east || box[2] < west || box[1] > north || box[3] < south || except?.has(key)) continue;
      for (const { spots, closed } of pathsOf(geometry)) {
        let last: [number, number] | undefined = closed ? plane.toPlane(spots[spots.length - 1]) : undefined;
        for (const spot of spots) {
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

  /** The nearest crossing of a grid of some metres: of whole parts of a degree that are about as long, or of metres on a plan. */
  private onGrid([x, y]: EditPosition, metres: number): [number, number] {
    if (this.space === 'plane') return [Math.round(x / metres) * metres, Math.round(y / metres) * metres];
    const north = metres / 111195;
    const row = Math.round(y / north) * north;
    const east = north / Math.max(0.01, Math.cos((row * Math.PI) / 180));
    return [Math.round(x / east) * east, row];
  }
}

/** The point of a segment that is nearest to the origin. */
function nearestOn([ax, ay]: readonly [number, number], [bx, by]: readonly [number, number]): [number, number] {
  const [dx, dy] = [bx - ax, by - ay];
  const length = dx * dx + dy * dy;
  const t = length ? Math.min(1, Math.max(0, -(ax * dx + ay * dy) / length)) : 0;
  return [ax + t * dx, ay + t * dy];
}
