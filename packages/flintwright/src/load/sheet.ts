import type { Sheet } from '@flintwright/core';
import { wholeAddress } from './template.js';

/** A fetched sheet with the addresses of its data made whole: they are relative to the sheet. */
export function withWholeAddresses(sheet: Sheet, base: string): Sheet {
  const whole = (address: string) => wholeAddress(address, base);
  const entries = Object.entries(sheet.data ?? {}).map(([name, entry]) => [
    name,
    {
      ...entry,
      ...(typeof entry.tiles === 'string' ? { tiles: whole(entry.tiles) } : {}),
      ...(typeof entry.features === 'string' ? { features: whole(entry.features) } : {}),
      ...(typeof entry.images === 'string' ? { images: whole(entry.images) } : {}),
      ...(typeof entry.join?.table === 'string' ? { join: { ...entry.join, table: whole(entry.join.table) } } : {}),
    },
  ]);
  return { ...sheet, data: Object.fromEntries(entries) as NonNullable<Sheet['data']> };
}

/** The sheet as workers need it: features and tables given in place travel once, on their own. */
export function withoutFeatures(sheet: Sheet): Sheet {
  const entries = Object.entries(sheet.data ?? {}).map(([name, { join: _, ...entry }]) => [
    name,
    typeof entry.features === 'object' ? { ...entry, features: '' } : entry,
  ]);
  return { ...sheet, data: Object.fromEntries(entries) as NonNullable<Sheet['data']> };
}
