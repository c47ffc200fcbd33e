import { listen } from '../base/live-counts.js';
import { removable, type Abortable, type Removable } from '../base/removable.js';
import type { FlintMap } from '../map/map.js';

/**
 * Synchronizes the views of several maps. At first all take the view of the first map. A removed map leaves the group.
 *
 * @param maps two or more maps
 * @param options a `signal` that ends the synchronization
 * @returns its `remove()` ends the synchronization
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
