import { checkOptions, type Corner, type OptionTable } from '../base/check-options.js';
import type { FlintMap } from '../map/map.js';
import { Control } from './control.js';

export interface PositionOptions {
  /** `degrees` (the default), `dms` for degrees, minutes and seconds, or a function that returns the text. */
  readonly form?: 'degrees' | 'dms' | ((place: readonly [number, number]) => string);
  /** Corner of the map; controls in one corner stack. Default: the middle of the lower edge. */
  readonly position?: Corner | undefined;
}

/**
 * Formats a latitude or longitude as degrees, minutes and seconds.
 *
 * @param value degrees
 * @param positive letter for north or east
 * @param negative letter for south or west
 */
export function dms(value: number, positive: string, negative: string): string {
  const total = Math.round(Math.abs(value) * 36000) / 10;
  const [d, m, s] = [Math.floor(total / 3600), Math.floor((total % 3600) / 60), total % 60];
  return `${d}° ${String(m).padStart(2, '0')}′ ${s.toFixed(1).padStart(4, '0')}″ ${value < 0 ? negative : positive}`;
}

const table: OptionTable<PositionOptions> = { form: 'text|function', position: 'corner' };

/** Shows the position of the pointer, or of the middle of the map if there is no pointer. */
export class Position extends Control {
  /**
   * Adds a position display to a map.
   *
   * @param map the map
   * @param options format of the position
   */
  constructor(map: FlintMap, options: PositionOptions = {}) {
    checkOptions('new Position', options, table, "new Position(map, { form: 'dms' })");
    const { form = 'degrees' } = options;
    super(map, 'flint-position', { position: options.position, seat: 'bottom' });
    this.element.setAttribute('aria-label', map.strings.position);
    let at: [number, number] | undefined;
    const say = () => {
      const place = (at && map.toPlace(at)) ?? map.view.center;
      const [lon, lat] = place;
      this.element.textContent =
        typeof form === 'function'
          ? form([lon, lat])
          : form === 'dms'
            ? `${dms(lat, 'N', 'S')}  ${dms(lon, 'E', 'W')}`
            : `${lat.toFixed(5)}, ${lon.toFixed(5)}`;
    };
    this.on(map.host, 'pointermove', (event: PointerEvent) => {
      const box = map.host.getBoundingClientRect();
      at = [event.clientX - box.left, event.clientY - box.top];
      say();
    });
    this.on(map, 'viewchange', say);
    say();
  }
}
