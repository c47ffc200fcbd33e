import type { FlintElements } from './element/flint-map.js';

/**
 * Types of the elements for JSX. Importing `flintwright/jsx` once teaches the global `JSX` namespace; a framework with a namespace of
 * its own takes them with `interface IntrinsicElements extends FlintElements {}` there.
 */
declare global {
  // JSX knows elements by an interface in a namespace; it is extended, not declared.
  // oxlint-disable-next-line typescript/no-namespace
  namespace JSX {
    // oxlint-disable-next-line typescript/no-empty-object-type
    interface IntrinsicElements extends FlintElements {}
  }
}

export type { FlintElements } from './element/flint-map.js';
