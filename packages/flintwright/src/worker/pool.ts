import { Fault, type CompiledSheet, type FeatureBlock } from '@flintwright/core';
import { buffersOfPieces, faultFrom, type ClassesWanted } from '@flintwright/core/internal';
import { fetchPart, notFetched } from '../base/fetch-part.js';
import { fetchValues } from '../base/late-reading.js';
import { countLive } from '../base/live-counts.js';
import { notStarted, startWorker } from '../base/start-worker.js';
import { isHere, stillPacked } from './messages.js';
import {
  everything,
  featuresIn,
  greater,
  kindFor,
  suffices,
  wantedBy,
  type Knowledge,
  type WorkerKind,
} from './kinds.js';
import type {
  CallName,
  ClusterQuery,
  FeatureEdit,
  FeaturesRequest,
  FromWorker,
  ReplyOf,
  RequestOf,
  SheetMessage,
  TileRequest,
  ToWorker,
} from './messages.js';

/** What a sheet takes of workers that are to draw all of it. */
const all = (sheet: CompiledSheet): Knowledge => {
  const wanted = wantedBy(sheet);
  return { ...wanted, features: greater(wanted.features, featuresIn(sheet)) };
};

const removedFault = () => new Fault('map.removed', 'the map was removed', 'No action is needed.');

/** What workers are started from. */
interface Script {
  /** Its address, or a promise of it while it is fetched. */
  readonly address: string | URL | Promise<string>;
  readonly knows: Knowledge;
}

const knows = ({ script }: WorkerSlot, wanted: Knowledge) => suffices(script.knows, wanted);

interface WorkerSlot {
  readonly script: Script;
  /** Resolves when it is there, or will not come. */
  readonly here: Promise<void>;
  readonly arrive: () => void;
  worker: Worker | undefined;
  /** What it is to be told as soon as it is there. */
  early: { readonly message: ToWorker; readonly transfer: readonly ArrayBuffer[] }[];
  busy: number;
  /** Whether it has answered anything. */
  answered: boolean;
  /** Why it takes no work; undefined for one that does. */
  dead?: Fault;
  /** Runs while it owes an answer. */
  watch?: ReturnType<typeof setTimeout>;
}

/** A worker that owes an answer, and gives none for so many milliseconds, is stopped. */
const patience = 60_000;

interface Waiting {
  readonly slot: WorkerSlot;
  resolve(answer: { readonly version: number; readonly reply: ReplyOf<CallName> }): void;
  reject(fault: Fault): void;
}

/** The map's workers. Work goes to the least busy one; that on features goes to the worker that holds them. */
export class WorkerPool {
  private readonly slots: WorkerSlot[] = [];
  private readonly waiting = new Map<number, Waiting>();
  /** Which worker holds the features of a data entry. */
  private readonly owners = new Map<string, WorkerSlot>();
  /** Data entries whose features went with a worker that was stopped. */
  private readonly lost = new Map<string, Fault>();
  private next = 1;
  /** Whether no work is taken any more. */
  private ended = false;
  private sheet: { readonly sheet: SheetMessage } | undefined;
  private current: CompiledSheet | undefined;
  /** Addresses of texts, to be given back. */
  private readonly addresses: string[] = [];
  private readonly scripts = new Map<WorkerKind, Script>();
  /** What the sheet in force takes of the workers that draw by it. */
  private wanted: Knowledge = { values: false, features: 0 };
  /** What was asked when features were added, for another worker that is to hold them. */
  private readonly requests = new Map<string, Pick<FeaturesRequest, 'data' | 'maxZoom' | 'idName'>>();
  /** Features on their way from one worker to another. */
  private readonly moving = new Map<string, Promise<void>>();
  /** Version of the sheet that the workers were told last. */
  version = 0;

  /**
   * Makes a pool; its workers start with the first sheet that has data.
   *
   * @param size how many
   * @param report told at once of workers that cannot be started
   * @param url address of `flintwright/worker`; without one workers are started from texts, which are fetched as they are needed
   */
  constructor(
    private readonly size: number,
    private readonly report: (fault: Fault) => void,
    private readonly url?: string | URL,
  ) {}

  /** Puts workers of another kind in place of these; what they held has to be brought again. A worker file of the application's own knows all. */
  exchange(text: string): void {
    if (this.url) return;
    this.stop(new Fault('worker.exchanged', 'the work was canceled', 'No action is needed.'));
    this.start({ address: this.addressOf(text), knows: everything });
  }

  private start(script: Script): void {
    for (let i = 0; i < this.size; i++) this.add(script);
  }

  private add(script: Script): WorkerSlot {
    let arrive!: () => void;
    const here = new Promise<void>((resolve) => (arrive = resolve));
    const slot: WorkerSlot = { script, here, arrive, worker: undefined, early: [], busy: 0, answered: false };
    this.slots.push(slot);
    this.employ(slot);
    return slot;
  }

  private addressOf(text: string): string {
    const address = URL.createObjectURL(new Blob([text], { type: 'text/javascript' }));
    this.addresses.push(address);
    return address;
  }

  private scriptOf(wanted: Knowledge): Script {
    if (this.url) return { address: this.url, knows: everything };
    const kind = kindFor(wanted);
    let script = this.scripts.get(kind);
    if (!script) {
      script = { address: kind.text().then((text) => this.addressOf(text)), knows: kind.knows };
      this.scripts.set(kind, script);
    }
    return script;
  }

  /** Workers on their way. */
  get starting(): readonly Promise<void>[] {
    return this.slots.map(({ here }) => here);
  }

  /** Starts the workers, once. @throws Fault `map.removed` */
  private begin(wanted: Knowledge): void {
    if (this.ended) throw removedFault();
    if (!this.slots.length) this.start(this.scriptOf(wanted));
  }

  /** Puts a worker into a slot. */
  private employ(slot: WorkerSlot): void {
    slot.answered = false;
    const { address } = slot.script;
    if (!(address instanceof Promise)) {
      this.run(slot, address);
      return;
    }
    address.then(
      (text) => this.slots.includes(slot) && !slot.worker && this.run(slot, text),
      (error: unknown) => this.bury(slot, notFetched(error)),
    );
  }

  private run(slot: WorkerSlot, address: string | URL): void {
    let worker: Worker;
    try {
      worker = startWorker(address);
    } catch (error) {
      this.bury(slot, error as Fault);
      return;
    }
    countLive('workers', 1);
    slot.worker = worker;
    if (this.sheet) worker.postMessage(this.sheet);
    for (const { message, transfer } of slot.early.splice(0)) worker.postMessage(message, [...transfer]);
    worker.onmessage = ({ data }: MessageEvent<FromWorker | typeof isHere>) => {
      slot.answered = true;
      if (data === isHere) slot.arrive();
      else this.settle(data);
    };
    worker.onerror = (event) => {
      event.preventDefault();
      const fault = notStarted(event.message);
      // One that has answered lives on; one that never did was not let in.
      if (slot.answered) this.dropAll(slot, fault);
      else this.bury(slot, fault);
    };
  }

  /** Says once that workers do not start, and gives no more work to this one. */
  private bury(slot: WorkerSlot, fault: Fault): void {
    slot.dead = fault;
    slot.arrive();
    this.dropAll(slot, fault);
    if (this.slots.filter(({ dead }) => dead).length === 1) this.report(fault);
  }

  /** Stops a worker that has owed an answer for too long, and puts another in its place. */
  private replace(slot: WorkerSlot): void {
    const fault = new Fault(
      'worker.slow',
      `a worker did not respond for ${patience / 1000} s, and was stopped`,
      'The sheet or the data is too large: use fewer or simpler features, or tiles.',
    );
    this.fire(slot);
    for (const [data, owner] of [...this.owners])
      if (owner === slot) {
        this.owners.delete(data);
        this.lost.set(data, fault);
      }
    this.dropAll(slot, fault);
    if (knows(slot, this.wanted)) this.employ(slot);
    else this.dismiss(slot);
  }

  private fire(slot: WorkerSlot): void {
    clearTimeout(slot.watch);
    slot.early = [];
    if (!slot.worker) return;
    slot.worker.terminate();
    slot.worker = undefined;
    countLive('workers', -1);
  }

  /** Watches a worker that owes an answer. */
  private watch(slot: WorkerSlot): void {
    clearTimeout(slot.watch);
    if (slot.busy) slot.watch = setTimeout(() => this.replace(slot), patience);
  }

  /**
   * Tells every worker the sheet; later work is done by it.
   *
   * @param message the sheet as workers take it, and what goes with it
   * @param sheet the same, compiled
   */
  setSheet(message: Omit<SheetMessage, 'version'>, sheet: CompiledSheet): void {
    this.current = sheet;
    this.sheet = { sheet: { ...message, version: ++this.version } };
    this.wanted = wantedBy(sheet);
    this.expect(sheet);
    if (this.slots.length) this.retire(all(sheet));
    // One that is not there yet is told when it comes; one that does not know enough ends by the sheet that it has.
    for (const slot of this.slots) if (knows(slot, this.wanted)) slot.worker?.postMessage(this.sheet);
  }

  /** Whether a sheet is the one that the workers draw by. */
  hasSheet(sheet: CompiledSheet): boolean {
    return this.current === sheet;
  }

  /** Starts the workers for a sheet that has data. What is in values that cannot be read yet may take more of them. */
  expect(sheet: CompiledSheet): void {
    if (Object.keys(sheet.sheet.data ?? {}).length) this.begin(all(sheet));
  }

  /**
   * Puts workers that know enough for the sheet in the place of those that do not; what is under way is done to its end.
   *
   * @param next what they are to know
   */
  private retire(next: Knowledge): void {
    const { wanted } = this;
    const old = this.slots.filter((slot) => !knows(slot, wanted));
    if (!old.length) return;
    while (this.slots.filter((slot) => knows(slot, wanted)).length < this.size) this.add(this.scriptOf(next));
    for (const slot of old) if (!slot.worker) this.passOn(slot);
    for (const [data, owner] of this.owners) if (old.includes(owner)) void this.move(data, owner.script.knows.features);
    for (const slot of old) if (!this.isNeeded(slot)) this.dismiss(slot);
  }

  /** Has another worker do what one was to do that is not there yet. */
  private passOn(old: WorkerSlot): void {
    const features = greater(this.wanted.features, old.script.knows.features);
    const slot = this.holder({ ...this.wanted, features });
    for (const [data, owner] of this.owners) if (owner === old) this.owners.set(data, slot);
    for (const [id, entry] of this.waiting) if (entry.slot === old) this.waiting.set(id, { ...entry, slot });
    slot.busy += old.busy;
    old.busy = 0;
    for (const { message, transfer } of old.early.splice(0)) this.send(slot, message, transfer);
    this.watch(slot);
    this.watch(old);
  }

  private send(slot: WorkerSlot, message: ToWorker, transfer: readonly ArrayBuffer[]): void {
    if (slot.worker) slot.worker.postMessage(message, [...transfer]);
    else slot.early.push({ message, transfer });
  }

  /** Whether a worker that does not know enough for the sheet still owes an answer, or holds features that others wait for. */
  private isNeeded(slot: WorkerSlot): boolean {
    return slot.busy > 0 || [...this.owners.values()].includes(slot);
  }

  /** Hands features over to a worker that knows enough for the sheet in force, and may do with them what is wanted. */
  private move(data: string, features: Knowledge['features']): Promise<void> {
    const moved = this.handOver(data, features).finally(() => {
      if (this.moving.get(data) === moved) this.moving.delete(data);
    });
    this.moving.set(data, moved);
    // Whoever asks something of them next is told.
    moved.catch(() => {});
    return moved;
  }

  private async handOver(data: string, features: Knowledge['features']): Promise<void> {
    const old = this.owners.get(data);
    const request = this.requests.get(data);
    if (!old || !request) return;
    const { block } = (await this.ask(old, 'export', { data })).reply;
    if (this.owners.get(data) !== old) return;
    const slot = this.holder({ ...this.wanted, features: greater(this.wanted.features, features) });
    this.owners.set(data, slot);
    const added = this.ask(slot, 'features', { ...request, source: '', held: block });
    old.worker?.postMessage({ forget: data } satisfies ToWorker);
    if (!knows(old, this.wanted) && !this.isNeeded(old)) this.dismiss(old);
    await added;
  }

  /** Lets a worker go for good. */
  private dismiss(slot: WorkerSlot): void {
    this.fire(slot);
    this.slots.splice(this.slots.indexOf(slot), 1);
  }

  /**
   * Hands features to the worker that is to hold them.
   *
   * @param features what is to be done with them
   */
  async addFeatures(request: FeaturesRequest, features: Knowledge['features']): Promise<ReplyOf<'features'>> {
    const { data, maxZoom, idName } = request;
    this.lost.delete(data);
    await this.moving.get(data);
    const wanted: Knowledge = { ...this.wanted, features: greater(this.wanted.features, features) };
    const before = this.owners.get(data);
    const slot = before && knows(before, wanted) ? before : this.holder(wanted);
    if (before && before !== slot) before.worker?.postMessage({ forget: data } satisfies ToWorker);
    this.owners.set(data, slot);
    this.requests.set(data, { data, maxZoom, idName });
    return (await this.ask(slot, 'features', request, request.pieces && buffersOfPieces(request.pieces))).reply;
  }

  /** Has the points of features that were added clustered; the features come along. */
  async buildClusters(data: string, query: ClusterQuery): Promise<ReplyOf<'clusters'>> {
    return (await this.ask(await this.able(data), 'clusters', { data, query })).reply;
  }

  /** The features that were added, as they are now. */
  async exportFeatures(data: string): Promise<FeatureBlock> {
    return (await this.ask(await this.able(data, 1), 'export', { data })).reply.block;
  }

  /** The keys of some that no feature of a data entry has. */
  async missingKeys(data: string, keys: readonly string[], idName: string | undefined): Promise<readonly string[]> {
    return (await this.ask(await this.able(data, 1), 'has', { data, keys, idName })).reply.missing;
  }

  /** Has features that were added changed. */
  async edit(data: string, edit: FeatureEdit, idName: string | undefined): Promise<void> {
    await this.ask(await this.able(data), 'edit', { data, edit, idName });
  }

  /** Has class limits found in features that were added. */
  async findClasses(data: string, wanted: readonly ClassesWanted[]): Promise<readonly (readonly number[])[]> {
    const { parseCql2 } = await fetchValues();
    const trees = wanted.map((classes) => ({ ...classes, by: parseCql2(classes.by) }));
    return (await this.ask(await this.able(data), 'classes', { data, wanted: trees })).reply.breaks;
  }

  /** Has a tile prepared; `version` is that of the sheet it was prepared for. */
  async prepare(request: TileRequest): Promise<ReplyOf<'tile'> & { readonly version: number }> {
    try {
      return await this.prepareIn(request.bytes ? this.idlest() : await this.able(request.data, 1), request);
    } catch (error) {
      if (!request.bytes || !(error instanceof Fault) || error.code !== stillPacked) throw error;
      const { gunzip } = await fetchPart(() => import('./unpack.js'));
      return this.prepareIn(this.idlest(), { ...request, bytes: gunzip(request.bytes) });
    }
  }

  private async prepareIn(
    slot: WorkerSlot,
    request: TileRequest,
  ): Promise<ReplyOf<'tile'> & { readonly version: number }> {
    const { version, reply } = await this.ask(slot, 'tile', request);
    return { version, ...reply };
  }

  /** Lets the worker that holds the features of a data entry drop them. */
  forget(data: string): void {
    this.owners.get(data)?.worker?.postMessage({ forget: data } satisfies ToWorker);
    this.owners.delete(data);
    this.requests.delete(data);
    this.lost.delete(data);
  }

  remove(): void {
    this.ended = true;
    this.stop(removedFault());
  }

  private stop(why: Fault): void {
    for (const slot of this.slots) this.fire(slot);
    this.slots.length = 0;
    this.owners.clear();
    this.requests.clear();
    this.moving.clear();
    this.lost.clear();
    this.sheet = undefined;
    for (const id of [...this.waiting.keys()]) this.drop(id, why);
    for (const address of this.addresses.splice(0)) URL.revokeObjectURL(address);
    this.scripts.clear();
  }

  private ownerOf(data: string): WorkerSlot {
    const lost = this.lost.get(data);
    if (lost) throw lost;
    return this.owners.get(data) ?? this.idlest();
  }

  /** The worker that holds the features of a data entry, once it may do with them what is wanted; by default everything. */
  private async able(data: string, features: Knowledge['features'] = 2): Promise<WorkerSlot> {
    await this.moving.get(data);
    const owner = this.ownerOf(data);
    if (this.owners.has(data) && owner.script.knows.features < features) await this.move(data, features);
    return this.ownerOf(data);
  }

  /** The least busy of some workers, dead ones last; by default of those that can do what the sheet takes. */
  private idlest(some?: readonly WorkerSlot[]): WorkerSlot {
    this.begin(this.wanted);
    const among = some ?? this.slots.filter((slot) => knows(slot, this.wanted));
    return among.reduce((best, slot) => (!slot.dead && (best.dead || slot.busy < best.busy) ? slot : best));
  }

  /** A worker for features: where all have tiles only, one more. */
  private holder(wanted: Knowledge): WorkerSlot {
    this.begin(wanted);
    const able = this.slots.filter((slot) => knows(slot, wanted));
    return able.length ? this.idlest(able) : this.add(this.scriptOf(wanted));
  }

  private ask<K extends CallName>(
    slot: WorkerSlot,
    call: K,
    request: RequestOf<K>,
    transfer: readonly ArrayBuffer[] = [],
  ): Promise<{ readonly version: number; readonly reply: ReplyOf<K> }> {
    if (slot.dead) return Promise.reject(slot.dead);
    const id = this.next++;
    slot.busy++;
    if (slot.busy === 1) this.watch(slot);
    return new Promise((resolve, reject) => {
      this.waiting.set(id, { slot, reject, resolve: resolve });
      this.send(slot, { call, id, request }, transfer);
    });
  }

  private settle(data: FromWorker): void {
    const entry = this.waiting.get(data.id);
    if (!entry) return;
    if (!data.ok) {
      this.drop(data.id, faultFrom(data.fault));
      return;
    }
    this.waiting.delete(data.id);
    const { slot } = entry;
    slot.busy--;
    this.watch(slot);
    if (!knows(slot, this.wanted) && !this.isNeeded(slot)) this.dismiss(slot);
    entry.resolve(data);
  }

  /** Drops all that a worker owes. */
  private dropAll(slot: WorkerSlot, fault: Fault): void {
    for (const [id, entry] of [...this.waiting]) if (entry.slot === slot) this.drop(id, fault);
  }

  private drop(id: number, fault: Fault): void {
    const entry = this.waiting.get(id);
    this.waiting.delete(id);
    if (!entry) return;
    entry.slot.busy--;
    this.watch(entry.slot);
    entry.reject(fault);
  }
}
