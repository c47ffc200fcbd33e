import type { ClassesWanted } from './value-kinds.js';
import type { Sheet } from './types.js';

/** The name under which class limits found for some data are kept. */
export const classesKey = (data: string, { by, method, count }: ClassesWanted) =>
  JSON.stringify([data, by, method, count]);

/**
 * The sheet with class limits written in where they have been found. Scales whose data hold fewer classes than asked for get
 * as many values as there are.
 *
 * @param found the lowest value, the limits and the highest value by {@link classesKey}
 */
export function withFoundClasses(sheet: Sheet, found: ReadonlyMap<string, readonly number[]>): Sheet {
  if (!found.size) return sheet;
  const layers = sheet.layers.map((layer) => {
    const data = layer.of.split('/')[0];
    let changed = false;
    const walk = (node: unknown): unknown => {
      if (Array.isArray(node)) return node.map(walk);
      if (typeof node !== 'object' || node === null) return node;
      const { by, classes } = node as {
        by?: string;
        classes?: { method?: ClassesWanted['method']; count?: number; values?: unknown[]; extent?: unknown };
      };
      if (by !== undefined && classes?.method) {
        const { method, count = 5, values, ...rest } = classes;
        const limits = found.get(classesKey(data, { by, method, count }));
        if (limits) {
          const breaks = limits.slice(1, -1);
          const { extent = [limits[0], limits[limits.length - 1]] } = classes;
          changed = true;
          const fewer = values?.slice(0, breaks.length + 1);
          return { ...node, classes: { ...rest, breaks, extent, ...(fewer ? { values: fewer } : {}) } };
        }
      }
      return Object.fromEntries(Object.entries(node).map(([key, value]) => [key, walk(value)]));
    };
    const walked = walk(layer) as typeof layer;
    return changed ? walked : layer;
  });
  return layers.some((layer, i) => layer !== sheet.layers[i]) ? { ...sheet, layers } : sheet;
}
