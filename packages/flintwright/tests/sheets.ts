// Sheets and measures that several browser tests share.
import type { Sheet } from 'flintwright';
import { collection } from './harness.ts';

/** At zoom 5 a degree is 22.8 pixels; the middle of the page is 400, 300. */
export const view = { center: [0, 0], zoom: 5 };

/** A sheet of one layer, over features given in place. */
export const sheetOf = (features: object[], layer: object, more: object = {}): Sheet =>
  ({
    sheet: 1,
    data: { d: { features: collection(...features) } },
    background: '#ffffff',
    layers: [{ id: 'l', of: 'd', ...layer }],
    ...more,
  }) as Sheet;

/** A sheet of one layer whose points come together. */
export const clustered = (features: object[], cluster: object = {}, layer: object = {}): Sheet =>
  ({
    sheet: 1,
    data: { d: { features: collection(...features), cluster: { within: 50, until: 8, ...cluster } } },
    background: '#ffffff',
    layers: [
      {
        id: 'l',
        of: 'd',
        mark: { size: 20, color: { by: 'k', categories: { a: '#ff0000', b: '#0000ff' } } },
        ...layer,
      },
    ],
  }) as Sheet;

/** Whether a color, or another list of numbers, is as wanted to within some steps. */
export const isNear = (seen: readonly number[], wanted: readonly number[], within = 12) =>
  seen.every((v, i) => Math.abs(v - wanted[i]) <= within);
