// Room "load": what is fetched and kept: sources, their tiles and images, and what is worked out from features.
import { Fault, type CompiledSheet, type FeatureBlock, type JoinReport } from '@flintwright/core';
import type { Camera } from '@flintwright/core/internal';
import type { FeatureEdit } from '../worker/messages.js';
import type { Credit } from './credit.js';
import type { ClusterSource } from './cluster-source.js';
import { DataEntry, type DataEvents, type DataState } from './data-entry.js';
import { otherFeatures, sameData } from './same-data.js';
import type { TileStore } from './tile-store.js';
import type { LoadTools } from './tools.js';

/** The data of a map: each entry of the sheet that a layer draws. */
export class Sources {
  /** By the name of the entry. */
  readonly entries: ReadonlyMap<string, DataEntry>;
  private readonly all = new Map<string, DataEntry>();
  private readonly listeners: DataEvents[] = [];

  constructor(private readonly tools: LoadTools) {
    this.entries = this.all;
  }

  /** Tells of what becomes of the entries. */
  listen(events: DataEvents): void {
    this.listeners.push(events);
  }

  /** Opens, keeps and closes what a sheet asks for. */
  apply({ sheet, layers }: CompiledSheet): void {
    const wanted = sheet.data ?? {};
    for (const [name, entry] of this.all) {
      const { data } = entry;
      if (!data) continue;
      const next = Object.hasOwn(wanted, name) ? wanted[name] : undefined;
      if (next && otherFeatures(next, data)) void entry.renew(next);
      else if (!next || !sameData(next, data)) entry.close('the data is no longer needed');
    }
    for (const [name, data] of Object.entries(wanted)) {
      const entry = this.all.get(name) ?? this.add(name);
      if (entry.data) entry.follow();
      else if (layers.some((layer) => layer.data === name)) void entry.open(data);
    }
  }

  private add(name: string): DataEntry {
    const entry = new DataEntry(name, this.tools, {
      opened: () => this.listeners.forEach((listener) => listener.opened?.()),
      turned: (data, state) => this.listeners.forEach((listener) => listener.turned?.(data, state)),
      found: (breaks) => this.listeners.forEach((listener) => listener.found?.(breaks)),
    });
    this.all.set(name, entry);
    return entry;
  }

  /** What is waited for until the entries are open. */
  get opening(): readonly Promise<unknown>[] {
    return [...this.all.values()].map(({ opened }) => opened);
  }

  /** How it stands with an entry; undefined for none that is drawn. */
  isEmpty(name: string): boolean {
    return this.all.get(name)?.isEmpty ?? false;
  }

  stateOf(name: string): DataState | undefined {
    return this.all.get(name)?.state;
  }

  /** Whether opening an entry has come to an end, well or not. */
  isOpened(name: string): boolean {
    return this.all.get(name)?.isOpened ?? false;
  }

  tileStore(name: string): TileStore | undefined {
    return this.all.get(name)?.tileStore;
  }

  /** How the join of an entry to its table went; undefined before it is loaded, and where there is none. */
  joinReport(name: string): JoinReport | undefined {
    return this.tileStore(name)?.source.join;
  }

  /** The clusters that a layer draws; undefined before they are there. */
  clustersOf(layer: string): ClusterSource | undefined {
    for (const { derived } of this.all.values()) {
      const clusters = derived.clusters.get(layer);
      if (clusters) return clusters;
    }
    return undefined;
  }

  /** All features of an entry, as the workers hold them. */
  async featuresOf(name: string): Promise<FeatureBlock> {
    const { data } = this.tools.context.state.sheet.sheet;
    const entry = data && Object.hasOwn(data, name) ? data[name] : undefined;
    if (entry && entry.features === undefined)
      throw new Fault(
        'features.data',
        `the data "${name}" holds ${entry.tiles === undefined ? 'pictures' : 'tiles, which cannot be given as features'}`,
        entry.tiles === undefined
          ? 'Only features can be given.'
          : 'A map has only the tiles in view. Read the file with readFeatureFile, or ask map.pick for what is in view.',
        `$.data.${name}`,
      );
    return this.tools.pool.exportFeatures(name);
  }

  /** Keys of features in memory that none of an entry's features has; none for tiles, of which only some are here. */
  async missingKeys(name: string, keys: readonly string[]): Promise<readonly string[]> {
    if (!this.tileStore(name)?.source.features) return [];
    return this.tools.pool.missingKeys(name, keys, this.tools.context.idName(name));
  }

  /** Changes features of an entry. @throws Fault `edit.*` */
  async edit(name: string, edit: FeatureEdit): Promise<void> {
    await (this.all.get(name) ?? this.add(name)).edit(edit);
  }

  /** Brings what a layer shows into line with the application's test of it. */
  refilter(layer: string, data: string): void {
    this.tileStore(data)?.restyle();
    this.clustersOf(layer)?.filter(this.tools.context.filters.of(layer));
  }

  /** Bounds of the entries that say theirs, `[west, south, east, north]` in degrees; undefined as long as one is being opened. */
  get bounds(): (readonly [number, number, number, number])[] | undefined {
    const entries = [...this.all.values()].filter(({ data }) => data);
    if (!entries.every(({ isOpened }) => isOpened)) return undefined;
    return entries.flatMap(({ tileStore }) => (tileStore?.source.bounds ? [tileStore.source.bounds] : []));
  }

  get loading(): boolean {
    for (const entry of this.all.values()) if (entry.loading) return true;
    return false;
  }

  /** Whom to credit, each once. */
  get credits(): (readonly Credit[])[] {
    const all = [...this.all.values()].map(({ credit }) => credit).filter(({ length }) => length);
    return [...new Map(all.map((credit) => [JSON.stringify(credit), credit])).values()];
  }

  /** Asks for the tiles that a view needs and settles what is drawn of those that are there. */
  settle(camera: Camera): void {
    for (const entry of this.all.values()) entry.settle(camera);
  }

  /** Makes anew what the tiles had in a lost graphics context. */
  rebuild(): void {
    for (const entry of this.all.values()) entry.rebuild();
  }

  /** Forgets GPU objects that went with a lost context. */
  dropBuffers(): void {
    for (const entry of this.all.values()) entry.dropBuffers();
  }

  /**
   * Keeps edited features for the workers that come with another surface, until a moment at which none is being edited. Where edits
   * follow each other too closely for that, those under way are refused when the workers go.
   */
  async keepEdits(): Promise<void> {
    for (let tries = 0; tries < 5; tries++) {
      const unkept = [...this.all.values()].filter((entry) => entry.unkept);
      if (!unkept.length) return;
      await Promise.all(unkept.map((entry) => entry.keepEdits()));
    }
  }

  /** Lets go of everything but edits that were kept, to be opened again with the next sheet. */
  reset(): void {
    for (const entry of this.all.values()) entry.close('the surface has changed', true);
  }

  remove(): void {
    for (const entry of this.all.values()) entry.close('the map was removed');
  }
}
