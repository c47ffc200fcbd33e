// The types of the package need those of Node.js; `formats/geopackage/node-engine.ts` has what is used.
declare module 'node-sqlite3-wasm' {
  const engine: unknown;
  export default engine;
}
