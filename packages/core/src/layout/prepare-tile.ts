import { webMercatorHalf } from '../crs/web-mercator.js';
import { buffersOf, type FeatureBlock } from '../features/block.js';
import type { TileAddress } from '../grid/address.js';
import { squareOf } from '../mesh/clip.js';
import type { ProjectedTile } from '../mesh/project-tile.js';
import { MeshBuilder, type MeshRange, type Placement, type TileMesh } from '../mesh/tile-mesh.js';
import type { Portrayal, ShownLayer, ZoomStep } from '../sheet/plain.js';
import type { LabelAnchors, Wholes } from './label-anchors.js';

/** One layer of the sheet in one tile. */
export interface PreparedLayer {
  readonly layer: string;
  readonly signature: string;
  /** Index into the tile's blocks. */
  readonly block: number;
  /** Rows of the block that the layer draws, in the order of their appearance rows. */
  readonly features: Uint32Array;
  /** Texel at which the appearance rows begin. */
  readonly texel: number;
  readonly range: MeshRange;
  readonly labelAnchors?: LabelAnchors;
  /** For heat: sums of weights in the cells of a grid of 16 by 16 over the tile, those that are not 0. */
  readonly densities?: Float32Array;
  /** Zoom step for which the rows were worked out. */
  readonly step: ZoomStep;
}

/** One tile ready to be drawn: geometry, appearance rows, label anchors, and its features for picking and restyling. */
export interface PreparedTile {
  readonly mesh: TileMesh;
  /** Four floats a texel. */
  readonly rows: Float32Array;
  readonly layers: readonly PreparedLayer[];
  readonly blocks: readonly FeatureBlock[];
}

/** Lays the features of a tile on a surface that does more than move and scale tiles; see {@link projectTile}. */
export type TileProjector = (block: FeatureBlock, tile: TileAddress) => ProjectedTile;

const plainPlacement: Placement = { scale: 1, offsetX: 0, offsetY: 0 };

/** The anchor of a tile (its middle, in meters of web Mercator) and the placement of its units around it. */
export function placementOf(
  { z, x, y }: TileAddress,
  extent: number,
): Placement & { readonly anchor: readonly [number, number] } {
  const size = (2 * webMercatorHalf) / 2 ** z;
  const scale = size / extent;
  return {
    anchor: [-webMercatorHalf + (x + 0.5) * size, webMercatorHalf - (y + 0.5) * size],
    scale,
    offsetX: -size / 2,
    offsetY: size / 2,
  };
}

/** Finds the places of labels. */
export type LabelFinder<L> = (
  layer: L,
  block: FeatureBlock,
  features: Uint32Array,
  place: Placement,
  wholes: Wholes | undefined,
) => LabelAnchors;

/** The input for preparing a tile. */
export interface PrepareTileOptions<L extends ShownLayer> {
  readonly tile: TileAddress;
  /** Features of the tile in tile units, a block for each layer of the tile. */
  readonly blocks: readonly FeatureBlock[];
  /** Layers of the sheet that draw them. */
  readonly layers: readonly L[];
  /** Decides which features they draw, and what these look like. */
  readonly portrayal: Portrayal<L>;
  /** Zoom level of the view, for the first appearance. */
  readonly zoom: number;
  /** Zoom levels at which the tile may be seen; layers that keep clear of them are left out. Default all. */
  readonly shown?: ZoomStep;
  /** Projects features onto the surface; without it tiles are only moved and scaled. */
  readonly project?: TileProjector | undefined;
  /** Finds the places of labels; without it there are none. */
  readonly anchorsOf?: LabelFinder<L> | undefined;
  /** Where labels of whole features go, for tiles that are cut from features; see `TileCutter.middle`. */
  readonly wholes?: Wholes | undefined;
}

/**
 * Takes one tile down the road from features to buffers: selection, appearance, meshes and label anchors for every layer that draws one
 * of its blocks.
 */
export function prepareTile<L extends ShownLayer>({
  tile,
  blocks: source,
  layers,
  portrayal,
  zoom,
  shown = [0, 25],
  project,
  anchorsOf,
  wholes,
}: PrepareTileOptions<L>): PreparedTile {
  const blocks = source.map((block) => ({ ...block, tile }));
  const builder = new MeshBuilder(placementOf(tile, 4096));
  const projected: (ProjectedTile | undefined)[] = [];
  const prepared: PreparedLayer[] = [];
  const rows: Float32Array[] = [];
  let texel = 0;
  for (const layer of layers) {
    // Features without layers arrive as a single block, whatever its name.
    const block = layer.from === '' ? 0 : blocks.findIndex((candidate) => candidate.name === layer.from);
    const source = blocks[block];
    if (!source || layer.zoom[0] >= shown[1] || layer.zoom[1] <= shown[0]) continue;
    const features = portrayal.select(layer, source);
    if (!features.length) continue;
    const step = portrayal.step(layer, zoom);
    const laid = project && (projected[block] ??= project(source, tile));
    const place = laid ? plainPlacement : placementOf(tile, source.extent);
    const range = builder.at(place).add(laid?.lines ?? source, features, texel, layer.texels, {
      fill: layer.hasFill,
      stroke: layer.strokePasses > 0,
      mark: layer.hasMark || layer.heat !== undefined,
      shares: layer.hasGradient,
      spans: layer.hasLineMarks ? (laid?.ground() ?? (source.extent ? [squareOf(source.extent)] : [])) : undefined,
      extrusion: layer.hasExtrusion,
      ...(laid ? { fills: laid.fills, plan: laid.plan } : {}),
    });
    const portrayed = portrayal.rows(layer, source, features, step);
    prepared.push({
      layer: layer.id,
      signature: layer.signature,
      block,
      features,
      texel,
      range,
      step,
      ...(layer.heat ? { densities: heatDensities(source, features, portrayed, layer) } : {}),
      ...(layer.hasLabel && anchorsOf
        ? { labelAnchors: laidSpots(anchorsOf(layer, source, features, place, wholes), laid) }
        : {}),
    });
    rows.push(portrayed);
    texel += portrayed.length / 4;
  }
  const all = new Float32Array(texel * 4);
  let at = 0;
  for (const part of rows) {
    all.set(part, at);
    at += part.length;
  }
  return { mesh: builder.finish(), rows: all, layers: prepared, blocks };
}

/** Label spots in tile units, y upwards, brought into the frame of the surface; those that it does not reach are left out. */
function laidSpots(spots: LabelAnchors, laid: ProjectedTile | undefined): LabelAnchors {
  if (!laid) return spots;
  const { traces, traceStarts } = spots;
  const places = Array.from(spots.texts, (_, k) => laid.local(spots.places[2 * k], -spots.places[2 * k + 1]));
  const kept = Array.from(spots.texts, (_, k) => k).filter((k) => places[k]);
  const path: number[] = [];
  const starts: number[] = [];
  if (traces && traceStarts)
    for (const k of kept) {
      starts.push(path.length / 2);
      for (let v = traceStarts[k]; v < traceStarts[k + 1]; v++) {
        const at = laid.local(traces[2 * v], -traces[2 * v + 1]);
        if (at) path.push(...at);
      }
    }
  return {
    features: Uint32Array.from(kept, (k) => spots.features[k]),
    texts: kept.map((k) => spots.texts[k]),
    places: Float32Array.from(kept.flatMap((k) => places[k]!)),
    ...(traces ? { traces: Float32Array.from(path), traceStarts: Uint32Array.from([...starts, path.length / 2]) } : {}),
  };
}

/** The sums of weights in the cells of a grid of 16 by 16 over the tile that have any. */
function heatDensities(
  block: FeatureBlock,
  features: Uint32Array,
  rows: Float32Array,
  layer: ShownLayer,
): Float32Array {
  const cells = new Float64Array(256);
  const { coords, extent, featureParts, partRings, ringStarts } = block;
  for (let i = 0; i < features.length; i++) {
    const weight = rows[(i * layer.texels + layer.parts.heat) * 4];
    const from = ringStarts[partRings[featureParts[features[i]]]];
    const to = ringStarts[partRings[featureParts[features[i] + 1]]];
    for (let v = from; v < to; v++) {
      const column = Math.floor((coords[2 * v] / extent) * 16);
      const row = Math.floor((coords[2 * v + 1] / extent) * 16);
      if (column >= 0 && row >= 0 && column < 16 && row < 16) cells[16 * row + column] += weight;
    }
  }
  return Float32Array.from(cells.filter((sum) => sum > 0));
}

/** The buffers of a prepared tile that may be transferred to another thread. */
export function buffersOfPrepared({ mesh, rows, layers, blocks }: PreparedTile): ArrayBuffer[] {
  const out = new Set<ArrayBuffer>([
    mesh.areas,
    mesh.indices.buffer as ArrayBuffer,
    mesh.lines,
    mesh.marks,
    mesh.extrusions,
    mesh.extrusionIndices.buffer as ArrayBuffer,
    rows.buffer as ArrayBuffer,
  ]);
  for (const { features, labelAnchors, densities } of layers) {
    out.add(features.buffer as ArrayBuffer);
    if (densities) out.add(densities.buffer as ArrayBuffer);
    if (labelAnchors) {
      out.add(labelAnchors.features.buffer as ArrayBuffer);
      out.add(labelAnchors.places.buffer as ArrayBuffer);
      if (labelAnchors.traces) out.add(labelAnchors.traces.buffer as ArrayBuffer);
      if (labelAnchors.traceStarts) out.add(labelAnchors.traceStarts.buffer as ArrayBuffer);
    }
  }
  for (const block of blocks) for (const buffer of buffersOf(block)) out.add(buffer);
  return [...out];
}
