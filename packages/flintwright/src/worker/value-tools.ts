import type { CompiledLayer, Expression, FeatureBlock, Sheet } from '@flintwright/core';
import {
  compileScale,
  compileSheet,
  compileTree,
  cssColors,
  labelAnchorsOf,
  sheetPortrayal,
  type Portrayal,
  unusableColors,
  type ValueTools,
} from '@flintwright/core/internal';

const values: ValueTools = { colors: cssColors, expression: compileTree, scale: compileScale };

/** What a worker needs for sheets with expressions, scales, labels, and colors by name. */
export const valueTools = {
  /** The layers of a sheet that the map has checked, with its schemes and expressions written out. */
  layersOf: (sheet: Sheet): readonly CompiledLayer[] => compileSheet(sheet, () => {}, { values }).layers,
  portrayal: (sprites: (name: string) => number): Portrayal<CompiledLayer> => sheetPortrayal(sprites),
  anchorsOf: labelAnchorsOf,
  unusableColors: (layer: CompiledLayer, block: FeatureBlock) =>
    unusableColors(layer, block, (is) => compileTree(is as Expression)),
};
