import { Fault } from '../../base/fault.js';
import type { WarningList } from './warnings.js';

/**
 * Reads the records of a file one by one. One that is broken is kept without a geometry and listed with its place and the reason; only where
 * none is left, or where the caller asks for strictness, the first fault ends the read.
 */
export class Records {
  private first: Fault | undefined;

  /**
   * @param warnings takes what is broken
   * @param strict whether the first broken record ends the read; default false
   */
  constructor(
    private readonly warnings: WarningList,
    private readonly strict = false,
  ) {}

  /**
   * Reads the geometry of one record.
   *
   * @param place where it stands, such as `line 12`
   * @param read reads it; null for a record without a geometry
   * @returns null where it is broken
   * @throws Fault of `read`, where the caller asks for strictness
   */
  geometry<T>(place: string, read: () => T | null): T | null {
    try {
      return read();
    } catch (error) {
      if (!(error instanceof Fault) || this.strict) throw error;
      this.first ??= error;
      this.warnings.add(
        'doubtful.record',
        'records have a location that cannot be read',
        'They were kept without a geometry and are not drawn. Correct them.',
        `${place}: ${error.message}`,
      );
      return null;
    }
  }

  /**
   * Ends the read.
   *
   * @param features all that were read
   * @throws Fault the first one, where none has a geometry left
   */
  finish(features: readonly { readonly geometry: unknown }[]): void {
    if (this.first && !features.some(({ geometry }) => geometry)) throw this.first;
  }
}
