import { jsonOf } from '../base/depth.js';
import { describeValue } from '../base/describe-value.js';
import { Fault } from '../base/fault.js';

/** Where the camera stands. Readonly: a change makes a new one, no change gives the same one back. */
export interface View {
  /** `[longitude, latitude]` in degrees, in the middle of the map. */
  readonly center: readonly [number, number];
  /** Level of WebMercatorQuad (OGC 17-083r4): the world is 256 · 2^zoom CSS pixels wide. */
  readonly zoom: number;
  /** Degrees clockwise from north, −180 to 180. */
  readonly bearing: number;
  /** Degrees from straight down, 0 to 60. */
  readonly tilt: number;
}

export interface ViewLimits {
  readonly zoom: readonly [number, number];
  readonly tilt: readonly [number, number];
  /** `[west, south, east, north]` in degrees that the middle of the view stays within; none by default. */
  readonly bounds?: readonly [number, number, number, number];
  /** Space of the places: degrees (the default), or the meters of a plan. */
  readonly space?: 'lonlat' | 'plane';
  /** Greatest latitude of the middle, degrees; default 85.05, where web Mercator ends. */
  readonly latitude?: number;
}

export const defaultLimits: ViewLimits = { zoom: [0, 24], tilt: [0, 60] };

/** A place given as `[longitude, latitude]` or `{ lon, lat }`, in degrees. */
export type Place = readonly [number, number] | readonly number[] | { readonly lon: number; readonly lat: number };

/**
 * Reads a place in either form.
 *
 * @param place `[longitude, latitude]` or `{ lon, lat }` in degrees
 * @param space degrees, or the meters of a plan, which may be any
 * @param space `lonlat` in degrees (the default), or `plane` in meters, which nothing checks
 * @throws Fault `place.swapped` for a latitude beyond ±90°, `place.form` for anything else that is no place
 */
export function readPlace(place: Place, space: 'lonlat' | 'plane' = 'lonlat'): [number, number] {
  const [lon, lat] = Array.isArray(place) ? place : [(place as { lon: number })?.lon, (place as { lat: number })?.lat];
  if (typeof lon !== 'number' || typeof lat !== 'number' || !Number.isFinite(lon) || !Number.isFinite(lat)) {
    throw new Fault(
      'place.form',
      `${jsonOf(place)} is not a place`,
      'Write [longitude, latitude] or { lon, lat }, in degrees.',
    );
  }
  if (space === 'lonlat' && Math.abs(lat) > 90) {
    throw new Fault(
      'place.swapped',
      `[${lon}, ${lat}] has a latitude beyond ±90°`,
      Math.abs(lon) <= 90
        ? `The pair looks swapped: write [${lat}, ${lon}], longitude first.`
        : 'Write degrees, longitude first.',
    );
  }
  return [lon, lat];
}

/** A change of the view; a key that is left out keeps its value. */
export interface ViewChange {
  readonly center?: Place;
  readonly zoom?: number;
  readonly bearing?: number;
  readonly tilt?: number;
}

const turned = (degrees: number) => (degrees >= -180 && degrees <= 180 ? degrees : wrapped(degrees));
const wrapped = (degrees: number) => ((((degrees + 180) % 360) + 360) % 360) - 180;
const held = (v: number, [low, high]: readonly [number, number]) => Math.max(low, Math.min(high, v));

/** A longitude held between west and east, going round the world where west lies east of east. */
function heldAround(lon: number, west: number, east: number): number {
  const span = (((east - west) % 360) + 360) % 360;
  const along = (((lon - west) % 360) + 360) % 360;
  if (along <= span) return lon;
  return along - span < 360 - along ? east : west;
}

/** The view after a change, within its limits; the same object when nothing changes. */
export function changeView(view: View, change: ViewChange, limits: ViewLimits = defaultLimits): View {
  for (const key of ['zoom', 'bearing', 'tilt'] as const) {
    const value = change[key];
    if (value !== undefined && !Number.isFinite(value))
      throw new Fault('view.number', `${key} is ${describeValue(value)}`, 'Give a finite number.');
  }
  const { bounds, space = 'lonlat', latitude = 85.05 } = limits;
  const [lon, lat] = change.center ? readPlace(change.center, space) : view.center;
  const next: View = {
    center:
      space === 'plane'
        ? bounds
          ? [held(lon, [bounds[0], bounds[2]]), held(lat, [bounds[1], bounds[3]])]
          : [lon, lat]
        : bounds
          ? [heldAround(turned(lon), bounds[0], bounds[2]), held(lat, [bounds[1], bounds[3]])]
          : [turned(lon), held(lat, [-latitude, latitude])],
    zoom: held(change.zoom ?? view.zoom, limits.zoom),
    bearing: turned(change.bearing ?? view.bearing),
    tilt: held(change.tilt ?? view.tilt, limits.tilt),
  };
  const same =
    next.center[0] === view.center[0] &&
    next.center[1] === view.center[1] &&
    next.zoom === view.zoom &&
    next.bearing === view.bearing &&
    next.tilt === view.tilt;
  return same ? view : next;
}
