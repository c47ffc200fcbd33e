import { Fault, parseCql2, type FeatureBlock } from '@flintwright/core';
import { buffersOfPieces, faultFrom, type ClassesWanted } from '@flintwright/core/internal';
import { fetchPart, notFetched } from '../base/fetch-part.js';
import { countLive } from '../base/live-counts.js';
import { notStarted, startWorker } from '../base/start-worker.js';
import { stillPacked } from './messages.js';
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

/** What workers are started from. */
interface Script {
  /** Its address, or a promise of it while it is fetched. */
  readonly address: string | URL | Promise<string>;
  /** Whether such a worker holds features. */
  readonly holds: boolean;
}

interface WorkerSlot {
  readonly script: Script;
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
  private sheet: { readonly sheet: SheetMessage } | undefined;
  /** Addresses of texts, to be given back. */
  private readonly addresses: string[] = [];
  private featuresScript: Script | undefined;
  /** Whether the sheet in force calls functions of shapes, which workers of tiles only do not know. */
  private shapes = false;
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
    this.stop(new Fault('worker.exchanged', 'the work was given up', 'Nothing is to be done.'));
    this.start({ address: this.addressOf(text), holds: true });
  }

  private start(script: Script): void {
    for (let i = 0; i < this.size; i++) this.add(script);
  }

  private add(script: Script): WorkerSlot {
    const slot: WorkerSlot = { script, worker: undefined, early: [], busy: 0, answered: false };
    this.slots.push(slot);
    this.employ(slot);
    return slot;
  }

  private addressOf(text: string): string {
    const address = URL.createObjectURL(new Blob([text], { type: 'text/javascript' }));
    this.addresses.push(address);
    return address;
  }

  /** The script of workers that have tiles only: it is two thirds of the other. */
  private tilesScript(): Script {
    const text = fetchPart(() => import('./worker-text.generated.js')).then(({ workerText }) =>
      this.addressOf(workerText),
    );
    return this.url ? { address: this.url, holds: true } : { address: text, holds: false };
  }

  private holdingScript(): Script {
    if (this.url) return { address: this.url, holds: true };
    return (this.featuresScript ??= {
      address: fetchPart(() => import('./features-worker-text.generated.js')).then(({ featuresWorkerText }) =>
        this.addressOf(featuresWorkerText),
      ),
      holds: true,
    });
  }

  /** Starts the workers, once: such as hold features, or of tiles only. */
  private begin(holds: boolean): void {
    if (this.slots.length) return;
    this.start(holds ? this.holdingScript() : this.tilesScript());
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
    worker.onmessage = ({ data }: MessageEvent<FromWorker>) => {
      slot.answered = true;
      this.settle(data);
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
    this.dropAll(slot, fault);
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
    this.dropAll(slot, fault);
    this.employ(slot);
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

  /** Tells every worker the sheet; later work is done by it. */
  setSheet(message: Omit<SheetMessage, 'version'>): void {
    this.sheet = { sheet: { ...message, version: ++this.version } };
    // One that is not there yet is told when it comes.
    const data = Object.values(message.sheet.data ?? {});
    if (data.length) this.begin(message.shapes || data.some(({ features }) => features !== undefined));
    this.shapes = message.shapes;
    if (message.shapes && this.slots.length) this.retireTilesOnly();
    for (const { worker } of this.slots) worker?.postMessage(this.sheet);
  }

  /** Puts workers that know the functions of shapes in the place of those of tiles only; what is under way is done to its end. */
  private retireTilesOnly(): void {
    const old = this.slots.filter(({ script }) => !script.holds);
    for (const slot of old) if (!slot.busy) this.dismiss(slot);
    while (this.slots.filter(({ script }) => script.holds).length < this.size) this.add(this.holdingScript());
  }

  /** Lets a worker go for good. */
  private dismiss(slot: WorkerSlot): void {
    this.fire(slot);
    this.slots.splice(this.slots.indexOf(slot), 1);
  }

  /** Hands features to the worker that is to hold them. */
  async addFeatures(request: FeaturesRequest): Promise<ReplyOf<'features'>> {
    const { data } = request;
    this.lost.delete(data);
    const slot = this.owners.get(data) ?? this.holder();
    this.owners.set(data, slot);
    return (await this.ask(slot, 'features', request, request.pieces && buffersOfPieces(request.pieces))).reply;
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
    try {
      return await this.prepareIn(request.bytes ? this.idlest() : this.ownerOf(request.data), request);
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
    for (const address of this.addresses.splice(0)) URL.revokeObjectURL(address);
    this.featuresScript = undefined;
  }

  private ownerOf(data: string): WorkerSlot {
    const lost = this.lost.get(data);
    if (lost) throw lost;
    return this.owners.get(data) ?? this.idlest();
  }

  /** The least busy of some workers, dead ones last; by default of those that can do what the sheet takes. */
  private idlest(some?: readonly WorkerSlot[]): WorkerSlot {
    this.begin(this.shapes);
    const among = some ?? this.slots.filter(({ script }) => script.holds || !this.shapes);
    return among.reduce((best, slot) => (!slot.dead && (best.dead || slot.busy < best.busy) ? slot : best));
  }

  /** A worker for features: where all have tiles only, one more. */
  private holder(): WorkerSlot {
    this.begin(true);
    const able = this.slots.filter(({ script }) => script.holds);
    return able.length ? this.idlest(able) : this.add(this.holdingScript());
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
      const message = { call, id, request };
      if (slot.worker) slot.worker.postMessage(message, [...transfer]);
      else slot.early.push({ message, transfer });
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
    if (this.shapes && !slot.script.holds && !slot.busy) this.dismiss(slot);
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
