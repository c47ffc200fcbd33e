import type { SheetData } from '@flintwright/core';

/** Whether two descriptions differ only in which features there are, so that what is drawn can stay until the others have come. */
export function otherFeatures(a: SheetData, b: SheetData): boolean {
  if (a.features === undefined || b.features === undefined) return false;
  return (
    (a.features !== b.features || a.refresh !== b.refresh) && sameData({ ...a, features: '' }, { ...b, features: '' })
  );
}

/** Whether two descriptions lead to the same features. */
export function sameData(a: SheetData, b: SheetData): boolean {
  const zooms = (data: SheetData) => data.zooms?.join();
  const join = (data: SheetData) => data.join && [data.join.match.join('\u0000'), data.join.table];
  const [first, second] = [join(a), join(b)];
  return (
    a.tiles === b.tiles &&
    a.features === b.features &&
    a.images === b.images &&
    a.pixels === b.pixels &&
    JSON.stringify([a.grid, a.bounds, a.corners, a.wms]) === JSON.stringify([b.grid, b.bounds, b.corners, b.wms]) &&
    a.rows === b.rows &&
    a.crs === b.crs &&
    a.edges === b.edges &&
    JSON.stringify(a.cluster) === JSON.stringify(b.cluster) &&
    a.id === b.id &&
    zooms(a) === zooms(b) &&
    first?.[0] === second?.[0] &&
    first?.[1] === second?.[1]
  );
}
