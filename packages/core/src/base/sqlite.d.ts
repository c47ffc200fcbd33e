// The part of the SQLite build that is used; its own types ask for those of a page.
declare module 'sql.js/dist/sql-wasm-inline.js' {
  export type SqlValue = number | string | Uint8Array | null;
  export interface Statement {
    bind(values: readonly SqlValue[]): boolean;
    step(): boolean;
    get(): SqlValue[];
    getColumnNames(): string[];
    run(values?: readonly SqlValue[]): void;
    free(): boolean;
  }
  export interface Database {
    exec(sql: string, values?: readonly SqlValue[]): { columns: string[]; values: SqlValue[][] }[];
    run(sql: string, values?: readonly SqlValue[]): Database;
    prepare(sql: string): Statement;
    export(): Uint8Array;
    close(): void;
  }
  const init: () => Promise<{ readonly Database: new (bytes?: Uint8Array) => Database }>;
  export default init;
}
