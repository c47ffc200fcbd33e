import {
  addressKey,
  asFault,
  Fault,
  nearestSpelling,
  frameOf,
  mercatorGrid,
  Portrayer,
  stepOf,
  attributesOf,
  featureKeys,
  type CompiledLayer,
  type FeatureBlock,
  type LabelLook,
  type PreparedLayer,
  type SquareGrid,
  type Surface,
  type TileFrame,
  type PreparedTile,
  type TileAddress,
  type TileInView,
  type ZoomStep,
} from '@flintwright/core';
import type { Device } from '../gl/device.js';
import { covering, idle } from './cover.js';
import type { Test } from './cluster-source.js';
import { TileBuffers } from '../gl/tile-buffers.js';
import type { WorkerPool } from '../worker/pool.js';
import type { TileSource } from './source.js';

/** One tile of a source: loading, ready, or known to be empty or faulty. */
export interface TileEntry {
  readonly tile: TileAddress;
  readonly key: number;
  readonly frame: TileFrame;
  state: 'loading' | 'ready' | 'empty' | 'failed';
  /** Version of the geometry (which layers, which filters) that `prepared` was made for. */
  version: number;
  bytes?: Uint8Array | 'cut' | undefined;
  prepared?: PreparedTile;
  buffers?: TileBuffers;
  /** Zoom step of each prepared layer's rows. */
  steps: ZoomStep[];
  looks: ({ step: ZoomStep; looks: (LabelLook | undefined)[] } | undefined)[];
  /** Which prepared layer belongs to a layer of the sheet, as asked so far; −1 for none. */
  indices: WeakMap<CompiledLayer, number>;
  used: number;
  failedAt: number;
  controller?: AbortController;
}

/** An entry to be drawn in one copy of the world. */
export interface DrawnTile {
  readonly entry: TileEntry;
  readonly copy: number;
}

export interface StoreHost {
  readonly pool: WorkerPool;
  readonly device: () => Device | undefined;
  readonly sprite: (name: string) => number;
  /** States of a feature, joined by `+`; empty for none. */
  stateOf(data: string, from: string, block: FeatureBlock): ((feature: number) => string) | undefined;
  fault(fault: Fault, data: string): void;
  /** The tile matrix set that a data entry names. */
  gridSpec(data: string): string | object;
  /** The application's own test of what a layer shows. */
  testOf(layer: string): Test | undefined;
  /** Something arrived; a frame is wanted. */
  changed(): void;
}

const loadingAtOnce = 8;

/** The tiles of one data entry: asked for, kept, handed out for drawing, and let go. */
export class TileStore {
  readonly entries = new Map<number, TileEntry>();
  private layers: readonly CompiledLayer[] = [];
  private layerById = new Map<string, CompiledLayer>();
  private signature = '';
  private version = 0;
  private frame = 0;
  private wanted: readonly TileInView[] = [];
  private zoom = 0;
  private readonly told = new Set<string>();
  private destroyed = false;

  constructor(
    readonly name: string,
    public source: TileSource,
    private readonly host: StoreHost,
    private readonly surface: Surface,
  ) {}

  /** Grid that its tiles belong to. */
  get grid(): SquareGrid {
    return this.source.features ? this.surface.grid : (this.source.grid?.grid ?? mercatorGrid);
  }

  /** Whether its tiles need only be moved and scaled. */
  get isFlat(): boolean {
    return this.surface.flat && this.surface.grid === this.grid;
  }

  /** Takes over the layers of a sheet. Geometry is made again only where the layers' signatures differ. */
  setLayers(layers: readonly CompiledLayer[]): void {
    this.layers = layers.filter((layer) => layer.data === this.name);
    this.layerById = new Map(this.layers.map((layer) => [layer.id, layer]));
    const signature = this.layers
      .map((layer) => `${layer.id}\u0000${layer.signature}`)
      .sort()
      .join('\u0001');
    if (signature !== this.signature) {
      this.signature = signature;
      this.version++;
      this.checkNames();
    }
    this.restyle();
  }

  /** Has every tile prepared anew, after the features have changed; the old ones stay on screen until then. */
  renew(source = this.source): void {
    this.source = source;
    this.version++;
    for (const [key, entry] of this.entries)
      if (entry.state === 'empty' || entry.state === 'failed') this.entries.delete(key);
    this.pump();
  }

  /** Whether anything is on its way. */
  get loading(): boolean {
    return this.wanted.some((tile) => {
      const entry = this.entries.get(addressKey(tile.z, tile.x, tile.y));
      return !entry || entry.state === 'loading' || (entry.state === 'ready' && entry.version !== this.version);
    });
  }

  /** Says which tiles the view needs, nearest first; starts and stops loading. */
  want(tiles: readonly TileInView[], zoom: number): void {
    this.frame++;
    this.wanted = tiles;
    this.zoom = zoom;
    const keys = new Set(tiles.map((tile) => addressKey(tile.z, tile.x, tile.y)));
    for (const [key, entry] of this.entries) {
      if (entry.state !== 'loading' || keys.has(key) || entry.prepared) continue;
      entry.controller?.abort(new Fault('request.unwanted', 'the tile is no longer wanted', 'Nothing is to be done.'));
      this.entries.delete(key);
    }
    this.pump();
  }

  private pump(): void {
    let under = 0;
    for (const entry of this.entries.values()) if (entry.state === 'loading' || entry.controller) under++;
    for (const tile of this.wanted) {
      if (under >= loadingAtOnce || this.destroyed) return;
      const key = addressKey(tile.z, tile.x, tile.y);
      const entry = this.entries.get(key);
      if (entry?.controller) continue;
      if (entry && entry.state === 'failed' && performance.now() - entry.failedAt < 30000) continue;
      if (entry && (entry.state === 'empty' || (entry.state === 'ready' && entry.version === this.version))) continue;
      under++;
      void this.load(entry ?? this.add(tile, key));
    }
  }

  private add({ z, x, y }: TileAddress, key: number): TileEntry {
    const tile = { z, x, y };
    const entry: TileEntry = {
      tile,
      key,
      frame: frameOf(this.surface, this.grid, tile),
      state: 'loading',
      version: -1,
      steps: [],
      looks: [],
      indices: new WeakMap(),
      used: this.frame,
      failedAt: 0,
    };
    this.entries.set(key, entry);
    return entry;
  }

  private async load(entry: TileEntry): Promise<void> {
    const controller = new AbortController();
    entry.controller = controller;
    try {
      entry.bytes ??= await this.source.fetch(entry.tile, controller.signal);
      const { bytes } = entry;
      controller.signal.throwIfAborted();
      if (!bytes) {
        entry.state = 'empty';
        return;
      }
      const { version } = this;
      const answer = await this.host.pool.prepare({
        data: this.name,
        tile: entry.tile,
        zoom: this.zoom,
        shown: this.shownAt(entry.tile.z),
        ...(bytes === 'cut' ? {} : { bytes }),
        ...(this.source.grid ? { grid: this.host.gridSpec(this.name) } : {}),
      });
      if (this.destroyed || this.entries.get(entry.key) !== entry) return;
      for (const note of answer.notes ?? [])
        this.host.fault(
          new Fault(
            note.code,
            note.message,
            note.mend,
            `tile ${entry.tile.z}/${entry.tile.x}/${entry.tile.y}, ${note.at}`,
          ),
          this.name,
        );
      const device = this.host.device();
      entry.prepared = answer.tile!;
      entry.version = answer.version < this.host.pool.version ? -1 : version;
      entry.steps = entry.prepared.layers.map((layer) => layer.step);
      entry.looks = [];
      entry.indices = new WeakMap();
      entry.buffers?.destroy();
      delete entry.buffers;
      if (device) entry.buffers = new TileBuffers(device, entry.prepared);
      entry.state = 'ready';
      // Colours may have changed while the worker was at it. That holds without a graphics context, too: it may come back.
      this.restyleEntry(entry, true);
    } catch (error) {
      if (controller.signal.aborted || this.destroyed) return;
      entry.state = entry.prepared ? 'ready' : 'failed';
      entry.failedAt = performance.now();
      if (entry.prepared) entry.version = this.version;
      this.host.fault(
        asFault(
          error,
          'tile.failed',
          'Check the tile.',
          `tile ${entry.tile.z}/${entry.tile.x}/${entry.tile.y} of "${this.name}"`,
        ),
        this.name,
      );
    } finally {
      if (entry.controller === controller) delete entry.controller;
      if (!this.destroyed) {
        this.pump();
        this.host.changed();
      }
    }
  }

  /** Zoom levels at which tiles of a level may be seen: their own two, one either way while others load, and beyond at both ends. */
  private shownAt(z: number): readonly [number, number] {
    const [first, last] = this.source.zooms;
    return [z <= first ? 0 : z, z >= last ? 25 : z + 4];
  }

  /** What to draw, coarse tiles first; see {@link covering}. */
  drawn(): DrawnTile[] {
    const at = (z: number, x: number, y: number) => this.entries.get(addressKey(z, x, y));
    const out = covering<TileEntry>(this.wanted, {
      find: (z, x, y) => {
        const entry = at(z, x, y);
        return entry?.buffers ? entry : undefined;
      },
      isEmpty: (z, x, y) => at(z, x, y)?.state === 'empty',
    });
    for (const { entry } of out) entry.used = this.frame;
    this.trim();
    return out;
  }

  /** Lets go of what {@link idle} names. */
  private trim(): void {
    for (const entry of idle(
      this.entries,
      this.wanted.length,
      this.frame,
      ({ controller }) => controller !== undefined,
    )) {
      entry.buffers?.destroy();
      this.entries.delete(entry.key);
    }
  }

  /** The layer of the present sheet that a prepared layer belongs to. */
  layerOf(prepared: PreparedLayer): CompiledLayer | undefined {
    return this.layerById.get(prepared.layer);
  }

  /** Brings appearance rows to the present zoom, where a layer follows it. */
  follow(entry: TileEntry, zoom: number): void {
    entry.prepared!.layers.forEach((prepared, i) => {
      const layer = this.layerOf(prepared);
      if (!layer?.usesZoom) return;
      const [low, high] = entry.steps[i];
      if (zoom >= low && zoom < high) return;
      this.rewrite(entry, i, layer, stepOf(layer, zoom));
    });
  }

  /** How each label spot of a prepared layer looks at a zoom. */
  looksOf(
    entry: TileEntry,
    index: number,
    layer: CompiledLayer,
    zoom: number,
  ): { step: ZoomStep; looks: (LabelLook | undefined)[] } {
    const known = entry.looks[index];
    if (known && (!layer.usesZoom || (zoom >= known.step[0] && zoom < known.step[1]))) return known;
    const step = stepOf(layer, zoom);
    const prepared = entry.prepared!.layers[index];
    const block = entry.prepared!.blocks[prepared.block];
    const portrayer = new Portrayer(layer, block, step, this.host.sprite);
    const stateOf = layer.stateNames.length ? this.host.stateOf(this.name, layer.from, block) : undefined;
    return (entry.looks[index] = {
      step,
      looks: Array.from(prepared.spots!.features, (feature) =>
        this.shows(layer, block, feature) ? portrayer.label(feature, stateOf?.(feature)) : undefined,
      ),
    });
  }

  /** Works all rows out anew, for a new sheet or new feature states. */
  restyle(): void {
    for (const entry of this.entries.values()) {
      entry.looks = [];
      if (entry.prepared) this.restyleEntry(entry, false);
    }
  }

  private restyleEntry(entry: TileEntry, onlyChanged: boolean): void {
    entry.prepared!.layers.forEach((prepared, i) => {
      const layer = this.layerOf(prepared);
      if (!layer || layer.signature !== prepared.signature) return;
      if (
        onlyChanged &&
        !this.host.testOf(layer.id) &&
        entry.version === this.version &&
        !this.host.stateOf(this.name, layer.from, entry.prepared!.blocks[prepared.block])
      )
        return;
      this.rewrite(entry, i, layer, stepOf(layer, this.zoom));
    });
  }

  private rewrite(entry: TileEntry, index: number, layer: CompiledLayer, step: ZoomStep): void {
    const { layers, blocks, rows } = entry.prepared!;
    const prepared = layers[index];
    const block = blocks[prepared.block];
    const portrayer = new Portrayer(layer, block, step, this.host.sprite);
    const fresh = portrayer.rows(prepared.features, this.host.stateOf(this.name, layer.from, block));
    this.blank(layer, block, prepared.features, fresh);
    rows.set(fresh, prepared.texel * 4);
    entry.steps[index] = step;
    entry.buffers?.writeRows(rows, prepared.texel, fresh.length / 4);
  }

  /** Whether a feature passes the application's test of its layer. */
  shows(layer: CompiledLayer, block: FeatureBlock, feature: number): boolean {
    return this.host.testOf(layer.id)?.(attributesOf(block, feature)) ?? true;
  }

  /** Clears the rows of features that do not pass. */
  private blank(layer: CompiledLayer, block: FeatureBlock, features: ArrayLike<number>, rows: Float32Array): void {
    if (!this.host.testOf(layer.id)) return;
    const floats = layer.texels * 4;
    for (let i = 0; i < features.length; i++)
      if (!this.shows(layer, block, features[i])) rows.fill(0, i * floats, (i + 1) * floats);
  }

  /** Rewrites the rows of single features after their states changed. */
  restate(from: string, keys: ReadonlySet<string>, idName: string | undefined): void {
    for (const entry of this.entries.values()) {
      entry.prepared?.layers.forEach((prepared, i) => {
        const layer = this.layerOf(prepared);
        if (!layer || layer.from !== from || !layer.stateNames.length || layer.signature !== prepared.signature) return;
        const block = entry.prepared!.blocks[prepared.block];
        const keyOf = featureKeys(block, idName);
        if (layer.hasLabel) entry.looks[i] = undefined;
        const portrayer = new Portrayer(layer, block, entry.steps[i], this.host.sprite);
        const stateOf = this.host.stateOf(this.name, layer.from, block);
        for (let row = 0; row < prepared.features.length; row++) {
          const feature = prepared.features[row];
          if (!keys.has(keyOf(feature) ?? '')) continue;
          const fresh = portrayer.rows([feature], stateOf);
          this.blank(layer, block, [feature], fresh);
          const texel = prepared.texel + row * layer.texels;
          entry.prepared!.rows.set(fresh, texel * 4);
          entry.buffers?.writeRows(entry.prepared!.rows, texel, layer.texels);
        }
      });
    }
  }

  /** Fills the GPU again after its context was lost. */
  rebuild(device: Device): void {
    for (const entry of this.entries.values())
      if (entry.prepared) entry.buffers = new TileBuffers(device, entry.prepared);
  }

  /** Forgets GPU objects that went with a lost context. */
  dropBuffers(): void {
    for (const entry of this.entries.values()) {
      entry.buffers?.destroy();
      delete entry.buffers;
    }
  }

  private checkNames(): void {
    const { layers: known } = this.source;
    if (!known) return;
    for (const layer of this.layers) {
      if (known.includes(layer.from) || this.told.has(layer.from)) continue;
      this.told.add(layer.from);
      const near = nearestSpelling(layer.from, known);
      this.host.fault(
        new Fault(
          'sheet.from',
          `layer "${layer.id}" draws "${layer.source.of}", and the tiles have no layer "${layer.from}"`,
          near ? `Did you mean "${this.name}/${near}"?` : `They have: ${known.join(', ')}.`,
          `$.layers[${layer.index}].of`,
        ),
        this.name,
      );
    }
  }

  destroy(): void {
    this.destroyed = true;
    for (const entry of this.entries.values()) {
      entry.controller?.abort(new Fault('map.destroyed', 'the map was destroyed', 'Nothing is to be done.'));
      entry.buffers?.destroy();
    }
    this.entries.clear();
  }
}

/** The prepared layer of a tile that draws a layer of the sheet; −1 when the tile was prepared for another sheet, or has none. */
export function preparedIndex({ indices, prepared }: TileEntry, layer: CompiledLayer): number {
  let index = indices.get(layer);
  if (index === undefined) {
    index = prepared!.layers.findIndex(({ layer: id, signature }) => id === layer.id && signature === layer.signature);
    indices.set(layer, index);
  }
  return index;
}
