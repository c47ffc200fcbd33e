import { Fault, nearestSpelling, symbolNames, unknownSymbol, type CompiledLayer, type Sheet } from '@flintwright/core';
import type { FeatureName } from './feature-states.js';

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

  /** Tells of a state that was set and that no layer shows, once what was under way has been done. */
  stateless({ data, from = '' }: FeatureName, state: string, layers: () => readonly CompiledLayer[]): void {
    const drawn = from ? `${data}/${from}` : data;
    queueMicrotask(() => {
      const all = layers();
      const drawing = all.filter((layer) => layer.data === data && layer.from === from);
      if (this.host.isDestroyed() || drawing.some(({ stateNames }) => stateNames.includes(state))) return;
      if (!this.isNew(`state ${drawn} ${state}`)) return;
      const names = drawing.length
        ? drawing.flatMap(({ stateNames }) => stateNames)
        : all.map(({ source }) => source.of);
      const near = nearestSpelling(drawing.length ? state : drawn, names);
      this.tell(
        drawing.length
          ? new Fault(
              'flag.state',
              `the state "${state}" shows nowhere: no layer of "${drawn}" says how it looks`,
              near ? `Did you mean "${near}"?` : `Give one of them "states": { "${state}": … } in the sheet.`,
            )
          : new Fault(
              'flag.data',
              `the state "${state}" shows nowhere: no layer draws "${drawn}"`,
              near ? `Did you mean "${near}"?` : `Layers draw: ${[...new Set(names)].join(', ') || 'nothing'}.`,
            ),
      );
    });
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
