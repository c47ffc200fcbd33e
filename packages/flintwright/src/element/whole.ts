/** The whole library in one: what a page without tools loads as `flintwright/whole`. */
export * from '../index.js';
export * from './flint-map.js';
