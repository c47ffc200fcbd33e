import type { FlintElements } from './element/flint-map.js';

/**
 * Types of the elements for JSX. Importing `flintwright/jsx` once teaches the global `JSX` namespace; a framework with a namespace of
 * its own takes them with `interface IntrinsicElements extends FlintElements {}` there.
 */
declare global {
  // JSX knows elements by an interface in a namespace; it is extended, not declared.
  // eslint-disable-next-line @typescript-eslint/no-namespace
  namespace JSX {
    // eslint-disable-next-line @typescript-eslint/no-empty-object-type
    interface IntrinsicElements extends FlintElements {}
  }
}

export type { FlintElements } from './element/flint-map.js';
