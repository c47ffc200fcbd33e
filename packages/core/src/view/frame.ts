import { webMercatorHalf } from '../crs/web-mercator.js';
import type { Size } from './camera.js';
import type { Surface } from './surface.js';
import type { View } from './view.js';

/** Room to leave free at the edges, in CSS pixels: one number for all, or each side. */
export type Pad =
  number | { readonly top?: number; readonly right?: number; readonly bottom?: number; readonly left?: number };

/**
 * The view, looking straight down at the bearing of `view`, that shows all of some places as large as can be.
 *
 * @param places lon/lat pairs in degrees
 * @param most greatest zoom; a single place is shown at this zoom or the present one, whichever is deeper and allowed
 */
export function frameView(
  view: View,
  surface: Surface,
  size: Size,
  places: readonly (readonly [number, number])[],
  pad: Pad = 40,
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
  for (const [lon, lat] of places) {
    surface.forward(lon, lat, at);
    const u = at[0] * c - at[1] * s;
    const v = at[0] * s + at[1] * c;
    minU = Math.min(minU, u);
    maxU = Math.max(maxU, u);
    minV = Math.min(minV, v);
    maxV = Math.max(maxV, v);
  }
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
    center: surface.inverse(u * c + v * s, v * c - u * s, 0) ?? view.center,
    zoom,
    bearing: view.bearing,
    tilt: 0,
  };
}
