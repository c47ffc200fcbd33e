/// <reference lib="esnext.disposable" preserve="true" />
/** The symbol that `using` declarations call. Browsers that lack it get one of the same name. */
export const dispose: typeof Symbol.dispose =
  Symbol.dispose ?? (Symbol.for('Symbol.dispose') as unknown as typeof Symbol.dispose);

/** Something that can be removed: by `remove()`, or at the end of a block that declares it with `using`. */
export interface Removable extends Disposable {
  /** Removes it. A second call does nothing. */
  remove(): void;
}

/** Options with an abort signal. */
export interface Abortable {
  /** Removes it when aborted, as `remove()` does. */
  readonly signal?: AbortSignal | undefined;
}

/**
 * Makes something removable of what ends it.
 *
 * @param end called once, by whatever ends it first
 * @param signal ends it when it aborts; one that has aborted already ends it at once
 */
export function removable(end: () => void, signal?: AbortSignal): Removable {
  let ended = false;
  const remove = () => {
    if (ended) return;
    ended = true;
    signal?.removeEventListener('abort', remove);
    end();
  };
  if (signal?.aborted) remove();
  else signal?.addEventListener('abort', remove);
  return { remove, [dispose]: remove };
}
