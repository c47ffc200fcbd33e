import { Fault } from '@flintwright/core';
import type { EditDraft } from '@flintwright/core/edit';

const storeName = 'flintwright-drafts';
const table = 'drafts';

function asked<T>(request: IDBRequest<T>): Promise<T> {
  return new Promise((resolve, reject) => {
    request.onsuccess = () => resolve(request.result);
    request.onerror = () => reject(request.error ?? new Error('the database gave no reason'));
  });
}

/** Drafts in the browser's own database, by their names. */
export class DraftStore {
  private readonly database: Promise<IDBDatabase>;

  constructor(private readonly name: string) {
    const opening = indexedDB.open(storeName, 1);
    opening.onupgradeneeded = () => opening.result.createObjectStore(table);
    this.database = asked(opening);
    // Whoever asks for it is told; nobody may ask.
    this.database.catch(() => {});
  }

  private async run<T>(mode: IDBTransactionMode, work: (store: IDBObjectStore) => IDBRequest<T>): Promise<T> {
    try {
      const transaction = (await this.database).transaction(table, mode);
      const answer = await asked(work(transaction.objectStore(table)));
      if (mode === 'readwrite')
        await new Promise<void>((resolve, reject) => {
          transaction.oncomplete = () => resolve();
          transaction.onabort = () => reject(transaction.error ?? new Error('the database gave no reason'));
        });
      return answer;
    } catch (error) {
      const full = (error as Error).name === 'QuotaExceededError';
      throw new Fault(
        'draw.draft',
        full ? 'the browser has no room left for the draft' : `the draft cannot be kept: ${(error as Error).message}`,
        full
          ? 'Save the work, and free some space.'
          : 'The page may not store data; save the work before you leave it.',
        undefined,
        error,
      );
    }
  }

  read(): Promise<EditDraft | undefined> {
    return this.run('readonly', (store) => store.get(this.name) as IDBRequest<EditDraft | undefined>);
  }

  write(draft: EditDraft): Promise<unknown> {
    return this.run('readwrite', (store) => store.put(draft, this.name));
  }

  discard(): Promise<unknown> {
    return this.run('readwrite', (store) => store.delete(this.name));
  }

  close(): void {
    void this.database.then((database) => database.close()).catch(() => {});
  }
}
