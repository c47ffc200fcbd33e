import type { Crs } from '@flintwright/core';
import type { ReadFileOptions } from '@flintwright/core/files';
import type { Command } from 'commander';

/** What the commands that read features ask of their readers. */
export interface ReadingOptions {
  readonly x?: string;
  readonly y?: string;
  readonly strict?: boolean;
}

/** Adds the options of {@link ReadingOptions} to a command. */
export const withReadingOptions = (command: Command): Command =>
  command
    .option('--x <column>', 'column of a table with the longitude or easting; by default found by its name')
    .option('--y <column>', 'column of a table with the latitude or northing')
    .option('--strict', 'stop at the first record that cannot be read; by default it is kept without a geometry');

/** The choices of a reader. */
export const readingOf = ({ x, y, strict }: ReadingOptions, crs: Crs | undefined): ReadFileOptions => ({
  crs,
  x,
  y,
  ...(strict === undefined ? {} : { strict }),
});
