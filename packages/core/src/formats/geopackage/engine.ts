/** A cell of a table. */
export type SqlValue = number | string | Uint8Array | null;

/** A prepared statement of the database engine. */
export interface Statement {
  bind(values: readonly SqlValue[]): boolean;
  step(): boolean;
  get(): SqlValue[];
  getColumnNames(): string[];
  run(values?: readonly SqlValue[]): void;
  free(): boolean;
}

/** The part of the database engine (SQLite) that is used. */
export interface Database {
  run(sql: string, values?: readonly SqlValue[]): Database;
  prepare(sql: string): Statement;
  export(): Uint8Array;
  close(): void;
}

/**
 * Starts the engine. A database is opened from bytes, or from the path of a file if the engine has access to files; default an empty one.
 */
export type StartEngine = () => Promise<{ readonly Database: new (source?: Uint8Array | string) => Database }>;
