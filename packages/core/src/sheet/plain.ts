import type { FeatureBlock } from '../features/block.js';
import type { CompiledLayer } from './compile.js';

/** Zoom levels between which appearance runs smoothly from one end to the other. */
export type ZoomStep = readonly [number, number];

/** What of a layer decides which features it draws, and into which buffers. */
export type ShownLayer = Pick<
  CompiledLayer,
  | 'id'
  | 'data'
  | 'from'
  | 'zoom'
  | 'signature'
  | 'clustered'
  | 'texels'
  | 'parts'
  | 'hasFill'
  | 'strokePasses'
  | 'hasGradient'
  | 'hasLineMarks'
  | 'hasMark'
  | 'hasLabel'
  | 'hasExtrusion'
> & { readonly heat?: object };

/** A layer whose features all look the same at all zooms, as data: it can be handed to another thread. */
export interface PlainLayer extends ShownLayer {
  /** The appearance row of every feature. */
  readonly row: Float32Array;
}

/** Decides which features of a block a layer draws, and what they look like. */
export interface Portrayal<L extends ShownLayer> {
  /** Rows of the block that the layer draws. */
  select(layer: L, block: FeatureBlock): Uint32Array;
  /** The stretch of zoom levels that holds one. */
  step(layer: L, zoom: number): ZoomStep;
  /** The appearance rows of features, one after the other. */
  rows(layer: L, block: FeatureBlock, features: Uint32Array, step: ZoomStep): Float32Array;
}

/** Whether a layer draws features of a kind (see `Kind`), by their kinds. */
export const drawnKinds = (layer: ShownLayer): readonly boolean[] => [
  false,
  layer.hasMark || layer.hasLabel || layer.heat !== undefined,
  layer.strokePasses > 0 || layer.hasLabel,
  layer.hasFill || layer.strokePasses > 0 || layer.hasLabel || layer.hasExtrusion,
];

/** Portrays the features of plain layers. */
export const plainPortrayal: Portrayal<PlainLayer> = {
  select(layer, { count, kinds }) {
    const drawn = drawnKinds(layer);
    return Uint32Array.from({ length: count }, (_, f) => f).filter((f) => drawn[kinds[f]]);
  },
  step: () => [0, 25],
  rows({ row }, _, { length }) {
    const out = new Float32Array(length * row.length);
    for (let i = 0; i < length; i++) out.set(row, i * row.length);
    return out;
  },
};
