import { greatest, least } from '../base/lists.js';
import { boundsOfAll, type FeatureBlock } from '../features/block.js';

/** One entry of `vector_layers` (TileJSON 3.0.0, section 3.3). */
export interface VectorLayer {
  readonly id: string;
  readonly fields: Record<string, 'Number' | 'String' | 'Boolean'>;
  readonly minzoom: number;
  readonly maxzoom: number;
}

/**
 * Describes blocks as TileJSON does. An attribute of mixed types is a String.
 *
 * @param blocks one block for each layer
 * @param zooms lowest and highest zoom level
 */
export function vectorLayers(blocks: readonly FeatureBlock[], zooms: readonly [number, number]): VectorLayer[] {
  return blocks.map((block) => ({
    id: block.name,
    fields: Object.fromEntries(
      block.columns.map((column) => {
        if ('numbers' in column) return [column.name, 'Number' as const];
        const used = new Set(column.codes);
        const types = new Set(column.values.filter((_, i) => used.has(i + 1)).map((value) => typeof value));
        return [
          column.name,
          types.size === 1 && types.has('number')
            ? 'Number'
            : types.size === 1 && types.has('boolean')
              ? 'Boolean'
              : 'String',
        ] as const;
      }),
    ),
    minzoom: zooms[0],
    maxzoom: zooms[1],
  }));
}

/** Returns the bounds `[west, south, east, north]` in degrees of several blocks in longitude and latitude. */
export function boundsOfBlocks(blocks: readonly FeatureBlock[]): [number, number, number, number] {
  const boxes = blocks.map(boundsOfAll);
  return [0, 1, 2, 3].map((i) => (i < 2 ? least(boxes.map((b) => b[i])) : greatest(boxes.map((b) => b[i])))) as [
    number,
    number,
    number,
    number,
  ];
}
