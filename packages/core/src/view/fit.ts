import { webMercatorHalf } from '../crs/web-mercator.js';
import { directions } from './globe.js';
import type { Size } from './camera.js';
import type { Surface } from './surface.js';
import type { View } from './view.js';

/** Room to leave free at the edges, in CSS pixels: one number for all, or each side. */
export type Padding =
  | number
  | { readonly top?: number; readonly right?: number; readonly bottom?: number; readonly left?: number };

/**
 * The view, looking straight down at the bearing of `view`, that shows all of some places as large as can be.
 *
 * @param places lon/lat pairs in degrees
 * @param most greatest zoom; a single place is shown at this zoom or the present one, whichever is deeper and allowed
 */
export function fitView(
  view: View,
  surface: Surface,
  size: Size,
  places: readonly (readonly [number, number])[],
  pad: Padding = 40,
  most = 24,
): View {
  const sides =
    typeof pad === 'number'
      ? { top: pad, right: pad, bottom: pad, left: pad }
      : { top: 0, right: 0, bottom: 0, left: 0, ...pad };
  const bearing = (view.bearing * Math.PI) / 180;
  const [c, s] = [Math.cos(bearing), Math.sin(bearing)];
  let [minU, minV, maxU, maxV] = [Infinity, Infinity, -Infinity, -Infinity];
  const at: [number, number, number] = [0, 0, 0];
  const sphere = surface.radius ? tangentAt(surface, places) : undefined;
  for (const [lon, lat] of places) {
    if (!surface.forward(lon, lat, at)) continue;
    const [x, y] = sphere ? sphere.there(at) : at;
    const u = x * c - y * s;
    const v = x * s + y * c;
    minU = Math.min(minU, u);
    maxU = Math.max(maxU, u);
    minV = Math.min(minV, v);
    maxV = Math.max(maxV, v);
  }
  if (minU > maxU) return view;
  const width = Math.max(32, size.width - sides.left - sides.right);
  const height = Math.max(32, size.height - sides.top - sides.bottom);
  const metresPerPixel = Math.max((maxU - minU) / width, (maxV - minV) / height);
  const fitting =
    metresPerPixel > 0
      ? Math.log2((2 * webMercatorHalf) / (256 * metresPerPixel))
      : Math.max(view.zoom, Math.min(most, 16));
  const zoom = Math.min(most, fitting);
  const scale = (2 * webMercatorHalf) / (256 * 2 ** zoom);
  const u = (minU + maxU) / 2 + ((sides.right - sides.left) / 2) * scale;
  const v = (minV + maxV) / 2 + ((sides.top - sides.bottom) / 2) * scale;
  return {
    center:
      (sphere ? sphere.back(u * c + v * s, v * c - u * s) : surface.inverse(u * c + v * s, v * c - u * s, 0)) ??
      view.center,
    zoom,
    bearing: view.bearing,
    tilt: 0,
  };
}

/** The plane that touches a sphere in the middle of some places, seen from straight above: there and back. */
function tangentAt(surface: Surface, places: readonly (readonly [number, number])[]) {
  const sum: [number, number, number] = [0, 0, 0];
  const at: [number, number, number] = [0, 0, 0];
  for (const [lon, lat] of places) {
    surface.forward(lon, lat, at);
    for (const k of [0, 1, 2]) sum[k] += at[k];
  }
  const { east, north, up } = directions(sum);
  const { radius } = surface;
  const dot = (a: readonly number[], b: readonly number[]) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
  return {
    there: (xyz: readonly number[]): [number, number] => {
      const flat: [number, number] = [dot(east, xyz), dot(north, xyz)];
      // A place on the far half counts as one on the rim.
      if (dot(up, xyz) >= 0) return flat;
      const r = Math.hypot(...flat) || 1;
      return [(flat[0] / r) * radius, (flat[1] / r) * radius];
    },
    back: (x: number, y: number) => {
      const height = Math.sqrt(Math.max(0, radius * radius - x * x - y * y));
      const [a, b, c] = [0, 1, 2].map((k) => east[k] * x + north[k] * y + up[k] * height);
      return surface.inverse(a, b, c);
    },
  };
}
