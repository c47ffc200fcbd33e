import { append } from '../base/lists.js';
import { Kind, type FeatureBlock } from '../features/block.js';
import { BlockBuilder } from '../features/builder.js';
import type { TileAddress } from '../grid/address.js';
import type { SquareGrid } from '../grid/square.js';
import type { Surface } from '../view/surface.js';
import { liesIn, squareOf, type Path } from './clip.js';
import type { LocalFrame } from './local-frame.js';
import { PathProjector } from './path-projector.js';

/** The features of a tile laid on a surface, in the tile's frame: x to the east, y downwards, meters. */
export interface ProjectedTile {
  readonly frame: LocalFrame;
  /** Areas to be filled; far out, cut small enough to follow the surface as it bends. */
  readonly fills: FeatureBlock;
  /**
   * The corners of the fills before they were laid, x and y by turns: what is straight there is straight to the last bit, so they are
   * triangulated as they lie there.
   */
  readonly plan: Float64Array;
  /** Outlines and lines; what runs along the edge of the surface is left out. Points too. */
  readonly lines: FeatureBlock;
  /** The ground of the tile; empty where the surface does not reach. */
  ground(): Path[];
  /** Where a position in tile units lies in the frame, y upwards; undefined where the surface does not reach. */
  local(u: number, v: number): [number, number] | undefined;
}

/**
 * Lays a tile on a surface that does more than move and scale it. Edges are straight in the tile's grid; points are added to them until
 * they lie within a quarter of a pixel of where they belong, and what the surface does not show is cut off along its edge: the meridian
 * opposite the center, limiting parallels, or a circle.
 */
export function projectTile(block: FeatureBlock, tile: TileAddress, grid: SquareGrid, surface: Surface): ProjectedTile {
  const laying = new PathProjector(tile, grid, surface, block.extent);
  const fills = new BlockBuilder(block.name, 'tile');
  const lines = new BlockBuilder(block.name, 'tile');
  const plan: number[] = [];
  for (let f = 0; f < block.count; f++) {
    const kind = block.kinds[f] as Kind;
    fills.begin();
    lines.begin();
    let lineKind: Kind = kind;
    if (kind === Kind.point) points(block, f, laying, lines);
    else if (kind === Kind.line) {
      for (const path of partsOf(block, f).flat()) for (const piece of laying.line(path)) put(lines, piece);
    } else if (kind === Kind.polygon) lineKind = polygon(block, f, laying, fills, plan, lines);
    fills.end(kind);
    lines.end(lineKind);
  }
  return {
    frame: laying.frame,
    fills: fills.finish(),
    plan: Float64Array.from(plan),
    lines: lines.finish(),
    ground: () => tileGround(laying, block.extent),
    local: (u, v) => laying.local(u, v),
  };
}

/** The ground of a tile on a planar surface: rings in the tile's frame, y downwards; none where the surface does not reach. */
export function projectedGround(
  tile: TileAddress,
  grid: SquareGrid,
  surface: Surface,
): { frame: LocalFrame; rings: Path[] } {
  const laying = new PathProjector(tile, grid, surface, 1);
  return { frame: laying.frame, rings: tileGround(laying, 1) };
}

const tileGround = (laying: PathProjector, extent: number): Path[] =>
  laying.ring(squareOf(extent)).map(({ path }) => path);

/** The parts of a feature, each a list of its rings. */
function partsOf({ featureParts, partRings, ringStarts, coords }: FeatureBlock, f: number): Path[][] {
  const out: Path[][] = [];
  for (let part = featureParts[f]; part < featureParts[f + 1]; part++) {
    const rings: Path[] = [];
    for (let r = partRings[part]; r < partRings[part + 1]; r++)
      rings.push(Array.from(coords.subarray(2 * ringStarts[r], 2 * ringStarts[r + 1])));
    out.push(rings);
  }
  return out;
}

function put(builder: BlockBuilder, path: Path): void {
  builder.part();
  builder.ring();
  for (let i = 0; i < path.length; i += 2) builder.vertex(path[i], path[i + 1]);
}

function points(block: FeatureBlock, f: number, laying: PathProjector, lines: BlockBuilder): void {
  for (const [u, v] of partsOf(block, f).flat()) {
    // A point in the rim belongs to the neighboring tile.
    if (u < 0 || v < 0 || u >= block.extent || v >= block.extent) continue;
    const at = laying.local(u, v);
    if (at) put(lines, [at[0], -at[1]]);
  }
}

function polygon(
  block: FeatureBlock,
  f: number,
  laying: PathProjector,
  fills: BlockBuilder,
  plan: number[],
  lines: BlockBuilder,
): Kind {
  let cut = false;
  const outlines: Path[][] = [];
  const isOpen = new Set<Path>();
  for (const rings of partsOf(block, f)) {
    for (const piece of laying.cells(rings)) {
      const laid = piece.flatMap((ring, k) => laying.ring(ring).map((one) => ({ ...one, hole: k > 0 })));
      const outer = laid.filter(({ hole }) => !hole);
      const holes = laid.filter(({ hole }) => hole);
      for (const one of outer) {
        fills.part();
        // Where the edge of the surface has cut a polygon in two, each piece keeps the holes that lie in it.
        for (const ring of [one, ...holes.filter((hole) => outer.length === 1 || liesIn(hole.path, one.path))]) {
          fills.ring();
          for (let i = 0; i < ring.path.length; i += 2) fills.vertex(ring.path[i], ring.path[i + 1]);
          append(plan, ring.plan);
        }
      }
    }
    const whole: Path[] = [];
    for (const ring of rings) {
      const stretches = laying.withoutSeams(ring);
      if (stretches) {
        cut = true;
        for (const piece of stretches.flatMap((stretch) => laying.line(stretch))) {
          isOpen.add(piece);
          outlines.push([piece]);
        }
        continue;
      }
      for (const { open, path } of laying.ring(ring)) {
        if (open) {
          cut = true;
          for (const stretch of open) {
            isOpen.add(stretch);
            outlines.push([stretch]);
          }
        } else whole.push(path);
      }
    }
    if (whole.length) outlines.push(whole);
  }
  for (const rings of outlines) {
    // Once the edge of the surface has opened one outline, all of the feature's are lines, the whole ones led back to their beginnings.
    if (cut) for (const path of rings) put(lines, isOpen.has(path) ? path : [...path, path[0], path[1]]);
    else {
      lines.part();
      for (const path of rings) {
        lines.ring();
        for (let i = 0; i < path.length; i += 2) lines.vertex(path[i], path[i + 1]);
      }
    }
  }
  return cut ? Kind.line : Kind.polygon;
}
