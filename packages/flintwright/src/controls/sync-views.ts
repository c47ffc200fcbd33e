import { listen } from '../base/live-counts.js';
import type { FlintMap } from '../map/map.js';

/** Keeps the views of some maps the same, whichever of them is moved. Returns what lets go of them; a map that is destroyed leaves. */
export function keepInStep(...maps: readonly FlintMap[]): () => void {
  let leading = false;
  const off = new Set<() => void>();
  const others = new Set(maps);
  for (const map of maps) {
    off.add(
      listen(map, 'viewchange', () => {
        if (leading) return;
        leading = true;
        try {
          for (const other of others) if (other !== map) void other.move(map.view);
        } finally {
          leading = false;
        }
      }),
    );
    off.add(listen(map, 'destroy', () => void others.delete(map)));
  }
  return () => {
    for (const stop of off) stop();
    off.clear();
  };
}
