import { Fault, symbolNames, unknownSymbol, type Sheet } from '@flintwright/core';

export interface FaultsHost {
  /** Hands a fault to the application; false when it wants no notice of it. */
  emit(fault: Fault): boolean;
  /** Shows it on the map. */
  show(fault: Fault): void;
  isDestroyed(): boolean;
}

/** Tells of what goes wrong while the map is up, and of what would draw nothing in silence, once each. */
export class Faults {
  private readonly told = new Set<string>();

  constructor(private readonly host: FaultsHost) {}

  tell(fault: Fault): void {
    if (this.host.emit(fault)) this.host.show(fault);
  }

  /** Tells of a fault when the present call has returned, so that whoever made the map can listen. */
  later(fault: Fault): void {
    queueMicrotask(() => this.host.isDestroyed() || this.tell(fault));
  }

  /** Hover cannot show on a layer whose features nothing tells apart. */
  keyless(layer: string, data: string): void {
    if (!this.isNew(`key ${layer}`)) return;
    this.tell(
      new Fault(
        'hover.key',
        `hover cannot show on layer "${layer}": nothing tells its features apart`,
        `Give the features ids when the tiles are cut, or name an attribute in data.${data}.id of the sheet.`,
      ),
    );
  }

  /** Tells of symbols that a sheet names and nobody knows. */
  symbols(sheet: Sheet, known: ReadonlyMap<string, number>): void {
    for (const { name, at } of symbolNames(sheet))
      if (!known.has(name) && this.isNew(`symbol ${name}`)) this.later(unknownSymbol(name, [...known.keys()], at));
  }

  private isNew(what: string): boolean {
    if (this.told.has(what)) return false;
    this.told.add(what);
    return true;
  }
}
