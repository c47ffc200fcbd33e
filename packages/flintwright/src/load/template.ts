import { Fault, type TileAddress } from '@flintwright/core';
import type { MatrixGrid } from '@flintwright/core/internal';

/** How the tiles of a service are numbered. */
export interface Numbering {
  /** The grid that they belong to, where it is not WebMercatorQuad. */
  readonly grid: MatrixGrid | undefined;
  /** Whether rows are counted from the south. */
  readonly up: boolean;
}

/** The address of a tile; undefined where the service has none of that number. */
export function addressOf(template: string, { z, x, y }: TileAddress, { grid, up }: Numbering): string | undefined {
  const level = z - (grid?.shift ?? 0);
  const matrix = grid?.set.matrices[level];
  if (grid && (!matrix || x >= matrix.matrixWidth || y >= matrix.matrixHeight)) return undefined;
  const rows = matrix?.matrixHeight ?? 2 ** z;
  return template
    .replaceAll('{z}', matrix?.id ?? String(level))
    .replaceAll('{x}', String(x))
    .replaceAll('{y}', String(up ? rows - 1 - y : y));
}

/** Tells of places for numbers in an address that nobody fills; undefined where all are known. */
export function checkPlaceholders(name: string, address: string, at: string): Fault | undefined {
  const odd = [...new Set(address.match(/\{[^{}]*\}/g))].filter((one) => !['{z}', '{x}', '{y}'].includes(one));
  if (!odd.length) return undefined;
  const hints: Readonly<Record<string, string>> = {
    '{-y}': 'Write {y}, and "rows": "up" for rows counted from the south.',
    '{s}': 'Write one host in its place; browsers ask one host for many tiles at a time.',
    '{r}': 'Leave it out, or write what stands for fine screens, such as @2x, with "pixels": 512.',
  };
  return new Fault(
    'address.placeholder',
    `the address of "${name}" holds ${odd.join(' and ')}, which ${odd.length === 1 ? 'stands' : 'stand'} for nothing here`,
    hints[odd[0]] ?? 'Only {z}, {x} and {y} are replaced; write everything else in full.',
    at,
  );
}

/** Deepest level that is drawn; services may have more. */
const deepest = 24;

/**
 * Levels of the square for levels of a service, whatever says them: a sheet, a TileJSON document or an archive.
 *
 * @throws Fault `data.zooms` for levels that are not two whole numbers from 0, the first not above the last
 */
export function levelsOf(
  zooms: readonly [number, number],
  { grid }: Numbering,
  name: string,
): readonly [number, number] {
  const [first, last] = zooms;
  if (!zooms.every((level) => Number.isInteger(level) && level >= 0) || first > last)
    throw new Fault(
      'data.zooms',
      `the levels of "${name}" are ${zooms.join(' to ')}`,
      'Levels are two whole numbers from 0, such as [0, 14], the first not above the last.',
      `$.data.${name}.zooms`,
    );
  const shift = grid?.shift ?? 0;
  const end = Math.min(last, grid ? grid.set.matrices.length - 1 : Infinity) + shift;
  return [Math.min(first + shift, deepest), Math.min(end, deepest)];
}

/** An address made whole, its places for numbers left readable. */
export const wholeAddress = (address: string, base: string): string =>
  new URL(address, base).href.replaceAll('%7B', '{').replaceAll('%7D', '}');
