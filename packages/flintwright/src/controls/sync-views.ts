import { listen } from '../base/live-counts.js';
import { removable, type Abortable, type Removable } from '../base/removable.js';
import type { FlintMap } from '../map/map.js';

/**
 * Keeps the views of some maps the same, whichever of them is moved; at first all take the view of the first. A map that is removed leaves.
 *
 * @param maps two or more
 * @param options a `signal` that ends it
 * @returns its `remove()` lets the maps go their own ways
 */
export function syncViews(maps: readonly FlintMap[], { signal }: Abortable = {}): Removable {
  let leading = false;
  const off: (() => void)[] = [];
  const others = new Set(maps);
  for (const map of maps) {
    off.push(
      listen(map, 'viewchange', () => {
        if (leading) return;
        leading = true;
        try {
          for (const other of others) if (other !== map) void other.move(map.view);
        } finally {
          leading = false;
        }
      }),
      listen(map, 'remove', () => void others.delete(map)),
    );
  }
  const [first, ...following] = maps;
  for (const other of following) void other.move(first.view);
  return removable(() => {
    for (const stop of off) stop();
  }, signal);
}
