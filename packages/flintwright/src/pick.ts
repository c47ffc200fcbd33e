import {
  featureNear,
  featureToGeoJson,
  strokeTexels,
  type Camera,
  type CompiledLayer,
  type GeoJsonFeature,
} from '@flintwright/core';
import { featureKeys, type DrawnTile, type TileStore } from './load/store.js';

/** A feature found on the map. */
export interface PickedFeature extends GeoJsonFeature {
  /** Layer of the sheet that draws it. */
  readonly layer: string;
  readonly data: string;
  /** Layer of the tiles; empty for features without layers. */
  readonly from: string;
  /** What tells it apart within its data and layer; undefined when nothing does. */
  readonly key: string | undefined;
}

export interface PickOptions {
  /** Only these layers; default all that are visible. */
  readonly layers?: readonly string[];
  /** Reach around the point in CSS pixels; default 4. */
  readonly within?: number;
}

/** The features at a pixel, topmost first, each once. */
export function pickAt(
  [px, py]: readonly [number, number],
  options: PickOptions,
  camera: Camera,
  layers: readonly CompiledLayer[],
  stores: ReadonlyMap<string, TileStore>,
  drawn: ReadonlyMap<string, readonly DrawnTile[]>,
  idNames: (data: string) => string | undefined,
): PickedFeature[] {
  const out: PickedFeature[] = [];
  const seen = new Set<string>();
  const place = camera.toSurface(px, py);
  if (!place) return out;
  const { zoom } = camera.view;
  const wrap = camera.surface.wrap;
  for (const layer of [...layers].reverse()) {
    if (options.layers ? !options.layers.includes(layer.id) : !layer.visible) continue;
    if (zoom < layer.zoom[0] || zoom >= layer.zoom[1]) continue;
    const store = stores.get(layer.data);
    if (!store) continue;
    // Finer tiles lie over coarser ones; only the tile that owns the pixel answers.
    const tiles = [...(drawn.get(layer.data) ?? [])].reverse();
    for (const { entry, copy } of tiles) {
      const { z, x, y } = entry.tile;
      const size = wrap / 2 ** z;
      const u = (place[0] + wrap / 2 - copy * wrap) / size - x;
      const v = (wrap / 2 - place[1]) / size - y;
      if (u < 0 || v < 0 || u >= 1 || v >= 1) continue;
      const index = entry.prepared!.layers.findIndex((prepared) => prepared.layer === layer.id);
      if (index >= 0) found(layer, entry, index, u, v);
      break;
    }
  }
  return out;

  function found(layer: CompiledLayer, entry: DrawnTile['entry'], index: number, u: number, v: number): void {
    const prepared = entry.prepared!.layers[index];
    const block = entry.prepared!.blocks[prepared.block];
    const size = wrap / 2 ** entry.tile.z;
    const unitsPerPixel = (block.extent / size) * camera.metresPerPixel;
    const keyOf = featureKeys(block, idNames(layer.data));
    const { rows } = entry.prepared!;
    for (let row = prepared.features.length - 1; row >= 0; row--) {
      const feature = prepared.features[row];
      const reach = reachOf(
        layer,
        rows,
        (prepared.texel + row * layer.texels) * 4,
        block.kinds[feature],
        options.within ?? 4,
      );
      if (reach < 0 || !featureNear(block, feature, u * block.extent, v * block.extent, reach * unitsPerPixel))
        continue;
      const key = keyOf(feature);
      const identity = `${layer.id}\u0000${key ?? `${entry.key}/${feature}`}`;
      if (seen.has(identity)) continue;
      seen.add(identity);
      const { x, y } = entry.tile;
      const geo = featureToGeoJson(block, feature, (xy) => {
        const at = camera.surface.inverse(
          (x + xy[0] / block.extent) * size - wrap / 2,
          wrap / 2 - (y + xy[1] / block.extent) * size,
          0,
        )!;
        [xy[0], xy[1]] = at;
      });
      out.push({ ...geo, layer: layer.id, data: layer.data, from: layer.from, key });
    }
  }
}

/** How far from its geometry a feature answers, in pixels; negative when it is not drawn at all. */
function reachOf(layer: CompiledLayer, rows: Float32Array, at: number, kind: number, within: number): number {
  const { parts } = layer;
  const shown = (texel: number) => rows[at + 4 * texel + 3] > 0 || rows[at + 4 * texel + 7] > 0;
  let drawnAtAll = layer.texels === 0 || layer.hasLabel;
  let reach = kind === 3 ? 0 : within;
  if (layer.hasFill && (shown(0) || (layer.hasMotif && rows[at + 15] > 0))) drawnAtAll = true;
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
  if (layer.hasBlock && shown(parts.block)) drawnAtAll = true;
  return drawnAtAll ? reach : -1;
}
