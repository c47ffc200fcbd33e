import { jsonOf } from '../../base/depth.js';
import { Fault } from '../../base/fault.js';
import { transformer, type Crs, type Pair } from '../../crs/crs.js';
import { authorityAxes } from '../../crs/axes.js';
import { getCrs } from '../../crs/registry.js';
import { Bounds, isBox } from './bounds.js';

type Json = Record<string, unknown>;

/** Axis order of coordinates: x (east) first for every system, or as its authority defines it. */
export type AxisOrder = 'east-north' | 'authority';

export interface TransformOptions {
  readonly from: Crs;
  readonly to: Crs;
  /** Default `east-north`, as in RFC 7946. */
  readonly fromAxes?: AxisOrder;
  readonly toAxes?: AxisOrder;
}

/**
 * Returns the system that GeoJSON declares by a `crs` member (the form of 2008, which RFC 7946 leaves to prior arrangement); undefined for
 * none.
 */
export function crsOfGeoJson(json: object): Crs | undefined {
  const { crs } = json as { crs?: { type?: unknown; properties?: { name?: unknown } } | null };
  const name = crs?.properties?.name;
  return typeof name === 'string' ? getCrs(name) : undefined;
}

/**
 * Transforms the coordinates of GeoJSON to another system and keeps ids, attributes, foreign members and heights. Bounding boxes (`bbox`)
 * are recomputed. Systems other than longitude and latitude on WGS 84 are named in a `crs` member.
 *
 * @param json parsed GeoJSON; it is not changed
 * @param options systems, and the order of their axes
 * @throws Fault `crs.domain` with positions outside the domain of either system; `crs.coordinates` for an invalid position
 */
export function transformGeoJson(
  json: object,
  { from, to, fromAxes = 'east-north', toAxes = 'east-north' }: TransformOptions,
): object {
  const across = transformer(from, to);
  const read = fromAxes === 'authority' ? authorityAxes(from).toXY : undefined;
  const write = toAxes === 'authority' ? authorityAxes(to).fromXY : undefined;
  const outside: string[] = [];
  let missed = 0;
  const at: Pair = [0, 0];
  const position = (xy: readonly unknown[], path: string, box: Bounds): unknown[] => {
    const [x, y, ...rest] = xy;
    if (typeof x !== 'number' || typeof y !== 'number')
      throw new Fault('crs.coordinates', `${jsonOf(xy)} is not a position`, 'A position is [x, y].', path);
    [at[0], at[1]] = [x, y];
    read?.(at);
    if (!across(at[0], at[1], at)) {
      missed++;
      if (outside.length < 8) outside.push(`[${x}, ${y}] at ${path}`);
      return [x, y, ...rest];
    }
    write?.(at);
    const placed = [at[0], at[1], ...rest];
    box.add({ type: 'Point', coordinates: placed as number[] });
    return placed;
  };
  const coordinates = (list: readonly unknown[], path: string, box: Bounds): unknown[] =>
    list.length && !Array.isArray(list[0])
      ? position(list, path, box)
      : list.map((item, i) => coordinates(item as unknown[], `${path}[${i}]`, box));
  const within = (value: unknown, path: string, box: Bounds): unknown => {
    if (typeof value !== 'object' || value === null) return value;
    const own = new Bounds();
    const out: Json = {};
    for (const [key, item] of Object.entries(value)) {
      const here = `${path}.${key}`;
      if (key === 'crs' && path === '$') continue;
      if (key === 'coordinates' && Array.isArray(item)) out[key] = coordinates(item, here, own);
      else if (key === 'geometry') out[key] = within(item, here, own);
      else if ((key === 'features' || key === 'geometries') && Array.isArray(item))
        out[key] = item.map((one, i) => within(one, `${here}[${i}]`, own));
      else out[key] = item;
    }
    if ('bbox' in out) {
      const anew = isBox(out['bbox']) ? own.like(out['bbox'], from.isGeographic && to.isGeographic) : undefined;
      if (anew) out['bbox'] = anew;
      else delete out['bbox'];
    }
    box.take(own);
    return out;
  };
  const result = within(json, '$', new Bounds()) as Json;
  if (missed)
    throw new Fault(
      'crs.domain',
      `${missed} position${missed === 1 ? ' lies' : 's lie'} outside the domain of ${from.id} or ${to.id}: ${outside.join('; ')}${missed > outside.length ? '; …' : ''}`,
      from.isGeographic
        ? 'Check that longitude comes first, or choose a system that is made for that part of the world.'
        : `Check that the coordinates are in ${from.id}, x (east) first.`,
    );
  const plain = to.id === 'EPSG:4326' || to.id === 'OGC:CRS84';
  if (plain) return result;
  const [authority, code] = to.id.split(':');
  const name = code === undefined ? to.id : `urn:ogc:def:crs:${authority}::${code}`;
  const { type, ...rest } = result;
  return { type, crs: { type: 'name', properties: { name } }, ...rest };
}
