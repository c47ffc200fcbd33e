import { Fault, type Sheet } from '@flintwright/core';
import { nearestSpelling, symbolNames, unknownSymbol } from '@flintwright/core/internal';
import type { FeatureName } from '../base/feature-states.js';
import type { Context } from './context.js';

/** Tells of what would draw nothing in silence, once each. */
export class SilentFaults {
  private readonly told = new Set<string>();

  constructor(private readonly context: Context) {}

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

  /** Tells of a host without width or height, there at once; takes it back when the host gets a size. */
  size(): void {
    const { context } = this;
    const { width, height } = context.state.size;
    const none = width === 0 || height === 0;
    context.elements.sized(width, height);
    if (!none) {
      context.notice.withdraw('host.size');
      this.told.delete('size');
    } else if (this.isNew('size'))
      context.reportLater(
        new Fault(
          'host.size',
          `the map's element is ${width} × ${height} pixels`,
          'Give it a width and a height in CSS; the map appears as soon as it has both.',
        ),
      );
  }

  /** Tells where the map begins far from all its data, and whether the pair looks swapped. */
  outside(all: readonly (readonly [number, number, number, number])[] | undefined): void {
    const { context } = this;
    const { view, size, surface } = context.state;
    if (!all?.length || surface.space === 'plane' || this.told.has('outside')) return;
    this.told.add('outside');
    const degrees = (360 * Math.max(size.width, size.height)) / (256 * 2 ** view.zoom);
    const near = ([lon, lat]: readonly [number, number]) =>
      all.some(([west, south, east, north]) => {
        const reach = Math.max(degrees, east - west, north - south);
        const away = ((((lon - (west + east) / 2) % 360) + 540) % 360) - 180;
        return Math.abs(away) <= (east - west) / 2 + reach && lat >= south - reach && lat <= north + reach;
      });
    const [lon, lat] = view.center;
    if (near(view.center)) return;
    const round = (v: number) => Math.round(v * 1000) / 1000;
    const swapped = Math.abs(lon) <= 90 && all.some(([w, s, e, n]) => lat >= w && lat <= e && lon >= s && lon <= n);
    const [west, south, east, north] = all.reduce((sum, b) => [
      Math.min(sum[0], b[0]),
      Math.min(sum[1], b[1]),
      Math.max(sum[2], b[2]),
      Math.max(sum[3], b[3]),
    ]);
    context.report(
      new Fault(
        swapped ? 'view.swapped' : 'view.outside',
        `the map looks at [${round(lon)}, ${round(lat)}], and all its data lie within [${[west, south, east, north].map(round).join(', ')}]`,
        swapped
          ? `The pair looks swapped: write [${round(lat)}, ${round(lon)}], longitude first.`
          : 'Check the "center" of the view: longitude first, then latitude.',
      ),
    );
  }

  /** Tells of features that an application flags or selects, and that are not there. */
  missing(data: string, keys: readonly string[]): void {
    if (!this.isNew(`missing ${data} ${keys.join()}`)) return;
    const shown = keys
      .slice(0, 3)
      .map((key) => `"${key}"`)
      .join(', ');
    this.context.report(
      new Fault(
        'flag.missing',
        `no feature of "${data}" has the key ${shown}${keys.length > 3 ? ` (nor ${keys.length - 3} others)` : ''}`,
        `Keys are the attribute that data.${data}.id names, or ids as texts; features without either are counted "#0", "#1" and so on.`,
      ),
    );
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
