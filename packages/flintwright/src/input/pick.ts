import {
  featureKeys,
  featureToGeoJson,
  innerPoint,
  vertexRange,
  type CompiledLayer,
  type FeatureBlock,
  type GeoJsonFeature,
  type SquareGrid,
} from '@flintwright/core';
import {
  featureNear,
  gridHalf,
  strokeTexels,
  tilePlace,
  type Camera,
  type PixelScale,
} from '@flintwright/core/internal';
import type { MapContext } from '../base/map-context.js';
import type { PickedFeature, PickOptions } from '../base/picked-feature.js';
import type { ReadyEntry } from '../gl/drawn-tile.js';
import { isRound } from '../gl/globe-view.js';
import { mixOf } from '../gl/run-brush.js';
import type { Sources } from '../load/sources.js';

/** Where features are looked for. */
export interface PickScene {
  readonly context: MapContext;
  readonly sources: Sources;
  /** The layers to look at, lowest first. */
  readonly layers: readonly CompiledLayer[];
}

/** The features at a pixel, topmost first, each once. */
export function pickAt(
  [px, py]: readonly [number, number],
  options: PickOptions,
  { layers, sources, context }: PickScene,
): PickedFeature[] {
  const { camera } = context;
  const out: PickedFeature[] = [];
  const seen = new Set<string>();
  const place = camera.unproject(px, py);
  if (!place) return out;
  const { zoom } = camera.view;
  const strokes = strokeScale(camera, px, py);
  // Of a network, what answers with its topmost stroke lies above what answers with a casing alone.
  let network: string | undefined;
  let beneath: PickedFeature[] = [];
  const endNetwork = () => {
    out.push(...beneath);
    beneath = [];
  };
  for (const layer of [...layers].reverse()) {
    if (layer.source.network !== network) endNetwork();
    network = layer.source.network;
    if (options.layers ? !options.layers.includes(layer.id) : !layer.visible) continue;
    if (zoom < layer.zoom[0] || zoom >= layer.zoom[1]) continue;
    const data = sources.entries.get(layer.data);
    if (!data) continue;
    const world = inSquare(place, data.grid);
    // Finer tiles lie over coarser ones; only the tile that owns the pixel answers.
    for (const { entry } of data.tiles.toReversed()) {
      const { z, x, y } = entry.tile;
      const u = world[0] * 2 ** z - x;
      const v = world[1] * 2 ** z - y;
      if (u < 0 || v < 0 || u >= 1 || v >= 1) continue;
      const index = entry.prepared.layers.findIndex((prepared) => prepared.layer === layer.id);
      if (index >= 0) found(layer, data.grid, entry, index, [u, v]);
      break;
    }
  }
  endNetwork();
  return out;

  /** Pixels across and down for one square of a grid to the east and to the south, at the place; infinite where a pixel leads nowhere. */
  function pixelsPerSquare(grid: SquareGrid): PixelScale {
    const [u, v] = inSquare(place!, grid);
    const [[ux, vx], [uy, vy]] = [
      [1, 0],
      [0, 1],
    ].map(([dx, dy]) => {
      const ahead = camera.unproject(px + dx, py + dy);
      const beside = ahead ?? camera.unproject(px - dx, py - dy);
      if (!beside) return [NaN, NaN];
      const [bu, bv] = inSquare(beside, grid);
      const [du, dv] = [bu - u - Math.round(bu - u), bv - v];
      return ahead ? [du, dv] : [-du, -dv];
    });
    const area = ux * vy - uy * vx;
    return area ? [vy / area, -vx / area, -uy / area, ux / area] : [Infinity, Infinity, Infinity, Infinity];
  }

  function found(
    layer: CompiledLayer,
    grid: SquareGrid,
    entry: ReadyEntry,
    index: number,
    [u, v]: readonly [number, number],
  ): void {
    const prepared = entry.prepared.layers[index];
    const block = entry.prepared.blocks[prepared.block];
    const units = block.extent * 2 ** entry.tile.z;
    const scale = pixelsPerSquare(grid).map((pixels) => pixels / units) as unknown as PixelScale;
    const keyOf = featureKeys(block, context.idName(layer.data));
    const { rows } = entry.prepared;
    const { across, down, meter } = strokes;
    const within = options.within ?? 4;
    const slack = within * Math.sqrt(across[0] * down[1]);
    const how = { within, slack, zoomShare: mixOf(entry, index, zoom), meter };
    const [ax, dx, ay, dy] = scale;
    const ground: PixelScale = [
      across[0] * ax + down[0] * dx,
      down[1] * dx,
      across[0] * ay + down[0] * dy,
      down[1] * dy,
    ];
    const at = [u * block.extent, v * block.extent] as const;
    const exactly = (band: Band) => ({ ...band, reach: band.reach - slack });
    for (let row = prepared.features.length - 1; row >= 0; row--) {
      const feature = prepared.features[row];
      const bands = bandsOf(layer, rows, (prepared.texel + row * layer.texels) * 4, block.kinds[feature], how);
      const answers = ({ reach, aside, isStroke }: Band) =>
        featureNear(block, feature, at, reach, isStroke ? ground : scale, aside);
      if (!bands.some(answers)) continue;
      if (!context.filters.shows(layer.id, block, feature)) continue;
      const key = keyOf(feature);
      const identity = `${layer.id}\u0000${key ?? `${entry.key}/${feature}`}`;
      if (seen.has(identity)) continue;
      seen.add(identity);
      (network !== undefined && !bands.slice(-1).some((core) => answers(exactly(core))) ? beneath : out).push({
        ...geoJsonOf(entry, grid, block, feature),
        layer: layer.id,
        data: layer.data,
        from: layer.from,
        key,
      });
    }
  }
}

/** Where a place lies in the square of a grid, 0 to 1 from its upper left corner. */
function inSquare([lon, lat]: readonly [number, number], grid: SquareGrid): [number, number] {
  const [x, y] = grid.at(lon, lat);
  const u = 0.5 + x / (2 * gridHalf);
  return [grid.id === 'plan' ? u : u - Math.floor(u), 0.5 - y / (2 * gridHalf)];
}

/** A feature of a tile as GeoJSON, in degrees, or the meters of a plan. */
function geoJsonOf({ tile }: ReadyEntry, grid: SquareGrid, block: FeatureBlock, feature: number): GeoJsonFeature {
  return featureToGeoJson(block, feature, (xy) => {
    [xy[0], xy[1]] = tilePlace(grid, tile, xy[0] / block.extent, xy[1] / block.extent);
  });
}

/** A feature in view, and a place of it. */
export interface FeatureInView {
  readonly feature: PickedFeature;
  readonly at: readonly [number, number];
}

/** The features of some layers that are in view, each once, those nearest the middle first. */
export function featuresInView({ layers, sources, context }: PickScene, most = 100): FeatureInView[] {
  const { camera } = context;
  const { zoom } = camera.view;
  const { width, height } = camera.size;
  const found: {
    layer: CompiledLayer;
    grid: SquareGrid;
    entry: ReadyEntry;
    block: FeatureBlock;
    feature: number;
    key: string | undefined;
    at: [number, number];
    away: number;
  }[] = [];
  const seen = new Map<string, number>();
  for (const layer of layers) {
    if (!layer.visible || zoom < layer.zoom[0] || zoom >= layer.zoom[1]) continue;
    const data = sources.entries.get(layer.data);
    if (!data) continue;
    for (const { entry } of data.tiles) {
      const prepared = entry.prepared.layers.find((one) => one.layer === layer.id);
      if (!prepared) continue;
      const block = entry.prepared.blocks[prepared.block];
      const keyOf = featureKeys(block, context.idName(layer.data));
      prepared.features.forEach((feature, row) => {
        const at = (prepared.texel + row * layer.texels) * 4;
        if (!bandsOf(layer, entry.prepared.rows, at, block.kinds[feature], anyScale).length) return;
        if (!context.filters.shows(layer.id, block, feature)) return;
        const place = placeIn(entry, data.grid, block, feature);
        const [x, y, near] = camera.project(place[0], place[1]);
        if (near <= 0 || x < 0 || y < 0 || x > width || y > height) return;
        const key = keyOf(feature);
        const identity = `${layer.id}\u0000${key ?? `${entry.key}/${feature}`}`;
        const item = {
          layer,
          grid: data.grid,
          entry,
          block,
          feature,
          key,
          at: place,
          away: Math.hypot(x - width / 2, y - height / 2),
        };
        const before = seen.get(identity);
        if (before === undefined) seen.set(identity, found.push(item) - 1);
        else if (found[before].away > item.away) found[before] = item;
      });
    }
  }
  found.sort((a, b) => a.away - b.away);
  return found.slice(0, most).map(({ layer, grid, entry, block, feature, key, at }) => ({
    feature: { ...geoJsonOf(entry, grid, block, feature), layer: layer.id, data: layer.data, from: layer.from, key },
    at,
  }));
}

/** A place within a feature's part of a tile: a point itself, the middle vertex of a line, an inner point of an area. */
function placeIn({ tile }: ReadyEntry, grid: SquareGrid, block: FeatureBlock, feature: number): [number, number] {
  const [first, end] = vertexRange(block, feature);
  const part = block.featureParts[feature];
  const inner =
    block.kinds[feature] === 3
      ? innerPoint(block.coords, block.ringStarts, block.partRings[part], block.partRings[part + 1])
      : undefined;
  const at = block.kinds[feature] === 1 ? first : (first + end) >> 1;
  const [u, v] = inner ?? [block.coords[2 * at], block.coords[2 * at + 1]];
  return tilePlace(grid, tile, u / block.extent, v / block.extent);
}

/** A band beside a feature's geometry that answers: how far from its middle, and how far that lies to the right of lines, in pixels. */
interface Band {
  readonly reach: number;
  readonly aside: number;
  /** Whether it lies on the ground, as strokes do. */
  readonly isStroke: boolean;
}

/** How wide bands are. */
interface BandScale {
  /** Pixels around marks and places, and the same around strokes in the pixels of these. */
  readonly within: number;
  readonly slack: number;
  /** How far the zoom has come from one end of its step to the other, 0 to 1. */
  readonly zoomShare: number;
  /** Pixels for one meter of a stroke's width. */
  readonly meter: number;
}

const anyScale: BandScale = { within: 4, slack: 4, zoomShare: 0, meter: 1 };

/** The bit of a stroke's style that says its widths are in meters on the ground. */
const inMeters = 16;

/** How strokes lie on the ground at a place: a pixel of the screen across and down, in the pixels in which their widths are given. */
interface StrokeScale {
  readonly across: readonly [number, number];
  readonly down: readonly [number, number];
  /** Pixels for one meter of a width. */
  readonly meter: number;
}

/** The scale of strokes at a pixel. They lie on the ground, except where a sphere has a rim: there they keep their width on the screen. */
function strokeScale(camera: Camera, px: number, py: number): StrokeScale {
  const { surface, view, metresPerPixel } = camera;
  const meter = surface.stretch(...view.center) / metresPerPixel;
  const at = isRound(camera) ? undefined : camera.toSurface(px, py);
  const steps = at && [camera.toSurface(px + 1, py), camera.toSurface(px, py + 1)];
  if (!steps?.[0] || !steps[1]) return { across: [1, 0], down: [0, 1], meter };
  const [a, b] = steps.map((to) => to!.map((v, k) => (v - at![k]) / metresPerPixel));
  // In the plane of the ground, along the one step and square to it.
  const width = Math.hypot(...a);
  const along = (a[0] * b[0] + a[1] * b[1] + a[2] * b[2]) / width;
  return {
    across: [width, 0],
    down: [along, Math.sqrt(Math.max(0, b[0] ** 2 + b[1] ** 2 + b[2] ** 2 - along ** 2))],
    meter,
  };
}

/** The bands in which a feature answers, its topmost stroke last; none when it is not drawn at all. */
function bandsOf(
  layer: CompiledLayer,
  rows: Float32Array,
  at: number,
  kind: number,
  { within, slack, zoomShare, meter }: BandScale,
): Band[] {
  const { parts } = layer;
  const shown = (texel: number) => rows[at + 4 * texel + 3] > 0 || rows[at + 4 * texel + 7] > 0;
  const between = (o: number) => rows[o] + (rows[o + 1] - rows[o]) * zoomShare;
  let drawnAtAll = layer.texels === 0 || layer.hasLabel;
  let reach = kind === 3 ? 0 : within;
  const strokes: Band[] = [];
  if (layer.hasFill && (shown(0) || (layer.hasPattern && rows[at + 15] > 0))) drawnAtAll = true;
  for (let pass = 0; pass < layer.strokePasses; pass++) {
    const texel = parts.stroke + pass * strokeTexels;
    if (!shown(texel)) continue;
    drawnAtAll = true;
    if (kind === 1) continue;
    const o = at + 4 * (texel + 2);
    const width = between(o) * (rows[o + 3] & inMeters ? meter : 1);
    strokes.push({ reach: width / 2 + (kind === 2 ? slack : 0), aside: rows[o + 2], isStroke: true });
  }
  const rim = at + 4 * parts.mark + 15;
  if (layer.hasMark && kind === 1 && (shown(parts.mark) || rows[rim] > 0)) {
    drawnAtAll = true;
    reach = Math.max(reach, rows[at + 4 * parts.mark + 8] / 2 + within);
  }
  if (layer.hasExtrusion && shown(parts.extrusion)) drawnAtAll = true;
  if (!drawnAtAll) return [];
  return strokes.length && kind === 2 ? strokes : [{ reach, aside: 0, isStroke: false }, ...strokes];
}
