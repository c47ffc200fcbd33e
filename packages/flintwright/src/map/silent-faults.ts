import { Fault, type Sheet } from '@flintwright/core';
import { nearestSpelling, symbolNames, unknownSymbol } from '@flintwright/core/internal';
import type { FeatureName } from '../base/feature-states.js';
import type { MapContext } from '../base/map-context.js';

/** Tells of what would draw nothing in silence, once each. */
export class SilentFaults {
  private readonly told = new Set<string>();

  constructor(private readonly context: MapContext) {}

  /** Hover cannot show on a layer whose features nothing tells apart. */
  keyless(layer: string): void {
    const data = this.context.state.sheet.layers.find(({ id }) => id === layer)?.data;
    if (data === undefined || !this.isNew(`key ${layer}`)) return;
    this.context.report(
      new Fault(
        'hover.key',
        `hover cannot show on layer "${layer}": nothing tells its features apart`,
        `Give the features ids when the tiles are cut, or name an attribute in data.${data}.id of the sheet.`,
      ),
    );
  }

  /** Tells of a state that was set and that no layer shows, once what was under way has been done. */
  stateless({ data, from = '' }: FeatureName, state: string): void {
    const { context } = this;
    const drawn = from ? `${data}/${from}` : data;
    queueMicrotask(() => {
      const all = context.state.sheet.layers;
      const drawing = all.filter((layer) => layer.data === data && layer.from === from);
      if (context.removed || drawing.some(({ stateNames }) => stateNames.includes(state))) return;
      if (!this.isNew(`state ${drawn} ${state}`)) return;
      const names = drawing.length
        ? drawing.flatMap(({ stateNames }) => stateNames)
        : all.map(({ source }) => source.of);
      const near = nearestSpelling(drawing.length ? state : drawn, names);
      context.report(
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
  symbols(sheet: Sheet, known: readonly string[]): void {
    for (const { name, at } of symbolNames(sheet))
      if (this.context.sprite(name) === undefined && this.isNew(`symbol ${name}`))
        this.context.reportLater(unknownSymbol(name, known, at));
  }

  private isNew(what: string): boolean {
    if (this.told.has(what)) return false;
    this.told.add(what);
    return true;
  }
}
