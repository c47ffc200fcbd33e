import { growingCounts, growingDoubles } from '../base/growing.js';
import { valueAt, type FeatureBlock, type Kind, type Space, type Value } from './block.js';
import { ColumnBuilder } from './column-builder.js';

/**
 * Builds a {@link FeatureBlock} feature by feature: `begin`, then `part`, `ring`, `vertex` in turn, then `set`
 * for attributes, then `end`.
 */
export class BlockBuilder {
  private readonly kinds = growingCounts();
  private readonly ids = growingDoubles();
  private readonly featureParts = growingCounts();
  private readonly partRings = growingCounts();
  private readonly ringStarts = growingCounts();
  private readonly coords = growingDoubles(1024);
  private readonly columns = new Map<string, ColumnBuilder>();
  private count = 0;
  private firstPart = 0;

  /**
   * Begins a block.
   *
   * @param name name of the block
   * @param space `lonlat` in degrees, `plane` in meters, or `tile` units
   * @param extent units along the side of a tile; default 0, for other spaces
   */
  constructor(
    private readonly name: string,
    private readonly space: Space,
    private readonly extent = 0,
  ) {}

  begin(): void {
    this.firstPart = this.partRings.length;
  }

  part(): void {
    this.partRings.push(this.ringStarts.length);
  }

  ring(): void {
    this.ringStarts.push(this.coords.length / 2);
  }

  /**
   * Adds a vertex to the ring.
   *
   * @param x longitude in degrees, or meters or tile units to the right
   * @param y latitude in degrees, or meters up or tile units down
   */
  vertex(x: number, y: number): void {
    const data = this.coords.reserve(2);
    data[this.coords.length] = x;
    data[this.coords.length + 1] = y;
    this.coords.length += 2;
  }

  /**
   * Sets an attribute of the feature.
   *
   * @param name name of the attribute
   * @param value its value; null and undefined are missing
   */
  set(name: string, value: Value): void {
    if (value === null || value === undefined) return;
    this.column(name).set(this.count, value);
  }

  /** Returns the column of an attribute, for setting many values; see {@link ColumnBuilder.set}. */
  column(name: string): ColumnBuilder {
    let column = this.columns.get(name);
    if (!column) this.columns.set(name, (column = new ColumnBuilder(name)));
    return column;
  }

  /** Index of the feature that is being built, from 0. */
  get row(): number {
    return this.count;
  }

  /**
   * Ends the feature.
   *
   * @param kind kind of geometry
   * @param id whole, non-negative number; default none (NaN)
   */
  end(kind: Kind, id = NaN): void {
    this.kinds.push(kind);
    this.ids.push(id);
    this.featureParts.push(this.firstPart);
    this.count++;
  }

  /**
   * Adds feature `index` of another block of the same space, with its id and attributes.
   *
   * @param block a block of the same space
   * @param index row of the feature, from 0
   */
  copy(block: FeatureBlock, index: number): void {
    this.begin();
    for (let part = block.featureParts[index]; part < block.featureParts[index + 1]; part++) {
      this.part();
      for (let ring = block.partRings[part]; ring < block.partRings[part + 1]; ring++) {
        this.ring();
        for (let v = block.ringStarts[ring]; v < block.ringStarts[ring + 1]; v++)
          this.vertex(block.coords[2 * v], block.coords[2 * v + 1]);
      }
    }
    for (const column of block.columns) this.set(column.name, valueAt(column, index));
    this.end(block.kinds[index] as Kind, block.ids[index]);
  }

  finish(): FeatureBlock {
    const { count } = this;
    const columns = [...this.columns.values()].filter(({ last }) => last >= 0).map((column) => column.finish(count));
    const close = (starts: { finish(): Uint32Array; push(v: number): void }, end: number) => (
      starts.push(end),
      starts.finish()
    );
    const rings = this.ringStarts.length;
    const parts = this.partRings.length;
    return {
      name: this.name,
      space: this.space,
      extent: this.extent,
      count,
      kinds: Uint8Array.from(this.kinds.finish()),
      ids: this.ids.finish(),
      featureParts: close(this.featureParts, parts),
      partRings: close(this.partRings, rings),
      ringStarts: close(this.ringStarts, this.coords.length / 2),
      coords: this.coords.finish(),
      columns,
    };
  }
}
