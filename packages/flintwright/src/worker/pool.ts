import { Fault, parseCql2, type FeatureBlock } from '@flintwright/core';
import { faultFrom, type ClassesWanted } from '@flintwright/core/internal';
import { countLive } from '../base/live-counts.js';
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
  readonly worker: Worker;
  busy: number;
}

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
  private next = 1;
  private address: string | undefined;
  /** Version of the sheet that the workers were told last. */
  version = 0;

  /** @param url address of `flintwright/worker`; without one the worker is started from its text */
  constructor(
    private readonly size: number,
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
    const source = url ?? (this.address = URL.createObjectURL(new Blob([text], { type: 'text/javascript' })));
    for (let i = 0; i < size; i++) {
      const worker = new Worker(source);
      countLive('workers', 1);
      const slot: WorkerSlot = { worker, busy: 0 };
      worker.onmessage = ({ data }: MessageEvent<FromWorker>) => this.settle(data);
      worker.onerror = (event) => {
        event.preventDefault();
        const fault = new Fault(
          'worker.start',
          `a worker failed: ${event.message || 'it could not be started'}`,
          'Allow worker-src blob: in the content security policy, or serve flintwright/worker yourself and name it in the option "worker".',
        );
        for (const [id, entry] of [...this.waiting]) if (entry.slot === slot) this.drop(id, fault);
      };
      this.slots.push(slot);
    }
  }

  /** Tells every worker the sheet; later work is done by it. */
  setSheet(message: Omit<SheetMessage, 'version'>): void {
    const sheet = { ...message, version: ++this.version };
    for (const { worker } of this.slots) worker.postMessage({ sheet } satisfies ToWorker);
  }

  /** Hands features to the worker that is to hold them. */
  async addFeatures(request: FeaturesRequest): Promise<ReplyOf<'features'>> {
    const { data } = request;
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
    this.owners.get(data)?.worker.postMessage({ forget: data } satisfies ToWorker);
    this.owners.delete(data);
  }

  remove(): void {
    this.stop(new Fault('map.removed', 'the map was removed', 'Nothing is to be done.'));
  }

  private stop(why: Fault): void {
    for (const { worker } of this.slots) {
      worker.terminate();
      countLive('workers', -1);
    }
    this.slots.length = 0;
    this.owners.clear();
    for (const id of [...this.waiting.keys()]) this.drop(id, why);
    if (this.address) URL.revokeObjectURL(this.address);
    this.address = undefined;
  }

  private ownerOf(data: string): WorkerSlot {
    return this.owners.get(data) ?? this.slots[0];
  }

  private idlest(): WorkerSlot {
    return this.slots.reduce((best, slot) => (slot.busy < best.busy ? slot : best));
  }

  private ask<K extends CallName>(
    slot: WorkerSlot,
    call: K,
    request: RequestOf<K>,
  ): Promise<{ readonly version: number; readonly reply: ReplyOf<K> }> {
    const id = this.next++;
    slot.busy++;
    return new Promise((resolve, reject) => {
      this.waiting.set(id, { slot, reject, resolve: resolve });
      slot.worker.postMessage({ call, id, request });
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
    entry.resolve(data);
  }

  private drop(id: number, fault: Fault): void {
    const entry = this.waiting.get(id);
    this.waiting.delete(id);
    if (!entry) return;
    entry.slot.busy--;
    entry.reject(fault);
  }
}
