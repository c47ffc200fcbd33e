import { Fault, type Sheet } from '@flintwright/core';
import { classesKey, withFoundClasses } from '@flintwright/core/internal';
import type { FoundBreaks } from '../load/derived-data.js';

/** Class limits found in the data, for scales that leave them to it. */
export class ClassBreaks {
  private readonly limits = new Map<string, readonly number[]>();

  /** Takes limits over; returns what is to be said of those that could not be found. */
  take({ data, wanted, breaks }: FoundBreaks): Fault[] {
    const faults: Fault[] = [];
    wanted.forEach((classes, i) => {
      if (breaks[i].length) this.limits.set(classesKey(data, classes), breaks[i]);
      else
        faults.push(
          new Fault(
            'classes.none',
            `${classes.by} has no numbers for the features of "${data}", so classes cannot be computed`,
            'Check the attribute; numbers in quotes are strings.',
            `data "${data}"`,
          ),
        );
    });
    return faults;
  }

  /** A sheet with all limits found so far written in. */
  into(sheet: Sheet): Sheet {
    return withFoundClasses(sheet, this.limits);
  }
}
