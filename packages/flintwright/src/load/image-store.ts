import { asFault, Fault, type SquareGrid, type TileAddress } from '@flintwright/core';
import { addressKey, mercatorGrid, type TileInView } from '@flintwright/core/internal';
import { ImageBrush } from '../gl/image-brush.js';
import type { DrawnImage, ImageEntry, ReadyImage } from '../gl/drawn-tile.js';
import { covering, idle } from './cover.js';
import type { Credit } from './credit.js';
import { TileFaults } from './tile-faults.js';
import type { Numbering } from './template.js';
import { loadingAtOnce, retryAfter, type LoadTools } from './tools.js';

/** Gives the picture of a tile; undefined where there is none. `what` names it in messages. */
export type LoadImage = (tile: TileAddress, signal: AbortSignal, what: string) => Promise<ImageBitmap | undefined>;

/** Options of an image store. */
export interface ImagesOptions {
  readonly name: string;
  /** Gives the picture of a tile; undefined where there is none. */
  readonly load: LoadImage;
  /** Levels of the square that the grid is part of. */
  readonly zooms: readonly [number, number];
  readonly numbering: Numbering;
  readonly credit: readonly Credit[];
}

/** Image tiles of one data entry: asked for, kept, handed out for drawing, and let go. */
export class ImageStore {
  /** What draws its images. */
  readonly brush = ImageBrush;
  private readonly entries = new Map<number, ImageEntry>();
  private wanted: readonly TileInView[] = [];
  private frame = 0;
  private readonly faults: TileFaults;
  private removed = false;

  constructor(
    readonly options: ImagesOptions,
    private readonly tools: LoadTools,
  ) {
    this.faults = new TileFaults(options.name, tools.context);
  }

  /** Grid that the images belong to. */
  get grid(): SquareGrid {
    return this.options.numbering.grid?.grid ?? mercatorGrid;
  }

  get loading(): boolean {
    return this.wanted.some(({ z, x, y }) => (this.entries.get(addressKey(z, x, y))?.state ?? 'loading') === 'loading');
  }

  want(tiles: readonly TileInView[]): void {
    this.frame++;
    this.wanted = tiles;
    const keys = new Set(tiles.map(({ z, x, y }) => addressKey(z, x, y)));
    for (const [key, { state, controller }] of this.entries) {
      if (state !== 'loading' || keys.has(key)) continue;
      controller.abort(new Fault('request.unwanted', 'the image is no longer needed', 'No action is needed.'));
      this.entries.delete(key);
    }
    this.pump();
  }

  private pump(): void {
    let under = [...this.entries.values()].filter(({ state }) => state === 'loading').length;
    for (const { z, x, y } of this.wanted) {
      if (under >= loadingAtOnce || this.removed) return;
      const key = addressKey(z, x, y);
      const known = this.entries.get(key);
      if (known && !(known.state === 'failed' && performance.now() - known.failedAt > retryAfter)) continue;
      under++;
      void this.load({ z, x, y }, key);
    }
  }

  private async load(tile: TileAddress, key: number): Promise<void> {
    const { name, load } = this.options;
    const { context } = this.tools;
    const controller = new AbortController();
    const entry: ImageEntry = { tile, key, state: 'loading', used: this.frame, failedAt: 0, controller };
    this.entries.set(key, entry);
    const where = `image ${tile.z}/${tile.x}/${tile.y} of "${name}"`;
    try {
      const bitmap = await load(tile, controller.signal, where);
      if (bitmap) {
        if (this.removed || this.entries.get(key) !== entry) {
          bitmap.close();
          return;
        }
        entry.bitmap = bitmap;
        entry.state = 'ready';
        this.faults.came();
        this.upload(entry);
      } else entry.state = 'empty';
    } catch (error) {
      if (controller.signal.aborted || this.removed) return;
      entry.state = 'failed';
      entry.failedAt = performance.now();
      this.faults.failed(
        asFault(error, 'picture.failed', 'Check that the address gives PNG, JPEG or WebP pictures.', where),
      );
    } finally {
      if (!this.removed) {
        this.pump();
        if (!this.loading) this.faults.flush();
        context.invalidate('ground', true);
      }
    }
  }

  private upload(entry: ImageEntry): void {
    const device = this.tools.graphics.wake();
    if (!device || !entry.bitmap) return;
    const { gl } = device;
    entry.texture = device.smoothTexture(gl.RGBA8, entry.bitmap.width, entry.bitmap.height);
    gl.texSubImage2D(gl.TEXTURE_2D, 0, 0, 0, gl.RGBA, gl.UNSIGNED_BYTE, entry.bitmap);
  }

  drawn(): DrawnImage[] {
    const at = (z: number, x: number, y: number) => this.entries.get(addressKey(z, x, y));
    const out = covering<ReadyImage>(this.wanted, {
      find: (z, x, y) => {
        const entry = at(z, x, y);
        return entry && hasTexture(entry) ? entry : undefined;
      },
      isEmpty: (z, x, y) => at(z, x, y)?.state === 'empty',
    });
    for (const { entry } of out) entry.used = this.frame;
    this.trim();
    return out.map((one) => ({ ...one, grid: this.grid }));
  }

  private trim(): void {
    const keeping = {
      ...{ wanted: this.wanted.length, frame: this.frame, room: this.tools.tileMemory },
      // Four bytes a pixel, in the picture and on the graphics card.
      bytes: ({ bitmap }: ImageEntry) => (bitmap ? 8 * bitmap.width * bitmap.height : 0),
      busy: ({ state }: ImageEntry) => state === 'loading',
    };
    for (const entry of idle(this.entries, keeping)) this.drop(entry);
  }

  private drop(entry: ImageEntry): void {
    if (entry.texture) this.tools.graphics.device?.dropTexture(entry.texture);
    entry.bitmap?.close();
    this.entries.delete(entry.key);
  }

  /** Fills the GPU again after its context was lost. */
  rebuild(): void {
    for (const entry of this.entries.values()) this.upload(entry);
  }

  /** Forgets GPU objects that went with a lost context. */
  dropTextures(): void {
    for (const entry of this.entries.values()) {
      if (entry.texture) this.tools.graphics.device?.dropTexture(entry.texture);
      delete entry.texture;
    }
  }

  remove(): void {
    this.removed = true;
    this.faults.remove();
    for (const entry of [...this.entries.values()]) {
      entry.controller.abort(new Fault('map.removed', 'the map was removed', 'No action is needed.'));
      this.drop(entry);
    }
  }
}

const hasTexture = (entry: ImageEntry): entry is ReadyImage => entry.texture !== undefined;
