import { Fault, type CompiledSheet } from '@flintwright/core';
import type { FeatureName } from '../base/feature-states.js';
import { LatePart } from '../base/late-part.js';
import type { Context } from './context.js';
import type * as SilentTexts from './silent-texts.js';

/** Tells of what would draw nothing in silence, once each. */
export class SilentFaults {
  private readonly told = new Set<string>();
  /** What looks closer, and words the faults. */
  private readonly texts: LatePart<typeof SilentTexts>;
  /** What is to be told once they are there. */
  private readonly due: ((texts: typeof SilentTexts) => void)[] = [];

  constructor(private readonly context: Context) {
    this.texts = new LatePart(
      context,
      () => import('./silent-texts.js'),
      (texts) => this.due.splice(0).forEach((tell) => tell(texts)),
    );
  }

  /** Does something with the texts once they are there, which may be at once. */
  private with(tell: (texts: typeof SilentTexts) => void): void {
    const { known } = this.texts;
    if (known) return tell(known);
    this.due.push(tell);
    void this.texts.ready();
  }

  /** Hover cannot show on a layer whose features nothing tells apart. */
  keyless(layer: string): void {
    const { context } = this;
    const data = context.state.sheet.layers.find(({ id }) => id === layer)?.data;
    if (data !== undefined && this.isNew(`key ${layer}`))
      this.with(({ keylessFault }) => context.report(keylessFault(layer, data)));
  }

  /** Tells of a state that was set and that no layer shows, once what was under way has been done. */
  stateless(feature: FeatureName, state: string): void {
    const { context } = this;
    const { data, from = '' } = feature;
    queueMicrotask(() => {
      const all = context.state.sheet.layers;
      const drawing = all.filter((layer) => layer.data === data && layer.from === from);
      if (context.removed || drawing.some(({ stateNames }) => stateNames.includes(state))) return;
      if (this.isNew(`state ${data}/${from} ${state}`))
        this.with(({ statelessFault }) => context.report(statelessFault(feature, state, all, drawing)));
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
    if (!all?.length || surface.space === 'plane' || !this.isNew('outside')) return;
    const [lon, lat] = view.center;
    if (all.some(([west, south, east, north]) => lon >= west && lon <= east && lat >= south && lat <= north)) return;
    const degrees = (360 * Math.max(size.width, size.height)) / (256 * 2 ** view.zoom);
    this.with(({ outsideFault }) => {
      const fault = outsideFault(view.center, degrees, all);
      if (fault) context.report(fault);
    });
  }

  /** Tells of features that an application flags or selects, and that are not there. */
  missing(data: string, keys: readonly string[]): void {
    if (this.isNew(`missing ${data} ${keys.join()}`))
      this.with(({ missingFault }) => this.context.report(missingFault(data, keys)));
  }

  /** Tells of symbols that a sheet names and nobody knows. */
  symbols({ sheet, layers }: CompiledSheet, known: readonly string[]): void {
    const { context } = this;
    if (!layers.some((layer) => layer.hasMark || layer.hasLabel || layer.hasPattern || layer.hasFancyStroke)) return;
    this.with(({ symbolFaults }) => {
      for (const [name, fault] of symbolFaults(sheet, known, (symbol) => context.sprite(symbol) !== undefined))
        if (this.isNew(`symbol ${name}`)) context.reportLater(fault);
    });
    this.with(({ tintFaults }) => {
      for (const [name, fault] of tintFaults(sheet, (icon) => context.icons.keepsColors(icon)))
        if (this.isNew(`tint ${name}`)) context.reportLater(fault);
    });
  }

  private isNew(what: string): boolean {
    if (this.told.has(what)) return false;
    this.told.add(what);
    return true;
  }
}
