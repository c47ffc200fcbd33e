import { featureKeys, type CompiledLayer, type FeatureBlock } from '@flintwright/core';
import { Portrayer, stepOf, type PreparedLayer, type ZoomStep } from '@flintwright/core/internal';
import type { MapContext } from '../base/map-context.js';
import type { LabelStyles, PreparedEntry } from '../gl/drawn-tile.js';

/** The appearance of the tiles of one data entry: rows of their textures, and styles of their labels. */
export class TileRows {
  private layers: ReadonlyMap<string, CompiledLayer> = new Map();

  constructor(
    private readonly data: string,
    private readonly context: MapContext,
  ) {}

  setLayers(layers: readonly CompiledLayer[]): void {
    this.layers = new Map(layers.map((layer) => [layer.id, layer]));
  }

  /** The layer of the present sheet that a prepared layer belongs to. */
  layerOf(prepared: PreparedLayer): CompiledLayer | undefined {
    return this.layers.get(prepared.layer);
  }

  /** Brings rows to the present zoom, where a layer follows it. */
  follow(entry: PreparedEntry, zoom: number): void {
    entry.prepared.layers.forEach((prepared, i) => {
      const layer = this.layerOf(prepared);
      if (!layer?.usesZoom) return;
      const [low, high] = entry.steps[i];
      if (zoom >= low && zoom < high) return;
      this.write(entry, i, layer, stepOf(layer, zoom));
    });
  }

  /** How each label of a prepared layer looks at a zoom. */
  labelStyles(entry: PreparedEntry, index: number, layer: CompiledLayer, zoom: number): LabelStyles {
    const known = entry.labelStyles[index];
    if (known && (!layer.usesZoom || (zoom >= known.step[0] && zoom < known.step[1]))) return known;
    const step = stepOf(layer, zoom);
    const prepared = entry.prepared.layers[index];
    const block = entry.prepared.blocks[prepared.block];
    const portrayer = this.portrayer(layer, block, step);
    const stateOf = layer.stateNames.length ? this.stateOf(layer, block) : undefined;
    return (entry.labelStyles[index] = {
      step,
      styles: Array.from(prepared.labelAnchors?.features ?? [], (feature) =>
        this.context.filters.shows(layer.id, block, feature) ? portrayer.label(feature, stateOf?.(feature)) : undefined,
      ),
    });
  }

  /** Works all rows of a tile out anew, for a new sheet or new feature states. */
  restyle(entry: PreparedEntry, zoom: number): void {
    this.each(entry, (layer, _, i) => this.write(entry, i, layer, stepOf(layer, zoom)));
  }

  /** Gives a tile that has just been prepared what its worker does not know: states, and the application's tests. */
  adopt(entry: PreparedEntry, zoom: number): void {
    this.each(entry, (layer, block, i) => {
      if (this.context.filters.of(layer.id) || this.stateOf(layer, block))
        this.write(entry, i, layer, stepOf(layer, zoom));
    });
  }

  /** Rewrites the rows of single features after their states changed. */
  restate(entry: PreparedEntry, from: string, keys: ReadonlySet<string>): void {
    this.each(entry, (layer, block, i) => {
      if (layer.from !== from || !layer.stateNames.length) return;
      const { rows, layers } = entry.prepared;
      const prepared = layers[i];
      const keyOf = featureKeys(block, this.context.idName(this.data));
      if (layer.hasLabel) entry.labelStyles[i] = undefined;
      const portrayer = this.portrayer(layer, block, entry.steps[i]);
      const stateOf = this.stateOf(layer, block);
      for (let row = 0; row < prepared.features.length; row++) {
        const feature = prepared.features[row];
        if (!keys.has(keyOf(feature) ?? '')) continue;
        const fresh = portrayer.rows([feature], stateOf);
        this.blank(layer, block, [feature], fresh);
        const texel = prepared.texel + row * layer.texels;
        rows.set(fresh, texel * 4);
        entry.buffers?.writeRows(rows, texel, layer.texels);
      }
    });
  }

  private write(entry: PreparedEntry, index: number, layer: CompiledLayer, step: ZoomStep): void {
    const { layers, blocks, rows } = entry.prepared;
    const prepared = layers[index];
    const block = blocks[prepared.block];
    const fresh = this.portrayer(layer, block, step).rows(prepared.features, this.stateOf(layer, block));
    this.blank(layer, block, prepared.features, fresh);
    rows.set(fresh, prepared.texel * 4);
    entry.steps[index] = step;
    entry.buffers?.writeRows(rows, prepared.texel, fresh.length / 4);
  }

  /** Calls back for each prepared layer that a layer of the present sheet draws, and whose geometry is still right. */
  private each(entry: PreparedEntry, work: (layer: CompiledLayer, block: FeatureBlock, index: number) => void): void {
    entry.prepared.layers.forEach((prepared, i) => {
      const layer = this.layerOf(prepared);
      if (layer && layer.signature === prepared.signature) work(layer, entry.prepared.blocks[prepared.block], i);
    });
  }

  private portrayer(layer: CompiledLayer, block: FeatureBlock, step: ZoomStep): Portrayer {
    return new Portrayer(layer, block, step, (name) => this.context.sprite(name) ?? 0);
  }

  private stateOf(layer: CompiledLayer, block: FeatureBlock): ((feature: number) => string) | undefined {
    return this.context.states.of(this.context.state.sheet, this.data, layer.from, block);
  }

  /** Clears the rows of features that do not pass the application's test. */
  private blank(layer: CompiledLayer, block: FeatureBlock, features: ArrayLike<number>, rows: Float32Array): void {
    const { filters } = this.context;
    if (!filters.of(layer.id)) return;
    const floats = layer.texels * 4;
    for (let i = 0; i < features.length; i++)
      if (!filters.shows(layer.id, block, features[i])) rows.fill(0, i * floats, (i + 1) * floats);
  }
}
