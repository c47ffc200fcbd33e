declare module 'sql.js/dist/sql-wasm-browser.js' {
  interface Statement {
    bind(values: readonly (number | string | Uint8Array | null)[]): boolean;
    step(): boolean;
    get(): (number | string | Uint8Array | null)[];
    getColumnNames(): string[];
    run(values?: readonly (number | string | Uint8Array | null)[]): void;
    free(): boolean;
  }
  interface Database {
    exec(
      sql: string,
      values?: readonly (number | string | Uint8Array | null)[],
    ): { columns: string[]; values: (number | string | Uint8Array | null)[][] }[];
    run(sql: string, values?: readonly (number | string | Uint8Array | null)[]): Database;
    prepare(sql: string): Statement;
    export(): Uint8Array;
    close(): void;
  }
  const init: (options: {
    readonly wasmBinary: Uint8Array;
  }) => Promise<{ readonly Database: new (bytes?: Uint8Array) => Database }>;
  export default init;
}
