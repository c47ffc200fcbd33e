declare module 'sql.js/dist/sql-wasm-browser.js' {
  const init: (options: { readonly wasmBinary: Uint8Array }) => Promise<unknown>;
  export default init;
}
