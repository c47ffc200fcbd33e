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
import { featureNear, gridHalf, strokeTexels, tilePlace, type PixelScale } from '@flintwright/core/internal';
import type { MapContext } from '../base/map-context.js';
import type { PickedFeature, PickOptions } from '../base/picked-feature.js';
import type { ReadyEntry } from '../gl/drawn-tile.js';
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
  for (const layer of [...layers].reverse()) {
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
    for (let row = prepared.features.length - 1; row >= 0; row--) {
      const feature = prepared.features[row];
      const reach = reachOf(
        layer,
        rows,
        (prepared.texel + row * layer.texels) * 4,
        block.kinds[feature],
        options.within ?? 4,
      );
      if (reach < 0 || !featureNear(block, feature, u * block.extent, v * block.extent, reach, scale)) continue;
      if (!context.filters.shows(layer.id, block, feature)) continue;
      const key = keyOf(feature);
      const identity = `${layer.id}\u0000${key ?? `${entry.key}/${feature}`}`;
      if (seen.has(identity)) continue;
      seen.add(identity);
      out.push({
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

/** A feature of a tile as GeoJSON, in degrees, or the metres of a plan. */
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
        if (reachOf(layer, entry.prepared.rows, (prepared.texel + row * layer.texels) * 4, block.kinds[feature], 4) < 0)
          return;
        if (!context.filters.shows(layer.id, block, feature)) return;
        const at = placeIn(entry, data.grid, block, feature);
        const [x, y, near] = camera.project(at[0], at[1]);
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
          at,
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

/** How far from its geometry a feature answers, in pixels; negative when it is not drawn at all. */
function reachOf(layer: CompiledLayer, rows: Float32Array, at: number, kind: number, within: number): number {
  const { parts } = layer;
  const shown = (texel: number) => rows[at + 4 * texel + 3] > 0 || rows[at + 4 * texel + 7] > 0;
  let drawnAtAll = layer.texels === 0 || layer.hasLabel;
  let reach = kind === 3 ? 0 : within;
  if (layer.hasFill && (shown(0) || (layer.hasPattern && rows[at + 15] > 0))) drawnAtAll = true;
  for (let pass = 0; pass < layer.strokePasses; pass++) {
    const texel = parts.stroke + pass * strokeTexels;
    if (!shown(texel)) continue;
    drawnAtAll = true;
    if (kind !== 1) reach = Math.max(reach, Math.min(40, rows[at + 4 * texel + 8] / 2) + (kind === 2 ? within : 0));
  }
  const rim = at + 4 * parts.mark + 15;
  if (layer.hasMark && kind === 1 && (shown(parts.mark) || rows[rim] > 0)) {
    drawnAtAll = true;
    reach = Math.max(reach, rows[at + 4 * parts.mark + 8] / 2 + within);
  }
  if (layer.hasExtrusion && shown(parts.extrusion)) drawnAtAll = true;
  return drawnAtAll ? reach : -1;
}
