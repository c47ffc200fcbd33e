// SQLite for Node.js, with access to the file system. Chosen by the condition `node` of the package's import "#sqlite-engine".
import type { SqlValue, StartEngine, Statement } from './engine.js';

/** What is used of `node-sqlite3-wasm`. */
interface NodeStatement {
  iterate(values?: readonly SqlValue[]): Iterator<Readonly<Record<string, SqlValue | bigint>>>;
  run(values?: readonly SqlValue[]): unknown;
  finalize(): void;
}
interface NodeDatabase {
  exec(sql: string): void;
  run(sql: string, values?: readonly SqlValue[]): unknown;
  prepare(sql: string): NodeStatement;
  close(): void;
}
type MakeDatabase = new (path: string, options?: { readonly readOnly?: boolean }) => NodeDatabase;

/** What is used of Node.js. */
interface FileSystem {
  mkdtempSync(prefix: string): string;
  readFileSync(path: string): Uint8Array<ArrayBuffer>;
  writeFileSync(path: string, bytes: Uint8Array): void;
  rmSync(path: string, options: { readonly recursive: boolean; readonly force: boolean }): void;
}

const module = <T>(name: string): Promise<T> => import(name) as Promise<T>;

/** Starts the engine. A database that is given as bytes is kept in a temporary file, which is deleted when the database is closed. */
export const startEngine: StartEngine = async () => {
  const [{ default: engine }, files, { tmpdir }, { join }] = await Promise.all([
    import('node-sqlite3-wasm') as unknown as Promise<{ default: { Database: MakeDatabase } }>,
    module<FileSystem>('node:fs'),
    module<{ tmpdir(): string }>('node:os'),
    module<{ join(...parts: string[]): string }>('node:path'),
  ]);

  class Database {
    private readonly folder: string | undefined;
    private readonly path: string;
    private readonly database: NodeDatabase;

    constructor(source?: Uint8Array | string) {
      if (typeof source === 'string') this.path = source;
      else {
        this.folder = files.mkdtempSync(join(tmpdir(), 'flintwright-'));
        this.path = join(this.folder, 'database');
        if (source) files.writeFileSync(this.path, source);
      }
      try {
        this.database = new engine.Database(this.path, { readOnly: typeof source === 'string' });
        // What is written goes into a new file, which is complete or thrown away.
        if (!source) this.database.exec('PRAGMA journal_mode = MEMORY; PRAGMA synchronous = OFF');
      } catch (error) {
        this.discard();
        throw error;
      }
    }

    run(sql: string, values?: readonly SqlValue[]): this {
      if (values) this.database.run(sql, values);
      else this.database.exec(sql);
      return this;
    }

    prepare(sql: string): Statement {
      return new Rows(this.database.prepare(sql));
    }

    export(): Uint8Array {
      // Not a Buffer, whose slice() shares its memory.
      return new Uint8Array(files.readFileSync(this.path));
    }

    close(): void {
      try {
        this.database.close();
      } finally {
        this.discard();
      }
    }

    private discard(): void {
      if (this.folder !== undefined) files.rmSync(this.folder, { recursive: true, force: true });
    }
  }

  return { Database };
};

/** A statement whose rows are read one by one. */
class Rows implements Statement {
  private rows: Iterator<Readonly<Record<string, SqlValue | bigint>>> | undefined;
  private next: Readonly<Record<string, SqlValue | bigint>> | undefined;
  private row: Readonly<Record<string, SqlValue | bigint>> = {};

  constructor(private readonly statement: NodeStatement) {}

  bind(values: readonly SqlValue[]): boolean {
    this.rows = this.statement.iterate(values);
    this.advance();
    return true;
  }

  /** The names of the columns; those of a statement without rows are not known. */
  getColumnNames(): string[] {
    return Object.keys(this.next ?? {});
  }

  step(): boolean {
    if (!this.next) return false;
    this.row = this.next;
    this.advance();
    return true;
  }

  get(): SqlValue[] {
    // Whole numbers beyond 2^53 are rounded, as all numbers of JavaScript are.
    return Object.values(this.row).map((value) => (typeof value === 'bigint' ? Number(value) : value));
  }

  run(values?: readonly SqlValue[]): void {
    this.statement.run(values);
  }

  free(): boolean {
    this.statement.finalize();
    return true;
  }

  private advance(): void {
    const found = this.rows?.next();
    this.next = found && !found.done ? found.value : undefined;
  }
}
