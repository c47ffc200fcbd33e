import {
  asFault,
  classesKey,
  Fault,
  readGeoJson,
  tilesInView,
  type Camera,
  type ClassesWanted,
  type CompiledSheet,
  type MatrixGrid,
  type SheetData,
  type Surface,
} from '@flintwright/core';
import { clusterWish, gatherClusters, type Clusters } from './cluster-source.js';
import type { FeatureEdit } from '../worker/messages.js';
import { PictureStore, type DrawnPicture } from './image-store.js';
import type { WorkerPool } from '../worker/pool.js';
import type { RequestHook } from './request.js';
import { openSource, type HeldFeatures } from './source.js';
import { levelsOf, type Numbering } from './template.js';
import { TileStore, type DrawnTile, type StoreHost } from './tile-store.js';

export interface SourcesOptions {
  readonly pool: WorkerPool;
  /** Address that others are relative to. */
  readonly base: string;
  readonly hook: RequestHook | undefined;
  readonly files: Readonly<Record<string, Blob>>;
  readonly host: StoreHost;
  surface(): Surface;
  /** The grid of a tile matrix set. */
  gridOf(spec: string | object): MatrixGrid;
  /** A source has been opened, or could not be. */
  opened(): void;
  /** How it stands with an entry has changed. */
  turned(data: string, state: DataState): void;
  /** Class limits that scales of the sheet left to the data have been found. */
  found(data: string, wanted: readonly ClassesWanted[], breaks: readonly (readonly number[])[]): void;
}

/** How it stands with a data entry. */
export type DataState = 'loading' | 'ready' | 'empty' | 'failed';

interface Opening {
  data: SheetData;
  readonly controller: AbortController;
  done: boolean;
  state: DataState;
  /** Fetches the features again, now and then. */
  timer?: ReturnType<typeof setInterval>;
}

/** The data of a map: each entry of the sheet that a layer draws is opened, kept while its description stays, and let go. */
export class Sources {
  readonly stores = new Map<string, TileStore>();
  /** What was drawn last, by data entry. */
  readonly drawn = new Map<string, readonly DrawnTile[]>();
  readonly pictures = new Map<string, PictureStore>();
  readonly drawnPictures = new Map<string, readonly DrawnPicture[]>();
  private readonly asked = new Set<string>();
  /** Clusters by the layer that draws them. */
  readonly clusters = new Map<string, Clusters>();
  private readonly wishes = new Map<string, string>();
  private readonly entries = new Map<string, Opening>();
  private sheet: CompiledSheet | undefined;

  constructor(private readonly options: SourcesOptions) {}

  /** Entries whose features were edited since they were read. */
  private readonly edited = new Set<string>();
  /** Edited features that wait to be taken over by other workers. */
  private readonly held = new Map<string, HeldFeatures & { readonly data: SheetData; readonly plan: boolean }>();
  /** What is under way with the features of an entry: one thing after the other. */
  private readonly turns = new Map<string, Promise<void>>();

  /** Does something with the features of an entry when all that was asked for before is done. */
  private inTurn(name: string, work: () => Promise<void>): Promise<void> {
    const before = this.turns.get(name) ?? Promise.resolve();
    const turn = before
      // Whoever asked for what went wrong is told of it; the next is not concerned.
      .catch(() => {})
      .then(async () => {
        try {
          await work();
        } finally {
          if (this.turns.get(name) === turn) this.turns.delete(name);
        }
      });
    this.turns.set(name, turn);
    return turn;
  }

  /**
   * Keeps edited features for the workers that come with another surface, until a moment at which none is being edited. Where edits
   * follow each other too closely for that, those under way are refused when the workers go.
   */
  async hold(): Promise<void> {
    const plan = this.options.surface().space === 'plane';
    for (let tries = 0; tries < 5; tries++) {
      const wanted = [...this.edited].filter((name) => !this.held.has(name) || this.turns.has(name));
      if (!wanted.length) return;
      await Promise.all(
        wanted.map((name) =>
          this.inTurn(name, async () => {
            const data = this.entries.get(name)?.data;
            const join = this.stores.get(name)?.source.join;
            if (data) this.held.set(name, { block: await this.options.pool.hand(name), join, data, plan });
          }),
        ),
      );
    }
  }

  /** Opens, keeps and closes what a sheet asks for. */
  apply(sheet: CompiledSheet): void {
    this.sheet = sheet;
    const wanted = sheet.sheet.data ?? {};
    for (const [name, { data }] of this.entries) {
      if (wanted[name] && otherFeatures(wanted[name], data)) void this.again(name, wanted[name]);
      else if (!wanted[name] || !sameData(wanted[name], data)) this.close(name, 'the data is no longer wanted');
    }
    for (const name of Object.keys(wanted)) {
      if (this.entries.has(name)) {
        this.stores.get(name)?.setLayers(sheet.layers);
        if (this.stores.has(name)) void this.ask(name);
      } else if (sheet.layers.some((layer) => layer.data === name)) void this.open(name, wanted[name]);
    }
  }

  private open(name: string, data: SheetData): Promise<void> {
    const entry: Opening = { data, controller: new AbortController(), done: false, state: 'loading' };
    this.entries.set(name, entry);
    return this.inTurn(name, () => this.opening(name, entry));
  }

  private async opening(name: string, entry: Opening): Promise<void> {
    if (this.entries.get(name) !== entry) return;
    const { host } = this.options;
    const { data } = entry;
    const { signal } = entry.controller;
    try {
      if (data.images !== undefined) {
        this.openPictures(name, data);
        this.turn(name, 'ready');
        return;
      }
      const surface = this.options.surface();
      const source = await this.source(name, data, signal, this.heldFor(name, data));
      if (this.entries.get(name) !== entry) return;
      const store = new TileStore(name, source, host, surface);
      this.stores.set(name, store);
      store.setLayers(this.sheet!.layers);
      await this.ask(name);
      this.turn(name, source.empty ? 'empty' : 'ready');
      this.keepFresh(name, entry);
    } catch (error) {
      if (!signal.aborted) {
        this.turn(name, 'failed');
        host.fault(asFault(error, 'data.open', 'Check the data.', `data "${name}"`), name);
      }
    } finally {
      entry.done = true;
      if (!signal.aborted) this.options.opened();
    }
  }

  /** Opens what an entry describes, for the surface of now. */
  private source(
    name: string,
    data: SheetData,
    signal: AbortSignal,
    held?: HeldFeatures,
  ): ReturnType<typeof openSource> {
    const { pool, base, hook, files, surface } = this.options;
    const plan = surface().space === 'plane';
    if (!held) this.edited.delete(name);
    this.held.delete(name);
    return openSource({ name, data, base, hook, pool, signal, files, plan, held, numbering: this.numbering(data) });
  }

  /** Edited features of an entry, where the description is still that of what was edited. */
  private heldFor(name: string, data: SheetData): HeldFeatures | undefined {
    const kept = this.held.get(name);
    const plan = this.options.surface().space === 'plane';
    return kept?.plan === plan && sameData(kept.data, data) ? kept : undefined;
  }

  /** How the tiles of an entry are numbered. @throws Fault for a grid that is not known */
  private numbering({ grid, rows }: SheetData): Numbering {
    const wanted = grid !== undefined && grid !== 'WebMercatorQuad';
    return { grid: wanted ? this.options.gridOf(grid) : undefined, up: rows === 'up' };
  }

  private turn(name: string, state: DataState): void {
    const entry = this.entries.get(name);
    if (!entry || entry.state === state) return;
    entry.state = state;
    this.options.turned(name, state);
  }

  private keepFresh(name: string, entry: Opening): void {
    const { refresh, features } = entry.data;
    clearInterval(entry.timer);
    if (refresh === undefined || typeof features !== 'string') return;
    entry.timer = setInterval(() => {
      if (!document.hidden) void this.again(name, entry.data);
    }, refresh * 1000);
  }

  /** Takes features in anew, from their address or from another description; what was there stays on the map until then. */
  async again(name: string, data: SheetData): Promise<void> {
    const entry = this.entries.get(name);
    const store = this.stores.get(name);
    if (!entry) return;
    entry.data = data;
    if (!store) {
      this.close(name, 'the data has changed');
      return this.open(name, data);
    }
    this.gathering++;
    return this.inTurn(name, () => this.renewing(name, entry, data)).finally(() => this.gathering--);
  }

  private async renewing(name: string, entry: Opening, data: SheetData): Promise<void> {
    const { host } = this.options;
    const { signal } = entry.controller;
    const store = this.stores.get(name);
    if (this.entries.get(name) !== entry || entry.data !== data || !store) return;
    try {
      const source = await this.source(name, data, signal);
      if (this.entries.get(name) !== entry || entry.data !== data) return;
      store.renew(source);
      for (const [id, key] of this.wishes) if (isOf(key, name)) this.wishes.delete(id);
      await this.ask(name);
      this.turn(name, source.empty ? 'empty' : 'ready');
      this.keepFresh(name, entry);
    } catch (error) {
      if (!signal.aborted) {
        this.turn(name, 'failed');
        host.fault(asFault(error, 'data.open', 'Check the data.', `data "${name}"`), name);
      }
    } finally {
      if (!signal.aborted) this.options.opened();
    }
  }

  /** Changes features of an entry; clusters are changed where they stand, tiles are prepared anew. */
  edit(name: string, edit: FeatureEdit): Promise<void> {
    return this.inTurn(name, () => this.editing(name, edit));
  }

  private async editing(name: string, edit: FeatureEdit): Promise<void> {
    const entry = this.entries.get(name);
    const store = this.stores.get(name);
    if (!entry || !store || entry.data.features === undefined)
      throw new Fault(
        'edit.data',
        `the data "${name}" holds no features that could be edited`,
        'Only features can be edited, once they are loaded; wait for map.settled().',
      );
    const idName = entry.data.id;
    await this.options.pool.edit(name, edit, idName);
    this.edited.add(name);
    this.held.delete(name);
    const { put, ...rest } = edit;
    for (const [id, clusters] of this.clusters) {
      if (this.sheet!.layers.find((layer) => layer.id === id)?.data !== name) continue;
      const block = put && readGeoJson(put, { name, ...(idName === undefined ? {} : { id: idName }) });
      clusters.edit({ ...rest, ...(block ? { put: block } : {}) }, idName);
    }
    store.renew();
    this.options.host.changed();
  }

  /** How it stands with an entry; undefined for none that is drawn. */
  stateOf(name: string): DataState | undefined {
    return this.entries.get(name)?.state;
  }

  private openPictures(name: string, data: SheetData): void {
    const { images, zooms = [0, 19], credit } = data;
    const numbering = this.numbering(data);
    const { base, hook, host } = this.options;
    const address = new URL(images!, base).href.replaceAll('%7B', '{').replaceAll('%7D', '}');
    if (!['{z}', '{x}', '{y}'].every((part) => address.includes(part)))
      host.fault(
        new Fault(
          'images.address',
          `the address of the pictures "${name}" lacks {z}, {x} or {y}`,
          'Write it as in pictures/{z}/{x}/{y}.png.',
          `$.data.${name}.images`,
        ),
        name,
      );
    this.pictures.set(
      name,
      new PictureStore({
        name,
        address,
        zooms: levelsOf(zooms, numbering),
        numbering,
        credit,
        hook,
        device: () => host.device(),
        fault: (fault) => host.fault(fault, name),
        changed: () => host.changed(),
      }),
    );
    queueMicrotask(() => this.options.opened());
  }

  private async ask(name: string): Promise<void> {
    await Promise.all([this.findClasses(name), this.gather(name)]);
  }

  /** Has the points of clustered layers gathered, where that has not been asked for. */
  private async gather(name: string): Promise<void> {
    const { layers, sheet } = this.sheet!;
    for (const id of this.wishes.keys()) {
      if (layers.some((layer) => layer.id === id && layer.clustered)) continue;
      this.wishes.delete(id);
      this.clusters.delete(id);
    }
    for (const layer of layers) {
      const cluster = sheet.data?.[name]?.cluster;
      if (layer.data !== name || !layer.clustered || !cluster) continue;
      const { wish, kinds } = clusterWish(layer, cluster);
      const key = JSON.stringify([name, wish]);
      if (this.wishes.get(layer.id) === key) continue;
      this.wishes.set(layer.id, key);
      this.gathering++;
      try {
        const gathered = await gatherClusters(name, wish, kinds, this.options.pool);
        if (this.wishes.get(layer.id) === key) {
          gathered.filter(this.options.host.testOf(layer.id));
          this.clusters.set(layer.id, gathered);
        }
      } finally {
        this.gathering--;
        this.options.host.changed();
      }
    }
  }

  private gathering = 0;

  /** Has the class limits found that layers of an entry leave to the data, each once. */
  private async findClasses(name: string): Promise<void> {
    const wanted = this.sheet!.layers.flatMap((layer) => (layer.data === name ? layer.wanted : [])).filter(
      (classes) => {
        const key = classesKey(name, classes);
        return !this.asked.has(key) && this.asked.add(key);
      },
    );
    if (!wanted.length) return;
    const breaks = await this.options.pool.findClasses(name, wanted);
    if (this.entries.has(name)) this.options.found(name, wanted, breaks);
  }

  private close(name: string, why: string): void {
    clearInterval(this.entries.get(name)?.timer);
    this.entries.get(name)?.controller.abort(new Fault('request.unwanted', why, 'Nothing is to be done.'));
    this.entries.delete(name);
    this.edited.delete(name);
    this.held.delete(name);
    this.stores.get(name)?.destroy();
    this.stores.delete(name);
    this.drawn.delete(name);
    this.pictures.get(name)?.destroy();
    this.pictures.delete(name);
    this.drawnPictures.delete(name);
    for (const [id, key] of this.wishes)
      if (isOf(key, name)) {
        this.wishes.delete(id);
        this.clusters.delete(id);
      }
    for (const key of this.asked) if (isOf(key, name)) this.asked.delete(key);
    this.options.pool.forget(name);
  }

  /** Whether opening the entry has come to an end, well or not. */
  isOpened(name: string): boolean {
    return this.entries.get(name)?.done ?? false;
  }

  get loading(): boolean {
    if (this.gathering) return true;
    for (const { done } of this.entries.values()) if (!done) return true;
    for (const store of this.stores.values()) if (store.loading) return true;
    for (const store of this.pictures.values()) if (store.loading) return true;
    return false;
  }

  /** Whom to credit, each once. */
  get credits(): string[] {
    const tiles = [...this.stores.values()].map((store) => store.source.credit);
    const pictures = [...this.pictures.values()].map((store) => store.options.credit);
    return [...new Set([...tiles, ...pictures].map((credit) => credit ?? ''))].filter(Boolean);
  }

  /** Asks for the tiles that a view needs and settles what is drawn of those that are there. */
  follow(camera: Camera): void {
    for (const [name, store] of this.stores) {
      store.want(tilesInView(camera, 512, store.source.zooms, store.grid), camera.view.zoom);
      const drawn = store.drawn();
      for (const { entry } of drawn) store.follow(entry, camera.view.zoom);
      this.drawn.set(name, drawn);
    }
    for (const [name, store] of this.pictures) {
      store.want(tilesInView(camera, this.entries.get(name)?.data.pixels ?? 256, store.options.zooms, store.grid));
      this.drawnPictures.set(name, store.drawn());
    }
  }

  /** Stores with what is drawn of them, for the labels. */
  get lists(): { store: TileStore; drawn: readonly DrawnTile[] }[] {
    return [...this.stores].map(([name, store]) => ({ store, drawn: this.drawn.get(name) ?? [] }));
  }

  /** Lets go of everything, to be opened again with the next sheet. */
  reset(): void {
    const [edited, held] = [[...this.edited], [...this.held]];
    for (const name of [...this.entries.keys()]) this.close(name, 'the surface has changed');
    for (const name of edited) this.edited.add(name);
    for (const [name, features] of held) this.held.set(name, features);
  }

  destroy(): void {
    for (const name of [...this.entries.keys()]) this.close(name, 'the map was destroyed');
  }
}

/** Whether two descriptions differ only in which features there are, so that what is drawn can stay until the others have come. */
function otherFeatures(a: SheetData, b: SheetData): boolean {
  const { features, refresh: _, ...rest } = a;
  const { features: before, refresh: __, ...restBefore } = b;
  return (
    features !== undefined &&
    before !== undefined &&
    (features !== before || a.refresh !== b.refresh) &&
    sameData(rest, restBefore)
  );
}

/** Whether two descriptions lead to the same features. */
function sameData(a: SheetData, b: SheetData): boolean {
  const zooms = (data: SheetData) => data.zooms?.join();
  const join = (data: SheetData) => data.join && [data.join.match.join('\u0000'), data.join.table];
  const [first, second] = [join(a), join(b)];
  return (
    a.tiles === b.tiles &&
    a.features === b.features &&
    a.images === b.images &&
    a.pixels === b.pixels &&
    JSON.stringify(a.grid) === JSON.stringify(b.grid) &&
    a.rows === b.rows &&
    a.crs === b.crs &&
    a.edges === b.edges &&
    JSON.stringify(a.cluster) === JSON.stringify(b.cluster) &&
    a.id === b.id &&
    zooms(a) === zooms(b) &&
    first?.[0] === second?.[0] &&
    first?.[1] === second?.[1]
  );
}

/** Whether what was asked for, kept as the JSON of a list that begins with the name of its data entry, belongs to an entry. */
const isOf = (key: string, name: string): boolean => (JSON.parse(key) as string[])[0] === name;
