import { asFault, Fault, type SheetData } from '@flintwright/core';
import { mercatorGrid, type Camera } from '@flintwright/core/internal';
import { fetchPart } from '../base/fetch-part.js';
import { isReady, type DrawnData, type DrawnImage, type DrawnTile } from '../gl/drawn-tile.js';
import type { FeatureEdit } from '../worker/messages.js';
import type { Credit } from './credit.js';
import { DerivedData, type FoundBreaks } from './derived-data.js';
import { FeatureEdits } from './feature-edits.js';
import type { ImageStore } from './image-store.js';
import type { HeldFeatures } from './open-options.js';
import { openSource } from './source.js';
import type { Numbering } from './template.js';
import { TileStore } from './tile-store.js';
import type { LoadTools } from './tools.js';

/** Load state of a data entry. */
export type DataState = 'loading' | 'ready' | 'empty' | 'failed';

/** News of a data entry. */
export interface DataEvents {
  /** It has been opened, or could not be. */
  opened?(): void;
  /** How it stands with it has changed. */
  turned?(data: string, state: DataState): void;
  /** Class limits that scales of the sheet left to the data have been found. */
  found?(breaks: FoundBreaks): void;
}

/** One opening of a data entry: it lasts until the entry is closed, or opened for another description. */
interface Opening {
  data: SheetData;
  readonly controller: AbortController;
  done: boolean;
  state: DataState;
  /** Fetches the features again, now and then. */
  timer?: ReturnType<typeof setInterval>;
}

/** One data entry of the sheet: opened, kept while its description stays, changed, and let go. */
export class DataEntry implements DrawnData {
  readonly derived: DerivedData;
  /** Resolves when it has been opened, or could not be. */
  opened: Promise<void> = Promise.resolve();
  private readonly edits = new FeatureEdits();
  private opening: Opening | undefined;
  private store: TileStore | undefined;
  private imageStore: ImageStore | undefined;
  private holdsNothing = false;
  private drawnTiles: readonly DrawnTile[] = [];
  private drawnImages: readonly DrawnImage[] = [];
  private renewals = 0;

  constructor(
    readonly name: string,
    private readonly tools: LoadTools,
    private readonly events: DataEvents,
  ) {
    this.derived = new DerivedData(name, tools);
  }

  /** The description in force; undefined while the entry is closed. */
  get data(): SheetData | undefined {
    return this.opening?.data;
  }

  get state(): DataState | undefined {
    return this.opening?.state;
  }

  /** Whether opening it has come to an end, well or not. */
  get isOpened(): boolean {
    return this.opening?.done ?? false;
  }

  /** Whether its features, as far as they are known, are none. */
  get isEmpty(): boolean {
    return this.holdsNothing;
  }

  /** The tiles; undefined before they are opened, and for images. */
  get tileStore(): TileStore | undefined {
    return this.store;
  }

  /** What draws the images; undefined where there are none. */
  get imageBrush(): DrawnData['imageBrush'] {
    return this.imageStore?.brush;
  }

  get images(): readonly DrawnImage[] {
    return this.drawnImages;
  }

  get tiles(): readonly DrawnTile[] {
    return this.drawnTiles;
  }

  get grid(): DrawnData['grid'] {
    return this.store?.grid ?? this.imageStore?.grid ?? mercatorGrid;
  }

  get credit(): readonly Credit[] {
    return this.store?.source.credit ?? this.imageStore?.options.credit ?? [];
  }

  get loading(): boolean {
    const { opening, store, imageStore } = this;
    if (!opening) return false;
    return (
      !opening.done || this.renewals > 0 || this.derived.loading || (store?.loading ?? imageStore?.loading ?? false)
    );
  }

  /** Opens what a description leads to. */
  open(data: SheetData): Promise<void> {
    const opening: Opening = { data, controller: new AbortController(), done: false, state: 'loading' };
    this.opening = opening;
    return (this.opened = this.edits.inTurn(() => this.load(opening)));
  }

  private async load(opening: Opening): Promise<void> {
    if (this.opening !== opening) return;
    const { context } = this.tools;
    const { data } = opening;
    const { signal } = opening.controller;
    try {
      if (data.images !== undefined) {
        await this.openImages(opening, data.images);
        return;
      }
      const { surface } = context.state;
      const source = await this.source(data, signal, this.edits.take(data, this.isPlan));
      if (this.opening !== opening) return;
      this.store = new TileStore(this.name, source, this.tools, surface, data.grid, (state) => this.turn(state));
      this.store.setLayers(context.state.sheet.layers);
      await this.derive();
      this.holdsNothing = source.empty ?? false;
      this.turn(source.empty ? 'empty' : 'ready');
      this.keepFresh(opening);
    } catch (error) {
      if (!signal.aborted) this.fail(error);
    } finally {
      opening.done = true;
      if (!signal.aborted) this.events.opened?.();
    }
  }

  /** Takes features in anew, from their address or from another description; what was there stays on the map until then. */
  async renew(data: SheetData): Promise<void> {
    const { opening } = this;
    if (!opening) return;
    opening.data = data;
    if (!this.store) {
      this.close('the data has changed');
      return this.open(data);
    }
    this.renewals++;
    return this.edits.inTurn(() => this.reload(opening, data)).finally(() => this.renewals--);
  }

  private async reload(opening: Opening, data: SheetData): Promise<void> {
    const { store } = this;
    const { signal } = opening.controller;
    const outdated = () => this.opening !== opening || opening.data !== data;
    if (outdated() || !store) return;
    try {
      this.edits.forget();
      const source = await this.source(data, signal, undefined);
      if (outdated()) return;
      store.renew(source);
      this.derived.outdate();
      await this.derive();
      this.holdsNothing = source.empty ?? false;
      this.turn(source.empty ? 'empty' : 'ready');
      this.keepFresh(opening);
    } catch (error) {
      if (!signal.aborted) this.fail(error);
    } finally {
      if (!signal.aborted) this.events.opened?.();
    }
  }

  /** Takes over the layers of the sheet in force. */
  follow(): void {
    const { opening, store } = this;
    if (!opening || !store) return;
    const { context } = this.tools;
    store.setLayers(context.state.sheet.layers);
    this.derive().catch((error: unknown) => {
      if (!opening.controller.signal.aborted) context.reportLater(this.faultOf(error));
    });
  }

  /** Has clusters and class limits worked out, where the sheet asks for them. */
  private async derive(): Promise<void> {
    const { sheet } = this.tools.context.state;
    // Both go by values, which may not be readable yet.
    if (sheet.needs.has('values')) return;
    const [breaks] = await Promise.all([this.derived.findBreaks(sheet), this.derived.buildClusters(sheet)]);
    if (breaks && this.opening) this.events.found?.(breaks);
  }

  private get isPlan(): boolean {
    return this.tools.context.state.surface.space === 'plane';
  }

  private source(data: SheetData, signal: AbortSignal, held: HeldFeatures | undefined): ReturnType<typeof openSource> {
    const { name, tools, isPlan: plan } = this;
    return openSource({ name, data, signal, plan, held, tools, numbering: this.numbering(data) });
  }

  /** How the tiles of the entry are numbered. @throws Fault for a grid that is not known */
  private numbering({ grid, rows }: SheetData): Numbering {
    const wanted = grid !== undefined && grid !== 'WebMercatorQuad';
    return { grid: wanted ? this.tools.gridOf(grid) : undefined, up: rows === 'up' };
  }

  private async openImages(opening: Opening, images: string): Promise<void> {
    const { name, tools } = this;
    const { data, controller } = opening;
    const numbering = this.numbering(data);
    // What a map without pictures does not need is fetched when one has them.
    const { openImages } = await fetchPart(() => import('./images.js'));
    const imageStore = await openImages({ name, data, images, numbering, tools, signal: controller.signal });
    if (this.opening !== opening) return imageStore.remove();
    this.imageStore = imageStore;
    this.turn('ready');
  }

  private turn(state: DataState): void {
    const { opening } = this;
    if (!opening || opening.state === state) return;
    opening.state = state;
    this.events.turned?.(this.name, state);
  }

  private fail(error: unknown): void {
    this.turn('failed');
    this.tools.context.reportLater(this.faultOf(error));
  }

  private faultOf(error: unknown): Fault {
    return asFault(error, 'data.open', 'Check the data.', `data "${this.name}"`);
  }

  private keepFresh(opening: Opening): void {
    const { refresh, features } = opening.data;
    clearInterval(opening.timer);
    if (refresh === undefined || typeof features !== 'string') return;
    opening.timer = setInterval(() => {
      if (!document.hidden) void this.renew(opening.data);
    }, refresh * 1000);
  }

  /** Changes features; clusters are changed where they stand, tiles are prepared anew. @throws Fault `edit.*` */
  edit(edit: FeatureEdit): Promise<void> {
    return this.edits.inTurn(async () => {
      const { name, opening, store, tools } = this;
      if (!opening || !store || opening.data.features === undefined)
        throw new Fault(
          'edit.data',
          `the data "${name}" contains no features that can be edited`,
          'Only features can be edited, once they are loaded; wait for map.settled().',
        );
      const idName = opening.data.id;
      await tools.pool.edit(name, edit, idName);
      this.edits.touched();
      for (const clusters of this.derived.clusters.values()) clusters.edit(edit, idName);
      store.renew();
      if (this.holdsNothing && edit.put) {
        this.holdsNothing = false;
        this.events.opened?.();
      }
      tools.context.invalidate('ground', true);
    });
  }

  /** Whether edits have to be kept before the workers may go. */
  get unkept(): boolean {
    return this.edits.unkept;
  }

  /** Keeps edited features for other workers. */
  keepEdits(): Promise<void> {
    return this.edits.keep(this.isPlan, async () => {
      const data = this.opening?.data;
      const join = this.store?.source.join;
      return data && { data, join, block: await this.tools.pool.exportFeatures(this.name) };
    });
  }

  /** Asks for the tiles that a view needs, and settles what is drawn of those that are there. */
  settle(camera: Camera): void {
    const { store, imageStore, tools } = this;
    // While the sheet waits for a part of the library, the workers still have the previous one, or none: tiles would be prepared by that.
    if (!tools.pool.hasSheet(tools.context.state.sheet)) {
      // The tiles drawn last stay, except those whose buffers were lost with the graphics context.
      this.drawnTiles = this.drawnTiles.filter(({ entry }) => isReady(entry));
      return;
    }
    if (store) {
      store.want(tools.tilesInView(camera, 512, store.source.zooms, store.grid), camera.view.zoom);
      this.drawnTiles = store.drawn();
    }
    if (imageStore) {
      const pixels = this.opening?.data.pixels ?? 256;
      imageStore.want(tools.tilesInView(camera, pixels, imageStore.options.zooms, imageStore.grid));
      this.drawnImages = imageStore.drawn();
    }
  }

  /** Fills the GPU again after its context was lost. */
  rebuild(): void {
    this.store?.rebuild();
    this.imageStore?.rebuild();
  }

  /** Forgets GPU objects that went with a lost context. */
  dropBuffers(): void {
    this.store?.dropBuffers();
    this.imageStore?.dropTextures();
  }

  /**
   * Lets go of all it holds.
   *
   * @param keepEdits whether edits that were kept wait for the next opening
   */
  close(why: string, keepEdits = false): void {
    const { opening } = this;
    if (!opening) return;
    clearInterval(opening.timer);
    opening.controller.abort(new Fault('request.unwanted', why, 'No action is needed.'));
    this.opening = undefined;
    if (!keepEdits) this.edits.forget();
    this.store?.remove();
    this.imageStore?.remove();
    this.store = this.imageStore = undefined;
    this.drawnTiles = this.drawnImages = [];
    this.derived.forget();
    this.tools.pool.forget(this.name);
  }
}
