import { asFault } from './fault.js';

/**
 * Has something fetched once, by the first who asks. Where it does not come, the next who asks has it fetched again.
 *
 * @param fetch fetches it
 * @param code code of the fault where it does not come
 * @param hint its hint
 */
export function fetchedOnce<T>(fetch: () => Promise<T>, code: string, hint: string): () => Promise<T> {
  let coming: Promise<T> | undefined;
  return () =>
    (coming ??= fetch().catch((error: unknown) => {
      coming = undefined;
      throw asFault(error, code, hint);
    }));
}
