import { asFault, type Fault } from '@flintwright/core';

/** The fault of a part that did not come. */
export const notFetched = (error: unknown): Fault =>
  asFault(error, 'part.load', 'Check the connection, and that all files of the application were published.');

/**
 * Fetches a part of the library. Every `import()` of this package stands in its argument or in that of a `LatePart`, so that a part that
 * does not come is a fault with a hint rather than what the browser says; lint sees to it.
 *
 * @param fetch imports the part
 * @throws Fault `part.load`
 */
export const fetchPart = <T>(fetch: () => Promise<T>): Promise<T> =>
  fetch().catch((error: unknown) => {
    throw notFetched(error);
  });
