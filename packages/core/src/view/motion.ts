import { webMercatorHalf } from '../crs/web-mercator.js';
import type { Size } from './camera.js';
import type { Surface } from './surface.js';
import type { View } from './view.js';

/** Named courses of a movement, from 0 to 1 both ways. */
export const easings = {
  linear: (t: number) => t,
  /** Quick off, gentle in: for answers to a gesture. */
  'ease-out': (t: number) => 1 - (1 - t) ** 3,
  /** Gentle at both ends. */
  'ease-in-out': (t: number) => (t < 0.5 ? 4 * t ** 3 : 1 - (2 - 2 * t) ** 3 / 2),
};
export type Easing = keyof typeof easings | ((t: number) => number);

/**
 * The views on the way from one to another: a course that rises and sinks so that the ground passes at an even,
 * comfortable rate (van Wijk and Nuij 2003, "Smooth and efficient zooming and panning", with ρ = 1.42). Bearing takes
 * the short way round.
 */
export function viewPath(from: View, to: View, surface: Surface, size: Size): (t: number) => View {
  const a: [number, number, number] = [0, 0, 0];
  const b: [number, number, number] = [0, 0, 0];
  surface.forward(from.center[0], from.center[1], a);
  surface.forward(to.center[0], to.center[1], b);
  if (surface.wrap) b[0] -= Math.round((b[0] - a[0]) / surface.wrap) * surface.wrap;
  // On a sphere the way is an arc of a great circle; on a plane it is straight.
  const { radius } = surface;
  const angle = radius
    ? Math.atan2(
        Math.hypot(a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]),
        a[0] * b[0] + a[1] * b[1] + a[2] * b[2],
      )
    : 0;
  const between = (share: number): [number, number] | undefined => {
    if (!radius) return surface.inverse(a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share, 0);
    const [p, q] =
      angle < 1e-9
        ? [1 - share, share]
        : [Math.sin((1 - share) * angle), Math.sin(share * angle)].map((v) => v / Math.sin(angle));
    return surface.inverse(a[0] * p + b[0] * q, a[1] * p + b[1] * q, a[2] * p + b[2] * q);
  };
  const span = Math.max(size.width, size.height);
  const meters = (zoom: number) => (span * 2 * webMercatorHalf) / (256 * 2 ** zoom);
  const [w0, w1] = [meters(from.zoom), meters(to.zoom)];
  const far = radius ? angle * radius : Math.hypot(b[0] - a[0], b[1] - a[1]);
  const rho2 = 1.42 ** 2;
  const turn = ((((to.bearing - from.bearing + 180) % 360) + 360) % 360) - 180;
  const mixed = (t: number, share: number, zoom: number): View => ({
    center: t >= 1 ? to.center : (between(share) ?? to.center),
    zoom,
    bearing: from.bearing + turn * t,
    tilt: from.tilt + (to.tilt - from.tilt) * t,
  });
  if (far < Math.min(w0, w1) * 1e-3 || far / Math.max(w0, w1) < 1.2) {
    // Near by: no need to rise. The pan is shared out so that the end point moves evenly on screen while zooming.
    const k = Math.log2(w0 / w1);
    return (t) =>
      mixed(t, Math.abs(k) < 1e-6 ? t : (1 - 2 ** (-k * t)) / (1 - 2 ** -k), from.zoom + (to.zoom - from.zoom) * t);
  }
  const bend = (w: number, sign: number) => (w1 * w1 - w0 * w0 + sign * rho2 * rho2 * far * far) / (2 * w * rho2 * far);
  const r = (v: number) => Math.log(Math.sqrt(v * v + 1) - v);
  const r0 = r(bend(w0, 1));
  const r1 = r(bend(w1, -1));
  const length = (r1 - r0) / Math.sqrt(rho2);
  return (t) => {
    const s = t * length * Math.sqrt(rho2);
    const width = (w0 * Math.cosh(r0)) / Math.cosh(s + r0);
    const moved = (w0 / rho2) * (Math.cosh(r0) * Math.tanh(s + r0) - Math.sinh(r0));
    return mixed(t, Math.min(1, moved / far), t >= 1 ? to.zoom : from.zoom + Math.log2(w0 / width));
  };
}
