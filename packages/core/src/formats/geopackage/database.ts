import { Fault } from '../../base/fault.js';
import { fetchedOnce } from '../../base/fetched.js';
import type { Database, SqlValue, StartEngine } from './engine.js';

/** Whether bytes begin as an SQLite database does (its file format, section 1.3.1). */
export const isSqlite = (bytes: Uint8Array): boolean =>
  bytes.length > 16 && String.fromCharCode(...bytes.subarray(0, 15)) === 'SQLite format 3';

/** Milliseconds that a query may take. */
const longest = 120_000;

const word = '(?:"(?:[^"]|"")+"|[\\p{L}_][\\p{L}\\p{N}_]*)';
/** A view that chooses columns and rows of one table; its name is in the first group. */
const simpleView = new RegExp(
  `^\\s*CREATE\\s+VIEW\\s+${word}\\s+AS\\s+SELECT\\s+(?:\\*|${word}(?:\\s+AS\\s+${word})?(?:\\s*,\\s*${word}(?:\\s+AS\\s+${word})?)*)\\s+FROM\\s+(${word})(?:\\s+WHERE\\s+[^()]{1,500})?\\s*;?\\s*$`,
  'iu',
);

/** A row under the names of its columns. */
export type DatabaseRow = Readonly<Record<string, SqlValue>>;

let load = async (): Promise<StartEngine> => (await import('#sqlite-engine')).startEngine;

/** Sets a function that loads the database engine, for workers that cannot load a chunk. */
export function provideSqlite(from: () => Promise<StartEngine>): void {
  load = from;
}

/** The engine, started once: every start takes some megabytes that only the collector gives back. */
const startedOnce = () =>
  fetchedOnce(
    async () => (await load())(),
    'sqlite.engine',
    'Allow WebAssembly on the page (wasm-unsafe-eval in the content security policy), and check the connection.',
  );
let engine = startedOnce();

/** An SQLite database in memory. Close it when done. */
export class Store {
  private constructor(
    private readonly database: Database,
    private readonly at: string,
  ) {}

  /**
   * Opens a database, or makes an empty one.
   *
   * @param source the bytes of the file, or its path where the engine reads files in place (Node.js); default an empty database
   * @param at its name, for messages
   * @throws Fault `sqlite.corrupt`
   */
  static async open(source: Uint8Array | string | undefined, at: string): Promise<Store> {
    const { Database: Make } = await engine();
    const store = new Store(
      guarded(() => (source === undefined ? new Make() : new Make(source)), at),
      at,
    );
    try {
      if (source !== undefined) store.rows('SELECT count(*) FROM sqlite_master');
    } catch (error) {
      store.close();
      throw error;
    }
    return store;
  }

  rows(sql: string, values: readonly SqlValue[] = []): DatabaseRow[] {
    const out: DatabaseRow[] = [];
    this.each(sql, values, (row) => out.push(row));
    return out;
  }

  /**
   * Calls back with each row, one at a time.
   *
   * @throws Fault `sqlite.time` for a query that exceeds the time limit
   */
  each(sql: string, values: readonly SqlValue[], visit: (row: DatabaseRow) => void): void {
    const began = Date.now();
    let count = 0;
    guarded(() => {
      const statement = this.database.prepare(sql);
      try {
        statement.bind(values);
        const names = statement.getColumnNames();
        while (statement.step()) {
          if (++count % 1000 === 0 && Date.now() - began > longest)
            throw new Fault(
              'sqlite.time',
              `a query of ${this.at} takes longer than ${longest / 1000} s`,
              'Export the features that you need as a separate table.',
              this.at,
            );
          const cells = statement.get();
          visit(Object.fromEntries(names.map((name, i) => [name, cells[i]])));
        }
      } finally {
        statement.free();
      }
    }, this.at);
  }

  run(sql: string, values?: readonly SqlValue[]): void {
    guarded(() => this.database.run(sql, values), this.at);
  }

  /** Runs one statement once for each list of values. */
  runAll(sql: string, lists: Iterable<readonly SqlValue[]>): void {
    guarded(() => {
      const statement = this.database.prepare(sql);
      try {
        for (const values of lists) statement.run(values);
      } finally {
        statement.free();
      }
    }, this.at);
  }

  /** Whether there is a table of that name. */
  has(table: string): boolean {
    return this.kindOf(table) === 'table';
  }

  /**
   * What stands under a name. The engine cannot be stopped while it looks for the next row, so only a view that does no more than choose columns
   * and rows of one table can be read; others may be endless.
   */
  kindOf(name: string): 'table' | 'view' | 'other view' | undefined {
    const [row] = this.rows(`SELECT type, sql FROM sqlite_master WHERE type IN ('table', 'view') AND name = ?`, [name]);
    if (!row || row['type'] === 'table') return row && 'table';
    const from = simpleView.exec(String(row['sql']))?.[1];
    return from !== undefined && this.has(from.replace(/^"|"$/g, '').replaceAll('""', '"')) ? 'view' : 'other view';
  }

  /** The columns of a table or view that are stored; those that are worked out may be as large as they like. */
  columnsOf(table: string): string[] {
    return this.rows(`PRAGMA table_info(${quoted(table)})`).map(({ name }) => String(name));
  }

  bytes(): Uint8Array {
    return guarded(() => this.database.export(), this.at);
  }

  close(): void {
    guarded(() => this.database.close(), this.at);
  }
}

/** Does some work of the engine, and turns whatever it throws into a Fault. */
function guarded<T>(work: () => T, at: string): T {
  try {
    return work();
  } catch (error) {
    if (error instanceof Fault) throw error;
    // What is no plain error comes from an engine that has broken down; the next database gets another.
    if (!(error instanceof Error) || error.name === 'RuntimeError' || /memory/i.test(error.message))
      engine = startedOnce();
    throw new Fault(
      'sqlite.corrupt',
      `the database ${at} cannot be read: ${error instanceof Error ? error.message : 'the database engine failed'}`,
      'It is damaged or was truncated; fetch or write it again.',
      at,
      error,
    );
  }
}

/** A name of a table or column in double quotes, as SQL wants it. */
export const quoted = (name: string): string => `"${name.replaceAll('"', '""')}"`;
