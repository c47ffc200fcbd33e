import { Fault, type LayerChange, type SheetData, type SheetLayer } from '@flintwright/core';
import { withChange, nearestSpelling } from '@flintwright/core/internal';
import { checkOptions, valueText, type OptionTable } from '../base/check-options.js';
import type { FeatureTest } from '../base/feature-filters.js';
import { assembled, type SheetParts } from '../base/sheet-parts.js';

/** A layer to add at run time; its data are named or inline. */
export interface AddedLayer extends Omit<SheetLayer, 'of'> {
  readonly of: string | SheetData;
}

export interface AddOptions {
  /** Id of the layer below which it is drawn; default on top. */
  readonly below?: string;
}

const table: OptionTable<AddOptions> = { below: 'text' };

/** A change of the parts of a sheet. It may be made once more, upon parts that lack what turned out not to be sound. */
export type PartsChange = (parts: SheetParts) => SheetParts;

export interface LayersHost {
  parts(): SheetParts;
  /** Changes the parts. @throws SheetFault, and leaves all as it was */
  change(change: PartsChange): void;
  /** Shows of a layer, which draws a data entry, only what passes a function. */
  filter(id: string, data: string, test: FeatureTest | undefined): void;
}

/** Ids in drawing order with one of them below another, or on top. */
function orderedWith(order: readonly string[], id: string, below: string | undefined): string[] {
  const rest = order.filter((other) => other !== id);
  const at = below === undefined ? -1 : rest.indexOf(below);
  return at < 0 ? [...rest, id] : [...rest.slice(0, at), id, ...rest.slice(at)];
}

/** Layers of a map, for changes at run time. Each change keeps the view and all other layers. */
export class Layers {
  constructor(private readonly host: LayersHost) {}

  private get(): SheetParts {
    return this.host.parts();
  }

  private set(change: PartsChange): void {
    this.host.change(change);
  }

  /** All layers in drawing order, topmost last. */
  get all(): readonly SheetLayer[] {
    return assembled(this.get()).layers;
  }

  find(id: string): SheetLayer | undefined {
    return this.all.find((layer) => layer.id === id);
  }

  /** Returns a layer by its id. @throws Fault `layer.unknown` */
  require(id: string): SheetLayer {
    const layer = this.find(id);
    if (layer) return layer;
    const ids = this.get().order;
    const near = nearestSpelling(id, ids);
    throw new Fault(
      'layer.unknown',
      `there is no layer "${id}"`,
      near ? `Did you mean "${near}"?` : `Layers: ${ids.join(', ')}.`,
    );
  }

  /** The layer that another goes below. @throws Fault `option.*` or `layer.unknown` */
  private belowOf(name: 'add' | 'move', options: AddOptions): string | undefined {
    const call = `layers.${name}`;
    checkOptions(call, options, table, `${call}(…, { below: 'labels' })`, { before: 'This option is called "below".' });
    if (options.below !== undefined) this.require(options.below);
    return options.below;
  }

  /**
   * Adds a layer. Its `of` may contain inline data, as `{ features: GeoJSON or URL }` or `{ tiles: URL }`.
   *
   * @param layer a layer of the sheet
   * @param options the layer below which it is drawn; default on top
   * @throws Fault `layer.twice` or `layer.unknown`, or SheetFault, as {@link createMap} does; the layer is then not added
   */
  add({ of, ...layer }: AddedLayer, options: AddOptions = {}): void {
    const below = this.belowOf('add', options);
    if (this.get().order.includes(layer.id))
      throw new Fault(
        'layer.twice',
        `there is a layer "${layer.id}" already`,
        'Change it with layers.change, or choose another id.',
      );
    const full: SheetLayer = { ...layer, of: typeof of === 'string' ? of : layer.id };
    this.set((parts) => ({
      ...parts,
      data: typeof of === 'string' ? parts.data : { ...parts.data, [layer.id]: of },
      added: { ...parts.added, [layer.id]: full },
      order: orderedWith(parts.order, layer.id, below),
      removed: parts.removed.filter((id) => id !== layer.id),
    }));
  }

  /**
   * Changes a layer, such as its strokes, rules or opacity. Keys that are not in the change keep their values, also within `fill`,
   * `stroke`, `mark`, `label` and each state. A single stroke changes the topmost one; a list of strokes is matched by name, or else by
   * position.
   *
   * @param id id of the layer
   * @param change new values; `null` removes a key
   * @throws Fault `layer.unknown` or `option.form`, or SheetFault, as {@link createMap} does; the layer is then unchanged
   */
  change(id: string, change: LayerChange): void {
    this.require(id);
    if (typeof change !== 'object' || change === null || Array.isArray(change))
      throw new Fault(
        'option.form',
        `layers.change expected an object, got ${valueText(change)}`,
        `Write layers.change('${id}', { fill: { color: '#d98a2b' } }).`,
      );
    this.set((parts) => ({
      ...parts,
      changed: { ...parts.changed, [id]: withChange(parts.changed[id] ?? [], change) },
    }));
  }

  /**
   * Shows or hides a layer.
   *
   * @param id id of the layer
   * @param visible default true
   */
  show(id: string, visible = true): void {
    if ((this.require(id).visible ?? true) !== visible) this.change(id, { visible });
  }

  hide(id: string): void {
    this.show(id, false);
  }

  /**
   * Filters the features of a layer by a CQL2 expression or a function of their attributes, in place of the filter set before; without one
   * all are shown again. Clusters follow. The sheet's own `where` stays in effect beside a function.
   *
   * @param id id of the layer
   * @param where CQL2, or a function of the attributes; none removes the filter
   */
  filter(id: string, where?: SheetLayer['where'] | FeatureTest): void {
    const [data] = this.require(id).of.split('/');
    this.host.filter(id, data, typeof where === 'function' ? where : undefined);
    const after = typeof where === 'function' ? undefined : where;
    const { changed } = this.get();
    if (after === undefined && (changed[id] ?? []).every((change) => change.where === undefined)) return;
    this.set((parts) => {
      // Without an expression the layer has that of the sheet again.
      const rest = (parts.changed[id] ?? []).map(({ where: _, ...others }) => others);
      const next = after === undefined ? rest : withChange(rest, { where: after });
      return { ...parts, changed: { ...parts.changed, [id]: next } };
    });
  }

  /**
   * Moves a layer below another or to the top.
   *
   * @param id id of the layer
   * @param options the layer below which it is drawn; default on top
   */
  move(id: string, options: AddOptions = {}): void {
    this.require(id);
    const below = this.belowOf('move', options);
    this.set((parts) => ({ ...parts, order: orderedWith(parts.order, id, below) }));
  }

  /**
   * Replaces the inline data of a layer that was added at run time.
   *
   * @param id id of the layer, or name of its data
   * @param data GeoJSON, or a URL
   */
  feed(id: string, data: SheetData): void {
    this.require(id);
    if (!this.get().data[id])
      throw new Fault(
        'layer.data',
        `layer "${id}" has no inline data`,
        'Only layers with inline data can be updated with feed().',
      );
    this.set((parts) => ({ ...parts, data: { ...parts.data, [id]: data } }));
  }

  remove(id: string): void {
    this.require(id);
    const without = <T>(record: Readonly<Record<string, T>>) =>
      Object.fromEntries(Object.entries(record).filter(([key]) => key !== id));
    this.set((parts) => ({
      ...parts,
      order: parts.order.filter((other) => other !== id),
      added: without(parts.added),
      data: without(parts.data),
      changed: without(parts.changed),
      removed: [...parts.removed, id],
    }));
  }
}
