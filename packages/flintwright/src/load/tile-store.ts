import { asFault, Fault, type CompiledLayer, type SquareGrid, type Surface, type TileAddress } from '@flintwright/core';
import {
  addressKey,
  buffersOfPrepared,
  localFrameOf,
  mercatorGrid,
  nearestSpelling,
  type PreparedTile,
  type TileInView,
} from '@flintwright/core/internal';
import { isPrepared, isReady, type DrawnTile, type ReadyEntry, type TileEntry } from '../gl/drawn-tile.js';
import type { Device } from '../gl/device.js';
import { TileBuffers } from '../gl/tile-buffers.js';
import { covering, idle } from './cover.js';
import type { TileSource } from './tile-source.js';
import { TileFaults } from './tile-faults.js';
import { TileRows } from './tile-rows.js';
import { Retry } from './retry.js';
import { loadingAtOnce, retryAfter, type LoadTools } from './tools.js';

/** Texels that go up to the graphics card at a time: 2 MiB. */
const slice = 131_072;

/** Bytes that a tile holds, here and on the graphics card, where its geometry lies. */
const weightOf = (tile: PreparedTile): number =>
  buffersOfPrepared(tile).reduce((sum, { byteLength }) => sum + byteLength, 0);

/** The tiles of one data entry: asked for, kept, handed out for drawing, and let go. */
export class TileStore {
  /** Appearance rows of the tiles. */
  readonly rows: TileRows;
  private readonly entries = new Map<number, TileEntry>();
  private layers: readonly CompiledLayer[] = [];
  private signature = '';
  private version = 0;
  private frame = 0;
  private wanted: readonly TileInView[] = [];
  private zoom = 0;
  private readonly told = new Set<string>();
  private readonly faults: TileFaults;
  /** Whether any tile has come that held something. */
  private anyCame = false;
  private removed = false;
  private readonly retry = new Retry(() => this.again());

  /**
   * @param gridSpec the tile matrix set that the data entry names
   * @param came told when the first tile has come, or when all in view are missing or failed
   */
  constructor(
    readonly name: string,
    public source: TileSource,
    private readonly tools: LoadTools,
    private readonly surface: Surface,
    private readonly gridSpec: string | object | undefined,
    private readonly came: (state: 'ready' | 'empty' | 'failed') => void,
  ) {
    this.rows = new TileRows(name, tools.context);
    this.faults = new TileFaults(name, tools.context);
  }

  /** Grid that its tiles belong to. */
  get grid(): SquareGrid {
    return this.source.features ? this.surface.grid : (this.source.grid?.grid ?? mercatorGrid);
  }

  /** Takes over the layers of a sheet. Geometry is made again only where the layers' signatures differ. */
  setLayers(layers: readonly CompiledLayer[]): void {
    this.layers = layers.filter((layer) => layer.data === this.name);
    this.rows.setLayers(this.layers);
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
    this.checkNames();
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
      entry.controller?.abort(new Fault('request.unwanted', 'the tile is no longer needed', 'No action is needed.'));
      this.entries.delete(key);
    }
    this.pump();
  }

  private pump(): void {
    let under = 0;
    for (const entry of this.entries.values()) if (entry.state === 'loading' || entry.controller) under++;
    for (const tile of this.wanted) {
      if (under >= loadingAtOnce || this.removed) return;
      const key = addressKey(tile.z, tile.x, tile.y);
      const entry = this.entries.get(key);
      if (entry?.controller) continue;
      if (entry && entry.state === 'failed' && performance.now() - entry.failedAt < retryAfter) continue;
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
      frame: localFrameOf(this.surface, this.grid, tile),
      state: 'loading',
      version: -1,
      steps: [],
      labelStyles: [],
      indices: new WeakMap(),
      used: this.frame,
      failedAt: 0,
      weight: 0,
    };
    this.entries.set(key, entry);
    return entry;
  }

  private async load(entry: TileEntry): Promise<void> {
    const controller = new AbortController();
    const { z, x, y } = entry.tile;
    entry.controller = controller;
    try {
      await this.prepare(entry, controller.signal);
    } catch (error) {
      if (controller.signal.aborted || this.removed) return;
      entry.state = entry.prepared ? 'ready' : 'failed';
      entry.failedAt = performance.now();
      // What could not be read is fetched anew: the server may have mended it.
      delete entry.bytes;
      if (entry.prepared) entry.version = this.version;
      this.retry.later();
      const at = `tile ${z}/${x}/${y} of "${this.name}"`;
      this.faults.failed(asFault(error, 'tile.failed', 'Check the tile.', at));
    } finally {
      if (entry.controller === controller) delete entry.controller;
      if (!this.removed) {
        this.pump();
        if (!this.loading) this.faults.flush();
        if (!this.anyCame && this.wanted.length && this.wanted.every((tile) => this.isAt(tile, 'failed')))
          this.came('failed');
        if (!this.anyCame) this.checkMissing();
        this.tools.context.invalidate('ground', true);
      }
    }
  }

  private isAt({ z, x, y }: TileAddress, state: TileEntry['state']): boolean {
    return this.entries.get(addressKey(z, x, y))?.state === state;
  }

  /** Asks for all again that failed. */
  private again(): void {
    for (const entry of this.entries.values()) if (entry.state === 'failed') entry.failedAt = -retryAfter;
    this.pump();
    this.tools.context.invalidate('ground', true);
  }

  /** Tells where every tile in view is missing and none has ever come. */
  private checkMissing(): void {
    const { source, wanted } = this;
    const { bounds } = source;
    const [lon, lat] = this.tools.context.state.view.center;
    const meant = !bounds || (lon >= bounds[0] && lon <= bounds[2] && lat >= bounds[1] && lat <= bounds[3]);
    if (source.features || !meant || !wanted.length || this.told.has('tiles.missing')) return;
    if (!wanted.every((tile) => this.isAt(tile, 'empty'))) return;
    this.told.add('tiles.missing');
    this.came('empty');
    const [{ z, x, y }] = wanted;
    this.tools.context.reportLater(
      new Fault(
        'tiles.missing',
        `none of the ${wanted.length} tiles of "${this.name}" in view is there`,
        'Check the address, the order of {z}, {x} and {y}, the "zooms" of the data, and the view of the map.',
        `tile ${z}/${x}/${y}`,
      ),
    );
  }

  private async prepare(entry: TileEntry, signal: AbortSignal): Promise<void> {
    const { pool, context, graphics } = this.tools;
    const { tile } = entry;
    entry.bytes ??= await this.source.fetch(tile, signal);
    const { bytes } = entry;
    signal.throwIfAborted();
    if (!bytes) {
      entry.state = 'empty';
      return;
    }
    const { version } = this;
    const answer = await pool.prepare({
      data: this.name,
      tile,
      zoom: this.zoom,
      shown: this.shownAt(tile.z),
      ...(bytes === 'cut' ? {} : { bytes }),
      ...(this.source.grid && this.gridSpec !== undefined ? { grid: this.gridSpec } : {}),
    });
    const isGone = () => this.removed || this.entries.get(entry.key) !== entry;
    if (isGone()) return;
    const device = graphics.wake();
    const buffers = device && (await this.uploaded(device, answer.tile, signal));
    if (isGone()) {
      buffers?.remove();
      return;
    }
    for (const { code, message, hint, at } of answer.notes)
      context.reportLater(
        new Fault(code, message, hint, at?.startsWith('$') ? at : `tile ${tile.z}/${tile.x}/${tile.y}, ${at}`),
      );
    const { mesh, ...kept } = answer.tile;
    const prepared = Object.assign(entry, { prepared: { ...kept, marks: mesh.marks } });
    entry.weight = weightOf(answer.tile) + (bytes === 'cut' ? 0 : bytes.byteLength);
    entry.version = answer.version < pool.version || (device && !buffers) ? -1 : version;
    entry.steps = answer.tile.layers.map((layer) => layer.step);
    entry.labelStyles = [];
    entry.indices = new WeakMap();
    entry.buffers?.remove();
    delete entry.buffers;
    if (buffers) entry.buffers = buffers;
    entry.state = 'ready';
    this.retry.came();
    this.faults.came();
    if (!this.anyCame) {
      this.anyCame = true;
      this.came('ready');
    }
    // Colors may have changed while the worker was at it. That holds without a graphics context, too: it may come back.
    if (entry.version === this.version) this.rows.adopt(prepared, this.zoom);
    else this.rows.restyle(prepared, this.zoom);
  }

  /** Puts a tile on the graphics card, slice by slice where it is large. Undefined where the graphics context went meanwhile. */
  private async uploaded(device: Device, tile: PreparedTile, signal: AbortSignal): Promise<TileBuffers | undefined> {
    const { graphics } = this.tools;
    const buffers = new TileBuffers(device, tile);
    let all = buffers.left <= slice && buffers.fill(slice);
    while (!all) {
      await graphics.turn();
      if (signal.aborted || this.removed || graphics.device !== device) {
        buffers.remove();
        signal.throwIfAborted();
        return undefined;
      }
      all = buffers.fill(slice);
    }
    return buffers;
  }

  /** Zoom levels at which tiles of a level may be seen: their own two, one either way while others load, and beyond at both ends. */
  private shownAt(z: number): readonly [number, number] {
    const [first, last] = this.source.zooms;
    return [z <= first ? 0 : z, z >= last ? 25 : z + 4];
  }

  /** The tiles to draw, coarse ones first, with its appearance brought to the present zoom; see {@link covering}. */
  drawn(): DrawnTile[] {
    const at = (z: number, x: number, y: number) => this.entries.get(addressKey(z, x, y));
    const out = covering<ReadyEntry>(this.wanted, {
      find: (z, x, y) => {
        const entry = at(z, x, y);
        return entry && isReady(entry) ? entry : undefined;
      },
      isEmpty: (z, x, y) => at(z, x, y)?.state === 'empty',
    });
    for (const { entry } of out) entry.used = this.frame;
    this.trim();
    for (const { entry } of out) this.rows.follow(entry, this.zoom);
    return out;
  }

  /** Lets go of what {@link idle} names. */
  private trim(): void {
    const { entries, wanted, frame, tools } = this;
    const keeping = {
      ...{ wanted: wanted.length, frame, room: tools.tileMemory },
      bytes: ({ weight }: TileEntry) => weight,
      busy: ({ controller }: TileEntry) => controller !== undefined,
    };
    for (const entry of idle(entries, keeping)) {
      entry.buffers?.remove();
      this.entries.delete(entry.key);
    }
  }

  /** Works all rows out anew, for a new sheet or new feature states. */
  restyle(): void {
    for (const entry of this.entries.values()) {
      entry.labelStyles = [];
      if (isPrepared(entry)) this.rows.restyle(entry, this.zoom);
    }
  }

  /** Rewrites the rows of single features after their states changed. */
  restate(from: string, keys: ReadonlySet<string>): void {
    for (const entry of this.entries.values()) if (isPrepared(entry)) this.rows.restate(entry, from, keys);
  }

  /** Has tiles prepared again whose geometry went with a lost context, as they are needed. */
  rebuild(): void {
    for (const entry of this.entries.values()) if (!entry.buffers) entry.version = -1;
  }

  /** Forgets GPU objects that went with a lost context. */
  dropBuffers(): void {
    for (const entry of this.entries.values()) {
      entry.buffers?.remove();
      delete entry.buffers;
    }
  }

  /** Tells of layers of the tiles, and of attributes, that a layer of the sheet names and the data do not have. */
  private checkNames(): void {
    const { layers: known } = this.source;
    this.checkAttributes();
    if (!known) return;
    for (const layer of this.layers) {
      if (known.includes(layer.from) || this.told.has(layer.from)) continue;
      this.told.add(layer.from);
      const near = nearestSpelling(layer.from, known);
      this.tools.context.reportLater(
        new Fault(
          'sheet.from',
          `layer "${layer.id}" draws "${layer.source.of}", and the tiles have no layer "${layer.from}"`,
          near ? `Did you mean "${this.name}/${near}"?` : `They have: ${known.join(', ')}.`,
          `$.layers[${layer.index}].of`,
        ),
      );
    }
  }

  private checkAttributes(): void {
    for (const layer of this.layers) {
      const has = this.source.attributes?.get(layer.from);
      if (!has || layer.clustered) continue;
      for (const name of layer.properties) {
        const key = `${layer.id} ${name}`;
        if (has.includes(name) || this.told.has(key)) continue;
        this.told.add(key);
        const near = nearestSpelling(name, has);
        this.tools.context.reportLater(
          new Fault(
            'sheet.attribute',
            `layer "${layer.id}" references the attribute "${name}", and no feature of "${layer.source.of}" has one of that name`,
            near ? `Did you mean "${near}"?` : `They have: ${has.join(', ') || 'none'}.`,
            `$.layers[${layer.index}]`,
          ),
        );
      }
    }
  }

  remove(): void {
    this.removed = true;
    this.retry.remove();
    this.faults.remove();
    for (const entry of this.entries.values()) {
      entry.controller?.abort(new Fault('map.removed', 'the map was removed', 'No action is needed.'));
      entry.buffers?.remove();
    }
    this.entries.clear();
  }
}
