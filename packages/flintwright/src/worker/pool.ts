import {
  Fault,
  faultFrom,
  parseCql2,
  type ClassesWanted,
  type FeatureBlock,
  type Sheet,
  type SurfaceSpec,
} from '@flintwright/core';
import { count } from '../base/live-counts.js';
import type { FeatureEdit, FromWorker, TableJoin, ToWorker, TreeCluster } from './messages.js';
import { workerText } from './worker-text.generated.js';

type Answer = Extract<FromWorker, { ok: true }>;

interface Seat {
  readonly worker: Worker;
  busy: number;
}

/** The map's workers. Work goes to the least busy one; features live in the worker that `seatOf` names. */
export class WorkerPool {
  private readonly seats: Seat[] = [];
  private readonly waiting = new Map<
    number,
    { resolve(answer: Answer): void; reject(fault: Fault): void; seat: Seat }
  >();
  private readonly homes = new Map<string, Seat>();
  private next = 1;
  private address: string | undefined;
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
      count('workers', 1);
      const seat: Seat = { worker, busy: 0 };
      worker.onmessage = ({ data }: MessageEvent<FromWorker>) => this.settle(data);
      worker.onerror = (event) => {
        event.preventDefault();
        const fault = new Fault(
          'worker.start',
          `a worker failed: ${event.message || 'it could not be started'}`,
          'Allow worker-src blob: in the content security policy, or serve flintwright/worker yourself and name it in the option "worker".',
        );
        for (const [id, entry] of [...this.waiting]) if (entry.seat === seat) this.drop(id, fault);
      };
      this.seats.push(seat);
    }
  }

  /** Tells every worker the sheet; later work is done by it. */
  setSheet(sheet: Sheet, sprites: readonly string[], surface: SurfaceSpec | undefined): void {
    this.version++;
    for (const { worker } of this.seats)
      worker.postMessage({ kind: 'sheet', version: this.version, sheet, sprites, surface } satisfies ToWorker);
  }

  addFeatures(
    data: string,
    source: string | object,
    {
      idName,
      maxZoom,
      join,
      crs,
      greatCircles,
      held,
    }: {
      idName: string | undefined;
      maxZoom: number;
      join: TableJoin | undefined;
      crs: string | undefined;
      greatCircles: boolean;
      held: FeatureBlock | undefined;
    },
  ): Promise<Answer> {
    const seat = this.homes.get(data) ?? this.idlest();
    this.homes.set(data, seat);
    return this.ask(seat, (id) => ({
      kind: 'features',
      id,
      data,
      source,
      maxZoom,
      ...(idName === undefined ? {} : { idName }),
      ...(join === undefined ? {} : { join }),
      ...(crs === undefined ? {} : { crs }),
      ...(greatCircles ? { greatCircles } : {}),
      ...(held ? { held } : {}),
    }));
  }

  /** Has the points of features that were added gathered into clusters; the features come along. */
  async gather(data: string, cluster: TreeCluster): Promise<NonNullable<Answer['clusters']>> {
    const seat = this.homes.get(data) ?? this.seats[0];
    return (await this.ask(seat, (id) => ({ kind: 'clusters', id, data, cluster }))).clusters!;
  }

  /** The features that were added, as they are now. */
  async hand(data: string): Promise<FeatureBlock> {
    const seat = this.homes.get(data) ?? this.seats[0];
    return (await this.ask(seat, (id) => ({ kind: 'hand', id, data }))).block!;
  }

  /** Has features that were added changed. */
  async edit(data: string, edit: FeatureEdit, idName: string | undefined): Promise<void> {
    const seat = this.homes.get(data) ?? this.seats[0];
    await this.ask(seat, (id) => ({ kind: 'edit', id, data, edit, idName }));
  }

  /** Has class limits found in features that were added. */
  async findClasses(data: string, wanted: readonly ClassesWanted[]): Promise<readonly (readonly number[])[]> {
    const seat = this.homes.get(data) ?? this.seats[0];
    const trees = wanted.map((classes) => ({ ...classes, by: parseCql2(classes.by) }));
    return (await this.ask(seat, (id) => ({ kind: 'classes', id, data, wanted: trees }))).breaks!;
  }

  forget(data: string): void {
    this.homes.get(data)?.worker.postMessage({ kind: 'forget', data } satisfies ToWorker);
    this.homes.delete(data);
  }

  prepare(message: Omit<Extract<ToWorker, { kind: 'tile' }>, 'id' | 'kind'>): Promise<Answer> {
    const seat = message.bytes ? this.idlest() : (this.homes.get(message.data) ?? this.seats[0]);
    return this.ask(seat, (id) => ({ kind: 'tile', id, ...message }));
  }

  /** How much is under way. */
  get busy(): number {
    return this.waiting.size;
  }

  destroy(): void {
    this.stop(new Fault('map.destroyed', 'the map was destroyed', 'Nothing is to be done.'));
  }

  private stop(why: Fault): void {
    for (const { worker } of this.seats) {
      worker.terminate();
      count('workers', -1);
    }
    this.seats.length = 0;
    this.homes.clear();
    for (const id of [...this.waiting.keys()]) this.drop(id, why);
    if (this.address) URL.revokeObjectURL(this.address);
    this.address = undefined;
  }

  private idlest(): Seat {
    return this.seats.reduce((best, seat) => (seat.busy < best.busy ? seat : best));
  }

  private ask(seat: Seat, message: (id: number) => ToWorker): Promise<Answer> {
    const id = this.next++;
    seat.busy++;
    return new Promise((resolve, reject) => {
      this.waiting.set(id, { resolve, reject, seat });
      seat.worker.postMessage(message(id));
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
    entry.seat.busy--;
    entry.resolve(data);
  }

  private drop(id: number, fault: Fault): void {
    const entry = this.waiting.get(id);
    this.waiting.delete(id);
    if (!entry) return;
    entry.seat.busy--;
    entry.reject(fault);
  }
}
