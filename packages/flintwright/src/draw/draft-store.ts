import { Fault } from '@flintwright/core';
import type { EditDraft } from '@flintwright/core/edit';

const storeName = 'flintwright-drafts';
const table = 'drafts';

/** A draft as it is stored, with the tab that wrote it. */
type StoredDraft = EditDraft & { readonly owner?: string };

function asked<T>(request: IDBRequest<T>): Promise<T> {
  return new Promise((resolve, reject) => {
    request.onsuccess = () => resolve(request.result);
    request.onerror = () => reject(request.error ?? new Error('the database gave no reason'));
  });
}

/** The database of drafts. @throws what the browser throws where a page may not store data */
async function openDatabase(): Promise<IDBDatabase> {
  const opening = indexedDB.open(storeName, 1);
  opening.onupgradeneeded = () => opening.result.createObjectStore(table);
  return asked(opening);
}

/**
 * A draft in the browser's own database. One tab has it at a time (Web Locks); others work on copies of their own, under keys that begin
 * with its name.
 */
export class DraftStore {
  private readonly database: Promise<IDBDatabase>;
  private readonly owner = `${Date.now().toString(36)}-${Math.random().toString(36).slice(2)}`;
  private key: string;
  /** The tab that had written the draft when this one read it. */
  private before: string | undefined;
  private release: (() => void) | undefined;
  private claimed: Promise<unknown> = Promise.resolve();
  private isClosed = false;

  /**
   * @param name of the draft
   * @param lost called when another tab has taken the draft over; what is written from then on is a copy
   */
  constructor(
    private readonly name: string,
    private readonly lost: () => void,
  ) {
    this.key = name;
    this.database = openDatabase();
    // Each call reports it; there may be none.
    this.database.catch(() => {});
  }

  /** Whether this tab works on a copy. */
  get isCopy(): boolean {
    return this.key !== this.name;
  }

  /**
   * Claims the draft for this tab; where another has it, this one gets a copy.
   *
   * @param options `steal` takes it from the other tab
   */
  claim({ steal = false } = {}): Promise<void> {
    const claiming = async () => {
      this.release?.();
      this.key = (await this.lock(this.name, steal)) ? this.name : this.copyKey();
      if (this.isCopy) await this.lock(this.key, false);
    };
    const claimed = claiming();
    this.claimed = claimed;
    return claimed;
  }

  private copyKey(): string {
    return `${this.name}\u0000${this.owner}`;
  }

  /** Locks a key until the tab closes, or another steals it. @returns whether it was free */
  private lock(key: string, steal: boolean): Promise<boolean> {
    // Pages without a secure context have no locks; there, writing notices the other tab.
    if (!('locks' in navigator)) return Promise.resolve(true);
    return new Promise((answer) => {
      navigator.locks
        .request(`${storeName} ${key}`, steal ? { steal } : { ifAvailable: true }, (lock) => {
          answer(lock !== null);
          return lock ? new Promise<void>((done) => (this.release = done)) : undefined;
        })
        .catch(() => this.become());
    });
  }

  /** Goes on with a copy, because another tab has the draft. */
  private become(): void {
    if (this.isClosed || this.isCopy) return;
    this.useCopy();
    this.lost();
  }

  /** Leaves the draft as it is; what is written from now on is a copy. */
  useCopy(): void {
    if (this.isCopy) return;
    this.key = this.copyKey();
    void this.lock(this.key, false);
  }

  private async run<T>(mode: IDBTransactionMode, work: (store: IDBObjectStore) => Promise<T>): Promise<T> {
    try {
      const transaction = (await this.database).transaction(table, mode);
      const ended = new Promise<void>((resolve, reject) => {
        transaction.oncomplete = () => resolve();
        transaction.onabort = () => reject(transaction.error ?? new Error('the database gave no reason'));
      });
      ended.catch(() => {});
      const answer = await work(transaction.objectStore(table));
      if (mode === 'readwrite') await ended;
      return answer;
    } catch (error) {
      // A bar that was removed meanwhile waits for nothing, and says nothing of a database that it closed itself.
      if (this.isClosed) return new Promise<T>(() => {});
      const full = (error as Error).name === 'QuotaExceededError';
      throw new Fault(
        'draw.draft',
        full ? 'the storage of the browser is full' : `the draft cannot be stored: ${(error as Error).message}`,
        full
          ? 'Save your work and free some space.'
          : 'The page may not store data; save the work before you leave it.',
        undefined,
        error,
      );
    }
  }

  /** The draft, as it was stored last. */
  async read(key = this.name): Promise<StoredDraft | undefined> {
    const draft = await this.run('readonly', (store) => asked(store.get(key) as IDBRequest<StoredDraft | undefined>));
    if (key === this.name) this.before = draft?.owner;
    return draft;
  }

  async write(draft: EditDraft): Promise<void> {
    await this.claimed;
    const isOurs = await this.run('readwrite', async (store) => {
      const there = await asked(store.get(this.key) as IDBRequest<StoredDraft | undefined>);
      // What another tab has written since this one read is left as it is.
      if (there && there.owner !== this.owner && there.owner !== this.before) return false;
      await asked(store.put({ ...draft, owner: this.owner }, this.key));
      return true;
    });
    if (isOurs) return;
    this.become();
    await this.write(draft);
  }

  /** Keys of copies that tabs have left behind. */
  async copies(): Promise<readonly string[]> {
    const range = IDBKeyRange.bound(`${this.name}\u0000`, `${this.name}\u0001`);
    const keys = await this.run('readonly', (store) => asked(store.getAllKeys(range)));
    if (!('locks' in navigator)) return keys.map(String);
    const { held = [] } = await navigator.locks.query();
    return keys.map(String).filter((key) => !held.some(({ name }) => name === `${storeName} ${key}`));
  }

  /** Stores a draft in the place of a copy. */
  swap(key: string, draft: EditDraft): Promise<unknown> {
    return this.run('readwrite', (store) => asked(store.put(draft, key)));
  }

  /** Forgets a draft. */
  discard(key = this.key): Promise<unknown> {
    return this.run('readwrite', (store) => asked(store.delete(key)));
  }

  close(): void {
    this.isClosed = true;
    this.release?.();
    void this.database.then((database) => database.close()).catch(() => {});
  }
}
