import type { Sheet } from '@flintwright/core';
import { iconSource, isPath, isSvg } from '@flintwright/core/internal';
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
  const icons = Object.entries(sheet.icons ?? {}).map(([name, icon]) => {
    const source = iconSource(icon);
    if (isPath(source) || isSvg(source)) return [name, icon] as const;
    return [name, typeof icon === 'string' ? whole(source) : { ...icon, source: whole(source) }] as const;
  });
  return {
    ...sheet,
    data: Object.fromEntries(entries) as NonNullable<Sheet['data']>,
    ...(sheet.icons && { icons: Object.fromEntries(icons) }),
  };
}

/** The sheet as workers need it: features and tables given in place travel once, on their own, and icons are known by their names. */
export function withoutFeatures({ icons: _, ...sheet }: Sheet): Sheet {
  const entries = Object.entries(sheet.data ?? {}).map(([name, { join: __, ...entry }]) => [
    name,
    typeof entry.features === 'object' ? { ...entry, features: '' } : entry,
  ]);
  return { ...sheet, data: Object.fromEntries(entries) as NonNullable<Sheet['data']> };
}
