// The types of the package ask for those of a page; `formats/geopackage/engine.ts` has what is used.
declare module 'sql.js/dist/sql-wasm-inline.js' {
  const init: unknown;
  export default init;
}
