import {
  asFault,
  classesKey,
  Fault,
  tilesInView,
  type Camera,
  type ClassesWanted,
  type CompiledSheet,
  type SheetData,
} from '@flintwright/core';
import { clusterWish, gatherClusters, type Clusters } from './clusters.js';
import { PictureStore, type DrawnPicture } from './pictures.js';
import type { WorkerPool } from './pool.js';
import type { RequestHook } from './request.js';
import { openSource } from './source.js';
import { TileStore, type DrawnTile, type StoreHost } from './store.js';

export interface SourcesOptions {
  readonly pool: WorkerPool;
  /** Address that others are relative to. */
  readonly base: string;
  readonly hook: RequestHook | undefined;
  readonly files: Readonly<Record<string, Blob>>;
  readonly host: StoreHost;
  /** A source has been opened, or could not be. */
  opened(): void;
  /** Class limits that scales of the sheet left to the data have been found. */
  found(data: string, wanted: readonly ClassesWanted[], breaks: readonly (readonly number[])[]): void;
}

interface Opening {
  readonly data: SheetData;
  readonly controller: AbortController;
  done: boolean;
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

  /** Opens, keeps and closes what a sheet asks for. */
  apply(sheet: CompiledSheet): void {
    this.sheet = sheet;
    const wanted = sheet.sheet.data ?? {};
    for (const [name, { data }] of this.entries) {
      if (!wanted[name] || !sameData(wanted[name], data)) this.close(name, 'the data is no longer wanted');
    }
    for (const name of Object.keys(wanted)) {
      if (this.entries.has(name)) {
        this.stores.get(name)?.setLayers(sheet.layers);
        if (this.stores.has(name)) void this.ask(name);
      } else if (sheet.layers.some((layer) => layer.data === name)) void this.open(name, wanted[name]);
    }
  }

  private async open(name: string, data: SheetData): Promise<void> {
    const { pool, base, hook, files, host } = this.options;
    const entry: Opening = { data, controller: new AbortController(), done: false };
    this.entries.set(name, entry);
    const { signal } = entry.controller;
    if (data.images !== undefined) {
      this.openPictures(name, data);
      entry.done = true;
      return;
    }
    try {
      const source = await openSource({ name, data, base, hook, pool, signal, files });
      if (this.entries.get(name) !== entry) return;
      const store = new TileStore(name, source, host);
      this.stores.set(name, store);
      store.setLayers(this.sheet!.layers);
      await this.ask(name);
    } catch (error) {
      if (!signal.aborted) host.fault(asFault(error, 'data.open', 'Check the data.', `data "${name}"`), name);
    } finally {
      entry.done = true;
      if (!signal.aborted) this.options.opened();
    }
  }

  private openPictures(name: string, { images, zooms = [0, 19], credit }: SheetData): void {
    const { base, hook, host } = this.options;
    const address = new URL(images!, base).href.replaceAll('%7B', '{').replaceAll('%7D', '}');
    if (!/\{z\}.*|\{x\}/.test(address) || !address.includes('{y}'))
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
        zooms,
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
        if (this.wishes.get(layer.id) === key) this.clusters.set(layer.id, gathered);
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
    this.entries.get(name)?.controller.abort(new Fault('request.unwanted', why, 'Nothing is to be done.'));
    this.entries.delete(name);
    this.stores.get(name)?.destroy();
    this.stores.delete(name);
    this.drawn.delete(name);
    this.pictures.get(name)?.destroy();
    this.pictures.delete(name);
    this.drawnPictures.delete(name);
    for (const [id, key] of this.wishes)
      if ((JSON.parse(key) as string[])[0] === name) {
        this.wishes.delete(id);
        this.clusters.delete(id);
      }
    for (const key of this.asked) if ((JSON.parse(key) as string[])[0] === name) this.asked.delete(key);
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
      store.want(tilesInView(camera, 512, store.source.zooms), camera.view.zoom);
      const drawn = store.drawn();
      for (const { entry } of drawn) store.follow(entry, camera.view.zoom);
      this.drawn.set(name, drawn);
    }
    for (const [name, store] of this.pictures) {
      store.want(tilesInView(camera, this.entries.get(name)?.data.pixels ?? 256, store.options.zooms));
      this.drawnPictures.set(name, store.drawn());
    }
  }

  /** Stores with what is drawn of them, for the labels. */
  get lists(): { store: TileStore; drawn: readonly DrawnTile[] }[] {
    return [...this.stores].map(([name, store]) => ({ store, drawn: this.drawn.get(name) ?? [] }));
  }

  destroy(): void {
    for (const name of [...this.entries.keys()]) this.close(name, 'the map was destroyed');
  }
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
    JSON.stringify(a.cluster) === JSON.stringify(b.cluster) &&
    a.id === b.id &&
    zooms(a) === zooms(b) &&
    first?.[0] === second?.[0] &&
    first?.[1] === second?.[1]
  );
}
