import type { View, ViewChange } from '@flintwright/core';

/** The view as it stands in an address: longitude, latitude, zoom, and bearing and tilt where they are not 0. */
export function writePermalink({ center: [lon, lat], zoom, bearing, tilt }: View): string {
  const turned = bearing || tilt ? `/${Number(bearing.toFixed(1))}/${Number(tilt.toFixed(1))}` : '';
  return `#at=${Number(lon.toFixed(6))},${Number(lat.toFixed(6))}/${Number(zoom.toFixed(2))}${turned}`;
}

/** The view in an address; undefined where there is none. */
export function readPermalink(hash: string): ViewChange | undefined {
  const match = /[#&]at=(-?[\d.]+),(-?[\d.]+)\/([\d.]+)(?:\/(-?[\d.]+)\/([\d.]+))?/.exec(hash);
  if (!match) return undefined;
  const [lon, lat, zoom, bearing = 0, tilt = 0] = match
    .slice(1)
    .map((part) => (part === undefined ? undefined : Number(part)));
  return Math.abs(lat!) <= 90 ? { center: [lon!, lat!], zoom: zoom!, bearing, tilt } : undefined;
}

/** Keeps the view in the address of the page. */
export class Permalink {
  private later: ReturnType<typeof setTimeout> | undefined;

  /** Writes a view once the map has come to rest. */
  keep(view: () => View): void {
    clearTimeout(this.later);
    this.later = setTimeout(() => history.replaceState(history.state, '', writePermalink(view())), 250);
  }

  remove(): void {
    clearTimeout(this.later);
  }
}
