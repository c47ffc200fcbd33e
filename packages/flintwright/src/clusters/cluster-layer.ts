import {
  featureKeys,
  featureToGeoJson,
  findColour,
  findScheme,
  Portrayer,
  stepOf,
  type Camera,
  type ClusterNode,
  type CompiledLayer,
  type Rgba,
  type SheetScale,
} from '@flintwright/core';
import { spriteBox, textFieldPerPixel, type TextAtlas } from '../gl/atlas.js';
import { BoxList } from '../gl/boxes.js';
import type { Clusters } from '../load/cluster-source.js';
import type { PickedFeature } from '../input/pick.js';

export interface CairnsHost {
  sprite(name: string): number;
  clusters(): ReadonlyMap<string, Clusters>;
  layers(): readonly CompiledLayer[];
  stateOf(layer: CompiledLayer, clusters: Clusters): ((feature: number) => string) | undefined;
  idName(data: string): string | undefined;
}

/** A cluster on the map, as a press finds it. */
export interface PickedCluster {
  readonly layer: string;
  readonly node: ClusterNode;
  readonly at: readonly [number, number];
}

/** One node on its way: where it began, where it goes, and how far it is. */
interface Stand {
  readonly layer: CompiledLayer;
  readonly clusters: Clusters;
  readonly node: ClusterNode;
  from: readonly [number, number];
  /** Where it goes; a node that leaves goes to what takes it in. */
  to: readonly [number, number];
  /** 0 to 1. */
  t: number;
  leaving: boolean;
  /** Pixels off its place, for members of one place that are fanned out. */
  fan?: readonly [number, number];
}

const glide = 260;
const ink = findColour('#f7f5ef')!;
const slate = findColour('#22303a')!;
const clear: Rgba = [0, 0, 0, 0];
const spare = ['#d98a2b', '#3d7a6c', '#c5523a', '#4a7d94', '#8a7f70', '#6a5a8c'];
/** Height of a cairn in pixels for a count. */
const sizeOf = (count: number) => 34 + Math.min(26, 9 * Math.log10(count));
const countText = (count: number) =>
  count < 1000
    ? String(count)
    : new Intl.NumberFormat('en', { notation: 'compact', maximumFractionDigits: 1 }).format(count).toLowerCase();

/**
 * Clusters and the single points among them, drawn in screen space: a hexagonal cairn with the count and a rim divided by what it
 * holds. When the zoom changes, nodes glide out of the one they were part of, and into the one that takes them in.
 */
export class Cairns {
  private stands = new Map<string, Stand>();
  private level = -1;
  private fanned: { readonly layer: string; readonly id: number } | undefined;
  private readonly portrayers = new Map<
    string,
    { readonly portrayer: Portrayer; readonly rows: Map<number, Float32Array> }
  >();

  constructor(private readonly host: CairnsHost) {}

  /** Whether something is still gliding. */
  get moving(): boolean {
    for (const { t } of this.stands.values()) if (t < 1) return true;
    return false;
  }

  /** Forgets how points look, after the sheet or a state has changed. */
  forget(): void {
    this.portrayers.clear();
  }

  /** Spreads the members of a cluster that share one place around it; nothing folds them again. */
  fan(cluster?: { readonly layer: string; readonly node: ClusterNode }): void {
    this.fanned = cluster && { layer: cluster.layer, id: cluster.node.id };
  }

  /** Settles what stands for a view, moved on by `elapsed` milliseconds. */
  follow(camera: Camera, elapsed: number, still: boolean): void {
    const { zoom } = camera.view;
    const level = Math.floor(zoom + 1e-6);
    const before = this.stands;
    const next = new Map<string, Stand>();
    const box = viewBox(camera);
    for (const [id, clusters] of this.host.clusters()) {
      const layer = this.host.layers().find((one) => one.id === id);
      if (!layer?.clustered || !layer.visible || zoom < layer.zoom[0] || zoom >= layer.zoom[1]) continue;
      const { index } = clusters;
      const put = (node: ClusterNode, fan?: readonly [number, number]) => {
        const key = `${id}/${node.id}`;
        const at: readonly [number, number] = [node.lon, node.lat];
        const known = before.get(key);
        const stand = known && !known.leaving && known.clusters === clusters ? { ...known, node, to: at } : undefined;
        const { fan: _, ...rest } = stand ?? {
          layer,
          clusters,
          node,
          from: this.origin(clusters, id, node.id, before) ?? at,
          to: at,
          t: still || !before.size ? 1 : 0,
          leaving: false,
        };
        next.set(key, { ...rest, layer, ...(fan ? { fan } : {}) });
      };
      for (const node of index.query(box, zoom)) {
        if (this.fanned?.layer === id && this.fanned.id === node.id) {
          const members = index.members(node.id);
          members.forEach((point, i) => put(index.node(point), fanOffset(i, members.length)));
        } else put(node);
      }
    }
    // What has gone glides into what took it in.
    if (!still)
      for (const [key, stand] of before) {
        if (next.has(key)) continue;
        if (stand.leaving ? stand.t < 1 : level < this.level) {
          const into = stand.leaving ? stand.to : this.taker(stand, next);
          if (into) next.set(key, stand.leaving ? stand : { ...stand, from: stand.to, to: into, t: 0, leaving: true });
        }
      }
    for (const stand of next.values()) stand.t = still ? 1 : Math.min(1, stand.t + elapsed / glide);
    for (const [key, { leaving, t }] of next) if (leaving && t >= 1) next.delete(key);
    this.stands = next;
    this.level = level;
  }

  private origin(
    { index }: Clusters,
    layer: string,
    id: number,
    before: ReadonlyMap<string, Stand>,
  ): readonly [number, number] | undefined {
    for (let at = index.parentOf(id); at !== undefined; at = index.parentOf(at)) {
      const stand = before.get(`${layer}/${at}`);
      if (stand && !stand.leaving) return stand.to;
    }
    return undefined;
  }

  private taker(
    { clusters, layer, node }: Stand,
    next: ReadonlyMap<string, Stand>,
  ): readonly [number, number] | undefined {
    for (let at = clusters.index.parentOf(node.id); at !== undefined; at = clusters.index.parentOf(at)) {
      const stand = next.get(`${layer.id}/${at}`);
      if (stand) return stand.to;
    }
    return undefined;
  }

  /** Boxes on the screen that labels are to leave free. */
  boxes(camera: Camera): [number, number, number, number][] {
    return this.placed(camera)
      .filter(({ stand }) => !stand.leaving)
      .map(({ x, y, size }) => [x - size * 0.45, y - size * 0.45, x + size * 0.45, y + size * 0.45]);
  }

  /** The cluster at a pixel. */
  findCluster(camera: Camera, px: number, py: number): PickedCluster | undefined {
    const hit = this.at(camera, px, py).find(({ stand }) => stand.node.count > 1);
    return hit && { layer: hit.stand.layer.id, node: hit.stand.node, at: hit.stand.to };
  }

  /** The single features at a pixel, topmost first. */
  pick(camera: Camera, px: number, py: number, layers: readonly string[] | undefined): PickedFeature[] {
    return this.at(camera, px, py)
      .filter(({ stand }) => stand.node.point !== undefined && (!layers || layers.includes(stand.layer.id)))
      .map(({ stand: { layer, clusters, node } }) => ({
        ...featureToGeoJson(clusters.block, clusters.featureOf(node.point!)),
        layer: layer.id,
        data: layer.data,
        from: '',
        key: featureKeys(clusters.block, this.host.idName(layer.data))(clusters.featureOf(node.point!)),
      }));
  }

  /** All that stands in view, clusters and single features. */
  inView(camera: Camera): {
    readonly layer: CompiledLayer;
    readonly node: ClusterNode;
    readonly x: number;
    readonly y: number;
    readonly at: readonly [number, number];
  }[] {
    return this.placed(camera)
      .filter(({ stand }) => !stand.leaving)
      .map(({ stand, x, y }) => ({ layer: stand.layer, node: stand.node, x, y, at: stand.to }));
  }

  private at(camera: Camera, px: number, py: number) {
    return this.placed(camera)
      .filter(({ stand, x, y, size }) => !stand.leaving && Math.hypot(px - x, py - y) <= Math.max(12, size / 2 + 1))
      .reverse();
  }

  private placed(camera: Camera): { stand: Stand; x: number; y: number; size: number; opacity: number }[] {
    const { width, height } = camera.size;
    const out = [];
    for (const stand of this.stands.values()) {
      const ease = stand.t * stand.t * (3 - 2 * stand.t);
      const [[ax, ay], [bx, by]] = [camera.project(...stand.from), camera.project(...stand.to)];
      const near = camera.project(...stand.to)[2];
      const [fx, fy] = stand.fan ?? [0, 0];
      const x = ax + (bx - ax) * ease + fx * ease;
      const y = ay + (by - ay) * ease + fy * ease;
      const size =
        stand.node.count > 1 ? sizeOf(stand.node.count) : this.rowOf(camera, stand)[stand.layer.parts.mark * 4 + 8];
      if (near <= 0 || x < -60 || y < -60 || x > width + 60 || y > height + 60) continue;
      out.push({
        stand,
        x,
        y,
        size,
        opacity: stand.leaving ? 1 - ease : stand.from === stand.to || stand.t >= 1 ? 1 : 0.35 + 0.65 * ease,
      });
    }
    // Greater ones lie above; of equals those further down.
    out.sort((a, b) => a.stand.node.count - b.stand.node.count || a.y - b.y);
    return camera.view.tilt > 15 ? uncrowded(out) : out;
  }

  /** The appearance row of a single point. */
  private rowOf(camera: Camera, { layer, clusters, node }: Stand): Float32Array {
    const step = stepOf(layer, camera.view.zoom);
    const key = `${layer.id}/${step[0]}`;
    let held = this.portrayers.get(key);
    if (!held || this.held.get(key) !== clusters.block) {
      held = {
        portrayer: new Portrayer(layer, clusters.block, step, (name) => this.host.sprite(name)),
        rows: new Map(),
      };
      this.portrayers.set(key, held);
      this.held.set(key, clusters.block);
    }
    let row = held.rows.get(node.id);
    if (!row) {
      row = held.portrayer.rows([clusters.featureOf(node.point ?? 0)], this.host.stateOf(layer, clusters));
      held.rows.set(node.id, row);
    }
    return row;
  }

  private readonly held = new Map<string, unknown>();

  /** Writes the boxes to draw: shapes into `out`, counts into `texts`; returns how many of each. */
  write(
    camera: Camera,
    ratio: number,
    atlas: TextAtlas,
    out: Float32Array,
    texts: Float32Array,
  ): { shapes: number; texts: number } {
    const shapes = new BoxList(out);
    const counts = new BoxList(texts);
    const hexagon = this.host.sprite('hexagon');
    const square = this.host.sprite('square');
    const draw = (
      sprite: number,
      x: number,
      y: number,
      w: number,
      h: number,
      color: readonly number[],
      rim: readonly number[],
      rimWidth: number,
      turn = 0,
      opacity = 1,
    ) => {
      const { uv, cellPerSize, fieldPerPixel } = spriteBox(sprite);
      const field = fieldPerPixel / Math.min(w, h);
      shapes.put(
        [x, y, (w * cellPerSize) / 2, (h * cellPerSize) / 2],
        uv,
        color.map((v) => v * opacity),
        rim.map((v) => v * opacity),
        [rimWidth * field, field / ratio, turn],
      );
    };
    for (const { stand, x, y, size, opacity } of this.placed(camera)) {
      const { node, layer, clusters } = stand;
      if (node.count === 1) {
        const row = this.rowOf(camera, stand);
        const o = layer.parts.mark * 4;
        draw(
          row[o + 11],
          x,
          y,
          size,
          size,
          [...row.subarray(o, o + 4)],
          [...row.subarray(o + 12, o + 16)],
          row[o + 16],
          row[o + 10],
          opacity,
        );
        continue;
      }
      draw(hexagon, x, y, size, size, ink, clear, 0, 0, opacity);
      for (const piece of rimPieces(node, clusters.kinds, layer, size))
        draw(
          square,
          x + piece.x,
          y + piece.y,
          piece.length,
          (4.4 * 24) / 18,
          piece.color,
          clear,
          0,
          piece.turn,
          opacity,
        );
      draw(hexagon, x, y, size * 0.72, size * 0.72, slate, ink, 1.2, 0, opacity);
      const text = {
        font: 'system-ui, "Noto Sans", sans-serif',
        weight: 700,
        style: 'normal' as const,
        spacing: 0,
        wrap: 99,
        align: 'center' as const,
      };
      const run = atlas.run(countText(node.count), text);
      atlas.draw(run, text);
      const height = Math.min(14, (size * 0.5) / Math.max(1.3, run.width));
      const [bw, bh] = [(run.box![0] * height) / 2, (run.box![1] * height) / 2];
      counts.put(
        [x, y, bw, bh],
        run.uv!,
        ink.map((v) => v * opacity),
        clear,
        [0, textFieldPerPixel(height) / ratio, 0],
      );
    }
    return { shapes: shapes.count, texts: counts.count };
  }
}

/** Far off in a tilted view nodes come nearer than their reach: a lesser one that a greater one would cover is left out. */
function uncrowded<T extends { readonly x: number; readonly y: number; readonly size: number }>(
  placed: readonly T[],
): T[] {
  const kept: T[] = [];
  for (const one of [...placed].reverse()) {
    const covered = kept.some(({ x, y, size }) => Math.hypot(x - one.x, y - one.y) < (size + one.size) * 0.4);
    if (!covered) kept.push(one);
  }
  return kept.reverse();
}

/** The rim of a cairn: pieces of its six sides, coloured by the shares of the kinds, clockwise from the top. */
function rimPieces({ shares }: ClusterNode, kinds: readonly string[], layer: CompiledLayer, size: number) {
  const total = shares?.reduce((a, b) => a + b, 0) ?? 0;
  const colours = kindColours(kinds, layer);
  const sides = 6;
  const per = 5;
  const radius = size * 0.4;
  // The drawing of the hexagon is 19 units wide and 22 high.
  const corner = (i: number): [number, number] => {
    const angle = (Math.PI / 3) * i - Math.PI / 2;
    return [Math.cos(angle) * radius, Math.sin(angle) * radius];
  };
  return Array.from({ length: sides * per }, (_, k) => {
    const share = (k + 0.5) / (sides * per);
    let sum = 0;
    let kind = 0;
    while (total && kind < shares!.length - 1 && (sum += shares![kind] / total) <= share) kind++;
    const [[ax, ay], [bx, by]] = [corner(Math.floor(k / per)), corner(Math.floor(k / per) + 1)];
    const t = ((k % per) + 0.5) / per;
    const color = total ? (colours[kind] ?? colours[colours.length - 1]) : findColour(spare[0])!;
    return {
      x: ax + (bx - ax) * t,
      y: ay + (by - ay) * t,
      turn: Math.atan2(by - ay, bx - ax),
      length: (Math.hypot(bx - ax, by - ay) / per + 0.7) * (24 / 18),
      color,
    };
  });
}

function kindColours(kinds: readonly string[], { source, rules }: CompiledLayer): Rgba[] {
  const scale = source.mark?.color as SheetScale<string> | undefined;
  const compiled = rules[0]?.symbols.mark?.color;
  // The colours that the layer itself gives the kinds, through its own scale.
  const named = kinds.map((kind, i) => {
    const raw = Array.isArray(scale?.kinds)
      ? findScheme(scale.scheme ?? '', kinds.length)?.[i]
      : (scale?.kinds as Record<string, string> | undefined)?.[kind];
    return (raw !== undefined && findColour(raw)) || findColour(spare[i % spare.length])!;
  });
  return [...named, compiled?.constant ?? findColour('#98a1a5')!];
}

/** Where the i-th of some members of one place stands, in pixels off it: rings, six times as many in each as the ring's number. */
function fanOffset(i: number, of: number): [number, number] {
  let ring = 1;
  let first = 0;
  while (i >= first + ring * 6) {
    first += ring * 6;
    ring++;
  }
  const inRing = Math.min(ring * 6, of - first);
  const angle = ((i - first) / inRing) * 2 * Math.PI - Math.PI / 2;
  return [Math.cos(angle) * 26 * ring, Math.sin(angle) * 26 * ring];
}

/** A box in degrees that holds the view, with a rim to spare. */
function viewBox(camera: Camera): [number, number, number, number] {
  const { width, height } = camera.size;
  const [lon, lat] = camera.view.center;
  let [west, south, east, north] = [0, lat, 0, lat];
  for (const [x, y] of [
    [0, 0],
    [0.5, 0],
    [1, 0],
    [0, 0.5],
    [1, 0.5],
    [0, 1],
    [0.5, 1],
    [1, 1],
  ]) {
    const place = camera.unproject(x * width, y * height);
    if (!place) return [-180, -85, 180, 85];
    const off = place[0] - lon;
    [west, east] = [Math.min(west, off), Math.max(east, off)];
    [south, north] = [Math.min(south, place[1]), Math.max(north, place[1])];
  }
  const [rimX, rimY] = [(east - west) * 0.12, (north - south) * 0.12];
  if (east - west + 2 * rimX >= 360) return [-180, Math.max(-85, south - rimY), 180, Math.min(85, north + rimY)];
  const turn = (v: number) => ((((v + 180) % 360) + 360) % 360) - 180;
  return [turn(lon + west - rimX), Math.max(-85, south - rimY), turn(lon + east + rimX), Math.min(85, north + rimY)];
}
