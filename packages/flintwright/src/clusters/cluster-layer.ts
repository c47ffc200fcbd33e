import type { PickedCluster } from '../base/picked-cluster.js';
import { featureKeys, featureToGeoJson, type ClusterNode, type CompiledLayer } from '@flintwright/core';
import { Portrayer, stepOf, type Camera } from '@flintwright/core/internal';
import type { MapContext } from '../base/map-context.js';
import type { PickedFeature } from '../base/picked-feature.js';
import { ClusterBrush, ClusterFigures } from '../gl/cluster-brush.js';
import type { ClusterDrawing } from '../gl/renderer.js';
import type { ClusterSource } from '../load/cluster-source.js';
import type { Sources } from '../load/sources.js';
import { ClusterElements, type ClusterPressed } from './cluster-elements.js';
import { ClusterLooks } from './cluster-look.js';
import { fanOffset, uncrowded, viewBox } from './cluster-placing.js';
import { sizeOf, SymbolWriter, type SymbolTarget } from './cluster-symbol.js';

/** One node on its way: where it began, where it goes, and how far it is. */
interface PlacedNode {
  layer: CompiledLayer;
  readonly clusters: ClusterSource;
  node: ClusterNode;
  from: readonly [number, number];
  /** Where it goes; a node that leaves goes to what takes it in. */
  to: readonly [number, number];
  /** 0 to 1. */
  t: number;
  leaving: boolean;
  /** Pixels off its place, for members of one place that are fanned out. */
  fan: readonly [number, number] | undefined;
}

/** A cluster or single feature that stands in view: its place on the screen and on the earth. */
export interface StandingNode {
  readonly layer: CompiledLayer;
  readonly node: ClusterNode;
  readonly x: number;
  readonly y: number;
  readonly at: readonly [number, number];
}

const glide = 260;
/**
 * Clusters and the single points among them, drawn in screen space: a hexagon with the count and a rim divided by what the cluster
 * holds. When the zoom changes, nodes glide out of the one they were part of, and into the one that takes them in.
 */
export class ClusterLayers {
  private nodes = new Map<string, PlacedNode>();
  private level = -1;
  private readonly looks: ClusterLooks;
  private readonly writer = new SymbolWriter();
  private readonly figures = new ClusterFigures();
  private readonly elements: ClusterElements;
  private fanned: { readonly layer: string; readonly id: number } | undefined;
  private readonly portrayers = new Map<
    string,
    { readonly portrayer: Portrayer; readonly rows: Map<number, Float32Array> }
  >();

  constructor(
    private readonly context: MapContext,
    private readonly sources: Sources,
  ) {
    this.looks = new ClusterLooks((name) => context.sprite(name) ?? 0);
    this.elements = new ClusterElements(context);
  }

  /**
   * Has the clusters of a layer be elements of the page.
   *
   * @param make makes the element of a cluster
   * @param pressed told of presses on them
   * @returns takes them off again
   */
  dress(layer: string, make: (cluster: PickedCluster) => HTMLElement, pressed: ClusterPressed): () => void {
    return this.elements.dress(layer, make, pressed);
  }

  /** Puts the elements of clusters where they belong. */
  followElements(camera: Camera): void {
    if (!this.elements.any) return;
    this.elements.follow(
      this.placed(camera)
        .filter(({ placed }) => placed.node.count > 1 && this.elements.has(placed.layer.id))
        .map(({ placed: { layer, node, to, leaving }, x, y, opacity }) => ({
          layer: layer.id,
          node,
          at: to,
          x,
          y,
          opacity,
          leaving,
        })),
    );
  }

  /** Takes the elements of clusters off the page. */
  remove(): void {
    this.elements.remove();
  }

  /** Whether something is still gliding. */
  get moving(): boolean {
    for (const { t } of this.nodes.values()) if (t < 1) return true;
    return false;
  }

  /** Forgets how points look, after the sheet or a state has changed. */
  forget(): void {
    this.portrayers.clear();
    this.looks.forget();
    this.writer.forget();
  }

  /** Spreads the members of a cluster that share one place around it; nothing folds them again. */
  fan(cluster?: { readonly layer: string; readonly node: ClusterNode }): void {
    this.fanned = cluster && { layer: cluster.layer, id: cluster.node.id };
  }

  /** Settles what stands for a view, moved on by `elapsed` milliseconds. */
  follow(camera: Camera, elapsed: number, still: boolean): void {
    const { zoom } = camera.view;
    const level = Math.floor(zoom + 1e-6);
    const before = this.nodes;
    const next = new Map<string, PlacedNode>();
    const box = viewBox(camera);
    for (const layer of this.context.state.sheet.layers) {
      if (!layer.clustered || !layer.visible || zoom < layer.zoom[0] || zoom >= layer.zoom[1]) continue;
      const { id } = layer;
      const clusters = this.sources.clustersOf(id);
      if (!clusters) continue;
      const { index } = clusters;
      const put = (node: ClusterNode, fan?: readonly [number, number]) => {
        const key = `${id}/${node.id}`;
        const at: readonly [number, number] = [node.lon, node.lat];
        const known = before.get(key);
        if (known && !known.leaving && known.clusters === clusters) {
          Object.assign(known, { layer, node, to: at, fan });
          next.set(key, known);
          return;
        }
        next.set(key, {
          layer,
          clusters,
          node,
          from: this.origin(clusters, id, node.id, before) ?? at,
          to: at,
          t: still || !before.size ? 1 : 0,
          leaving: false,
          fan,
        });
      };
      for (const node of index.query(box, zoom)) {
        if (this.fanned?.layer === id && this.fanned.id === node.id) {
          const members = index.members(node.id);
          members.forEach((point, i) => put(index.node(point), fanOffset(i, members.length)));
        } else put(node);
      }
    }
    // A node that has gone glides into the one that took it in.
    if (!still)
      for (const [key, placed] of before) {
        if (next.has(key)) continue;
        if (placed.leaving ? placed.t < 1 : level < this.level) {
          const into = placed.leaving ? placed.to : this.taker(placed, next);
          if (into)
            next.set(key, placed.leaving ? placed : { ...placed, from: placed.to, to: into, t: 0, leaving: true });
        }
      }
    for (const placed of next.values()) placed.t = still ? 1 : Math.min(1, placed.t + elapsed / glide);
    for (const [key, { leaving, t }] of next) if (leaving && t >= 1) next.delete(key);
    this.nodes = next;
    this.level = level;
  }

  private origin(
    { index }: ClusterSource,
    layer: string,
    id: number,
    before: ReadonlyMap<string, PlacedNode>,
  ): readonly [number, number] | undefined {
    for (let at = index.parentOf(id); at !== undefined; at = index.parentOf(at)) {
      const placed = before.get(`${layer}/${at}`);
      if (placed && !placed.leaving) return placed.to;
    }
    return undefined;
  }

  private taker(
    { clusters, layer, node }: PlacedNode,
    next: ReadonlyMap<string, PlacedNode>,
  ): readonly [number, number] | undefined {
    for (let at = clusters.index.parentOf(node.id); at !== undefined; at = clusters.index.parentOf(at)) {
      const placed = next.get(`${layer.id}/${at}`);
      if (placed) return placed.to;
    }
    return undefined;
  }

  /** Boxes on the screen that labels are to leave free. */
  boxes(camera: Camera): [number, number, number, number][] {
    return this.placed(camera)
      .filter(({ placed }) => !placed.leaving)
      .map(({ x, y, size }) => [x - size * 0.45, y - size * 0.45, x + size * 0.45, y + size * 0.45]);
  }

  /** The cluster at a pixel. */
  findCluster(camera: Camera, px: number, py: number): PickedCluster | undefined {
    const hit = this.at(camera, px, py).find(({ placed }) => placed.node.count > 1);
    return hit && { layer: hit.placed.layer.id, node: hit.placed.node, at: hit.placed.to };
  }

  /** The single features at a pixel, topmost first. */
  pick(camera: Camera, px: number, py: number, layers: readonly string[] | undefined): PickedFeature[] {
    return this.at(camera, px, py)
      .filter(({ placed }) => placed.node.point !== undefined && (!layers || layers.includes(placed.layer.id)))
      .map(({ placed: { layer, clusters, node } }) => ({
        ...featureToGeoJson(clusters.block, clusters.featureOf(node.point!)),
        layer: layer.id,
        data: layer.data,
        from: '',
        key: featureKeys(clusters.block, this.context.idName(layer.data))(clusters.featureOf(node.point!)),
      }));
  }

  /** All that stands in view, clusters and single features. */
  inView(camera: Camera): StandingNode[] {
    return this.placed(camera)
      .filter(({ placed }) => !placed.leaving)
      .map(({ placed, x, y }) => ({ layer: placed.layer, node: placed.node, x, y, at: placed.to }));
  }

  private at(camera: Camera, px: number, py: number) {
    return this.placed(camera)
      .filter(({ placed, x, y, size }) => !placed.leaving && Math.hypot(px - x, py - y) <= Math.max(12, size / 2 + 1))
      .reverse();
  }

  private placed(camera: Camera): { placed: PlacedNode; x: number; y: number; size: number; opacity: number }[] {
    const { width, height } = camera.size;
    const out = [];
    for (const placed of this.nodes.values()) {
      const ease = placed.t * placed.t * (3 - 2 * placed.t);
      const [bx, by, near] = camera.project(...placed.to);
      const [ax, ay] = placed.t < 1 ? camera.project(...placed.from) : [bx, by];
      const [fx, fy] = placed.fan ?? [0, 0];
      const x = ax + (bx - ax) * ease + fx * ease;
      const y = ay + (by - ay) * ease + fy * ease;
      const size = this.sizeOf(camera, placed);
      if (near <= 0 || x < -60 || y < -60 || x > width + 60 || y > height + 60) continue;
      out.push({
        placed,
        x,
        y,
        size,
        opacity: placed.leaving ? 1 - ease : placed.from === placed.to || placed.t >= 1 ? 1 : 0.35 + 0.65 * ease,
      });
    }
    // Greater ones lie above; of equals those further down.
    out.sort((a, b) => a.placed.node.count - b.placed.node.count || a.y - b.y);
    return camera.view.tilt > 15 ? uncrowded(out) : out;
  }

  /** Height of a node's symbol in CSS pixels. */
  private sizeOf(camera: Camera, placed: PlacedNode): number {
    const { node, layer, clusters } = placed;
    if (node.count === 1) return this.rowOf(camera, placed)[layer.parts.mark * 4 + 8];
    const element = this.elements.sizeOf(layer.id, node.id);
    if (element !== undefined) return element;
    const { clusterLook: look } = layer;
    if (!look) return sizeOf(node.count);
    return this.looks.of(look, node, clusters.categories, camera.view.zoom).row[look.parts.mark * 4 + 8];
  }

  /** The appearance row of a single point. */
  private rowOf(camera: Camera, { layer, clusters, node }: PlacedNode): Float32Array {
    const step = stepOf(layer, camera.view.zoom);
    const key = `${layer.id}/${step[0]}`;
    let held = this.portrayers.get(key);
    if (!held || this.held.get(key) !== clusters.block) {
      held = {
        portrayer: new Portrayer(layer, clusters.block, step, (name) => this.context.sprite(name) ?? 0),
        rows: new Map(),
      };
      this.portrayers.set(key, held);
      this.held.set(key, clusters.block);
    }
    let row = held.rows.get(node.id);
    if (!row) {
      row = held.portrayer.rows(
        [clusters.featureOf(node.point ?? 0)],
        this.context.states.of(this.context.state.sheet, layer.data, layer.from, clusters.block),
      );
      held.rows.set(node.id, row);
    }
    return row;
  }

  /** Features that the portrayers were made for. */
  private readonly held = new Map<string, unknown>();

  /** Writes the boxes to draw; returns the clusters that are drawn otherwise. */
  write(camera: Camera, target: Omit<SymbolTarget, 'figures'>): ClusterDrawing {
    const figures = this.figures.clear();
    const symbols = this.placed(camera).map(({ placed, x, y, size, opacity }) => {
      const { node, layer, clusters } = placed;
      const row = node.count === 1 ? this.rowOf(camera, placed) : undefined;
      const { categories } = clusters;
      const { clusterLook } = layer;
      const isElement = node.count > 1 && this.elements.has(layer.id);
      const look =
        node.count > 1 && clusterLook && !isElement
          ? { layer: clusterLook, shown: this.looks.of(clusterLook, node, categories, camera.view.zoom) }
          : undefined;
      return { node, layer, categories, x, y, size, opacity, row, look, isElement };
    });
    this.writer.write(symbols, { ...target, figures });
    return { figures, Brush: ClusterBrush };
  }
}
