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
  exec(sql: string, values?: readonly SqlValue[]): { columns: string[]; values: SqlValue[][] }[];
  run(sql: string, values?: readonly SqlValue[]): Database;
  prepare(sql: string): Statement;
  export(): Uint8Array;
  close(): void;
}

/** Starts the engine. */
export type StartEngine = () => Promise<{ readonly Database: new (bytes?: Uint8Array) => Database }>;
