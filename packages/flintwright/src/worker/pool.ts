import { Fault, parseCql2, type FeatureBlock } from '@flintwright/core';
import { faultFrom, type ClassesWanted } from '@flintwright/core/internal';
import { countLive } from '../base/live-counts.js';
import { notStarted, startWorker } from '../base/start-worker.js';
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
import { workerText } from './worker-text.generated.js';

interface WorkerSlot {
  worker: Worker | undefined;
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
  private sheet: ToWorker | undefined;
  private source: string | URL = '';
  private address: string | undefined;
  /** Version of the sheet that the workers were told last. */
  version = 0;

  /**
   * Starts the workers.
   *
   * @param size how many
   * @param report told at once of workers that cannot be started
   * @param url address of `flintwright/worker`; without one the worker is started from its text
   */
  constructor(
    private readonly size: number,
    private readonly report: (fault: Fault) => void,
    private readonly url?: string | URL,
  ) {
    this.start(workerText);
  }

  /** Puts workers of another kind in place of these; what they held has to be brought again. A worker file of the application's own knows all. */
  exchange(text: string): void {
    if (this.url) return;
    this.stop(new Fault('worker.exchanged', 'the work was given up', 'Nothing is to be done.'));
    this.start(text);
  }

  private start(text: string): void {
    const { size, url } = this;
    this.source = url ?? (this.address = URL.createObjectURL(new Blob([text], { type: 'text/javascript' })));
    for (let i = 0; i < size; i++) {
      const slot: WorkerSlot = { worker: undefined, busy: 0, answered: false };
      this.slots.push(slot);
      this.employ(slot);
    }
  }

  /** Puts a worker into a slot. */
  private employ(slot: WorkerSlot): void {
    slot.answered = false;
    let worker: Worker;
    try {
      worker = startWorker(this.source);
    } catch (error) {
      this.bury(slot, error as Fault);
      return;
    }
    countLive('workers', 1);
    slot.worker = worker;
    worker.onmessage = ({ data }: MessageEvent<FromWorker>) => {
      slot.answered = true;
      this.settle(data);
    };
    worker.onerror = (event) => {
      event.preventDefault();
      const fault = notStarted(event.message);
      // One that has answered lives on; one that never did was not let in.
      if (!slot.answered) this.bury(slot, fault);
      for (const [id, entry] of [...this.waiting]) if (entry.slot === slot) this.drop(id, fault);
    };
  }

  /** Says once that workers do not start, and gives no more work to this one. */
  private bury(slot: WorkerSlot, fault: Fault): void {
    slot.dead = fault;
    if (this.slots.filter(({ dead }) => dead).length === 1) this.report(fault);
  }

  /** Stops a worker that has owed an answer for too long, and puts another in its place. */
  private replace(slot: WorkerSlot): void {
    const fault = new Fault(
      'worker.slow',
      `a worker gave no answer for ${patience / 1000} s, and was stopped`,
      'The sheet or the data asks too much at once: fewer or simpler features, or tiles, may help.',
    );
    this.fire(slot);
    for (const [data, owner] of [...this.owners])
      if (owner === slot) {
        this.owners.delete(data);
        this.lost.set(data, fault);
      }
    for (const [id, entry] of [...this.waiting]) if (entry.slot === slot) this.drop(id, fault);
    this.employ(slot);
    if (this.sheet) slot.worker?.postMessage(this.sheet);
  }

  private fire(slot: WorkerSlot): void {
    clearTimeout(slot.watch);
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

  /** Tells every worker the sheet; later work is done by it. */
  setSheet(message: Omit<SheetMessage, 'version'>): void {
    this.sheet = { sheet: { ...message, version: ++this.version } };
    for (const { worker } of this.slots) worker?.postMessage(this.sheet);
  }

  /** Hands features to the worker that is to hold them. */
  async addFeatures(request: FeaturesRequest): Promise<ReplyOf<'features'>> {
    const { data } = request;
    this.lost.delete(data);
    const slot = this.owners.get(data) ?? this.idlest();
    this.owners.set(data, slot);
    return (await this.ask(slot, 'features', request)).reply;
  }

  /** Has the points of features that were added clustered; the features come along. */
  async buildClusters(data: string, query: ClusterQuery): Promise<ReplyOf<'clusters'>> {
    return (await this.ask(this.ownerOf(data), 'clusters', { data, query })).reply;
  }

  /** The features that were added, as they are now. */
  async exportFeatures(data: string): Promise<FeatureBlock> {
    return (await this.ask(this.ownerOf(data), 'export', { data })).reply.block;
  }

  /** The keys of some that no feature of a data entry has. */
  async missingKeys(data: string, keys: readonly string[], idName: string | undefined): Promise<readonly string[]> {
    return (await this.ask(this.ownerOf(data), 'has', { data, keys, idName })).reply.missing;
  }

  /** Has features that were added changed. */
  async edit(data: string, edit: FeatureEdit, idName: string | undefined): Promise<void> {
    await this.ask(this.ownerOf(data), 'edit', { data, edit, idName });
  }

  /** Has class limits found in features that were added. */
  async findClasses(data: string, wanted: readonly ClassesWanted[]): Promise<readonly (readonly number[])[]> {
    const trees = wanted.map((classes) => ({ ...classes, by: parseCql2(classes.by) }));
    return (await this.ask(this.ownerOf(data), 'classes', { data, wanted: trees })).reply.breaks;
  }

  /** Has a tile prepared; `version` is that of the sheet it was prepared for. */
  async prepare(request: TileRequest): Promise<ReplyOf<'tile'> & { readonly version: number }> {
    const slot = request.bytes ? this.idlest() : this.ownerOf(request.data);
    const { version, reply } = await this.ask(slot, 'tile', request);
    return { version, ...reply };
  }

  /** Lets the worker that holds the features of a data entry drop them. */
  forget(data: string): void {
    this.owners.get(data)?.worker?.postMessage({ forget: data } satisfies ToWorker);
    this.owners.delete(data);
    this.lost.delete(data);
  }

  remove(): void {
    this.stop(new Fault('map.removed', 'the map was removed', 'Nothing is to be done.'));
  }

  private stop(why: Fault): void {
    for (const slot of this.slots) this.fire(slot);
    this.slots.length = 0;
    this.owners.clear();
    this.lost.clear();
    this.sheet = undefined;
    for (const id of [...this.waiting.keys()]) this.drop(id, why);
    if (this.address) URL.revokeObjectURL(this.address);
    this.address = undefined;
  }

  private ownerOf(data: string): WorkerSlot {
    const lost = this.lost.get(data);
    if (lost) throw lost;
    return this.owners.get(data) ?? this.slots[0];
  }

  private idlest(): WorkerSlot {
    return this.slots.reduce((best, slot) => (!slot.dead && (best.dead || slot.busy < best.busy) ? slot : best));
  }

  private ask<K extends CallName>(
    slot: WorkerSlot,
    call: K,
    request: RequestOf<K>,
  ): Promise<{ readonly version: number; readonly reply: ReplyOf<K> }> {
    if (slot.dead) return Promise.reject(slot.dead);
    const id = this.next++;
    slot.busy++;
    if (slot.busy === 1) this.watch(slot);
    return new Promise((resolve, reject) => {
      this.waiting.set(id, { slot, reject, resolve: resolve });
      slot.worker!.postMessage({ call, id, request });
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
    entry.slot.busy--;
    this.watch(entry.slot);
    entry.resolve(data);
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
