import { eachPosition } from '../files/mend.js';
import type { FileGeometry } from '../files/feature-file.js';

/** The box round positions, as a `bbox` has it (RFC 7946, section 5). */
export class Bounds {
  private readonly low = [Infinity, Infinity, Infinity];
  private readonly high = [-Infinity, -Infinity, -Infinity];
  /** Least and greatest longitude counted from 0 to 360. */
  private readonly turned = [Infinity, -Infinity];

  /** Takes the positions of a geometry in. */
  add(geometry: FileGeometry | null): this {
    eachPosition(geometry, (position) => {
      for (let k = 0; k < position.length && k < 3; k++) {
        this.low[k] = Math.min(this.low[k], position[k]);
        this.high[k] = Math.max(this.high[k], position[k]);
      }
      const turned = position[0] < 0 ? position[0] + 360 : position[0];
      this.turned[0] = Math.min(this.turned[0], turned);
      this.turned[1] = Math.max(this.turned[1], turned);
    });
    return this;
  }

  /** Takes in all that another one holds. */
  take({ low, high, turned }: Bounds): void {
    for (const k of [0, 1, 2]) {
      this.low[k] = Math.min(this.low[k], low[k]);
      this.high[k] = Math.max(this.high[k], high[k]);
    }
    this.turned[0] = Math.min(this.turned[0], turned[0]);
    this.turned[1] = Math.max(this.turned[1], turned[1]);
  }

  /**
   * The box.
   *
   * @param like a box of the same things as it was
   * @param isGeographic whether positions are degrees; a box that ran over the antimeridian (its west is greater than its east,
   *   section 5.2) then does so again
   * @returns west, south, (lowest,) east, north, (highest), with heights where some position has one (2·n numbers, section 5); undefined where no position was
   */
  like(like: readonly number[], isGeographic: boolean): readonly number[] | undefined {
    const { low, high } = this;
    if (low[0] > high[0]) return undefined;
    const half = like.length / 2;
    const depth = low[2] <= high[2] ? 3 : 2;
    const box = [...low.slice(0, depth), ...high.slice(0, depth)];
    if (isGeographic && like[0] > like[half]) {
      const degrees = (turned: number) => (turned > 180 ? turned - 360 : turned);
      [box[0], box[depth]] = [degrees(this.turned[0]), degrees(this.turned[1])];
    }
    return box;
  }
}

/** Whether a value is a box: four numbers, or six with heights. */
export const isBox = (value: unknown): value is readonly number[] =>
  Array.isArray(value) && (value.length === 4 || value.length === 6) && value.every((one) => Number.isFinite(one));
