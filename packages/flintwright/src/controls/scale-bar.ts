import { checkOptions, type Corner, type OptionTable } from '../base/check-options.js';
import type { FlintMap } from '../map/map.js';
import { Control } from './control.js';
import { makeElement } from '../overlay/dom.js';

export type Units = 'metric' | 'imperial' | 'nautical';

/** Steps that a scale bar may show, in meters and by their names. */
const ladders: Readonly<Record<Units, readonly (readonly [meters: number, name: string])[]>> = {
  metric: [1, 10, 100, 1000, 10000, 100000, 1000000].flatMap((ten) =>
    [1, 2, 5].map((n): [number, string] => [n * ten, n * ten < 1000 ? `${n * ten} m` : `${(n * ten) / 1000} km`]),
  ),
  imperial: [
    ...[10, 20, 50, 100, 200, 500, 1000, 2000].map((feet): [number, string] => [feet * 0.3048, `${feet} ft`]),
    ...[0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500, 1000].map((miles): [number, string] => [
      miles * 1609.344,
      `${miles} mi`,
    ]),
  ],
  nautical: [0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500, 1000].map(
    (miles): [number, string] => [miles * 1852, `${miles} nmi`],
  ),
};

export interface ScaleBarOptions {
  /** Units; default `metric`. */
  readonly units?: Units;
  /** Greatest length of the bar in CSS pixels; default 130. */
  readonly longest?: number;
  /** Corner of the map; controls in one corner stack. Default: the lower corner at the inline start. */
  readonly position?: Corner | undefined;
}

const table: OptionTable<ScaleBarOptions> = { units: 'text', longest: 'number', position: 'corner' };

/** A scale bar, correct at the latitude of the middle of the map. */
export class ScaleBar extends Control {
  private readonly bar = makeElement('div', 'flint-bar-line');
  private readonly text = makeElement('span');

  /**
   * Adds a scale bar to a map.
   *
   * @param map the map
   * @param options units and greatest length
   */
  constructor(
    map: FlintMap,
    private readonly options: ScaleBarOptions = {},
  ) {
    checkOptions('new ScaleBar', options, table, "new ScaleBar(map, { units: 'metric' })");
    super(map, 'flint-scale', { position: options.position, seat: 'bottom-start' });
    this.element.setAttribute('role', 'img');
    this.element.append(this.text, this.bar);
    this.on(map, 'viewchange', () => this.follow());
    this.follow();
  }

  private follow(): void {
    const { units = 'metric', longest = 130 } = this.options;
    const perPixel = this.map.metresPerPixel;
    const ladder = ladders[units];
    const [meters, name] = [...ladder].reverse().find(([m]) => m / perPixel <= longest) ?? ladder[0];
    this.bar.style.width = `${Math.round(meters / perPixel)}px`;
    this.text.textContent = name;
    this.element.setAttribute('aria-label', `${this.map.strings.scale}: ${name}`);
  }
}
