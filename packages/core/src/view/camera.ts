import { webMercatorHalf } from '../crs/web-mercator.js';
import { multiply, perspective, rotation, type Matrix } from './matrix.js';
import type { Surface } from './surface.js';
import type { View } from './view.js';

/** Height of the field of view in radians. */
export const fieldOfView = 0.62;

export interface Size {
  /** CSS pixels. */
  readonly width: number;
  readonly height: number;
}

/**
 * A view made ready for one surface and one size of map: turns surface metres into pixels and back. All in
 * doubles; pixels are CSS pixels from the top left corner.
 */
export class Camera {
  /** The middle of the view, in metres of the surface. */
  readonly middle: readonly [number, number, number];
  /** Surface metres in one CSS pixel at the middle. */
  readonly metresPerPixel: number;
  /** From metres off the middle to clip space. */
  readonly matrix: Matrix;
  /** Distance of the eye from the middle, in CSS pixels. */
  readonly distance: number;
  private readonly turn: readonly [number, number];
  private readonly lean: readonly [number, number];

  constructor(
    readonly view: View,
    readonly surface: Surface,
    readonly size: Size,
  ) {
    const at: [number, number, number] = [0, 0, 0];
    surface.forward(view.center[0], view.center[1], at);
    this.middle = at;
    this.metresPerPixel = (2 * webMercatorHalf) / (256 * 2 ** view.zoom);
    const { width, height } = size;
    const bearing = (view.bearing * Math.PI) / 180;
    const tilt = (view.tilt * Math.PI) / 180;
    this.turn = [Math.cos(bearing), Math.sin(bearing)];
    this.lean = [Math.cos(tilt), Math.sin(tilt)];
    this.distance = height / 2 / Math.tan(fieldOfView / 2);
    // The far plane just takes in the ground at the top edge, or 8 eye distances where the horizon is near.
    const top = tilt + fieldOfView / 2;
    const reach = top < 1.45 ? (this.distance * Math.cos(tilt) * Math.cos(fieldOfView / 2)) / Math.cos(top) : Infinity;
    const far = Math.min(reach, this.distance * 8) * 1.02 + 10;
    const scale = 1 / this.metresPerPixel;
    const eye = Float64Array.of(1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, -this.distance, 1);
    const scaling = Float64Array.of(scale, 0, 0, 0, 0, scale, 0, 0, 0, 0, scale, 0, 0, 0, 0, 1);
    const turned = multiply(rotation('x', -tilt), multiply(rotation('z', bearing), scaling));
    this.matrix = multiply(perspective(fieldOfView, width / height, this.distance / 50, far), multiply(eye, turned));
  }

  /** Clip coordinates x, y, w of a place in metres off the middle, into `out`. */
  clip(dx: number, dy: number, out: [number, number, number], dz = 0): void {
    const m = this.matrix;
    out[0] = m[0] * dx + m[4] * dy + m[8] * dz + m[12];
    out[1] = m[1] * dx + m[5] * dy + m[9] * dz + m[13];
    out[2] = m[3] * dx + m[7] * dy + m[11] * dz + m[15];
  }

  /** Pixel of a place in surface metres; the third number is how near it is (1 at the middle, below 1 beyond, 0 or less behind the eye). */
  toPixel(x: number, y: number): [number, number, number] {
    const c: [number, number, number] = [0, 0, 0];
    this.clip(x - this.middle[0], y - this.middle[1], c);
    const { width, height } = this.size;
    return [(c[0] / c[2] + 1) * 0.5 * width, (1 - c[1] / c[2]) * 0.5 * height, this.distance / c[2]];
  }

  /** Like {@link toPixel}, for the copy nearest the middle and without a new array; false for what lies behind the eye. */
  pixelInto(x: number, y: number, z: number, out: [number, number, number]): boolean {
    const { wrap } = this.surface;
    let dx = x - this.middle[0];
    if (wrap) dx -= Math.round(dx / wrap) * wrap;
    this.clip(dx, y - this.middle[1], out, z - this.middle[2]);
    const w = out[2];
    if (w <= 0) return false;
    out[0] = (out[0] / w + 1) * 0.5 * this.size.width;
    out[1] = (1 - out[1] / w) * 0.5 * this.size.height;
    out[2] = this.distance / w;
    return true;
  }

  /** Pixel of a lon/lat place; east and west are taken round so that the copy nearest the middle answers. */
  project(lon: number, lat: number): [number, number, number] {
    const at: [number, number, number] = [0, 0, 0];
    this.surface.forward(lon, lat, at);
    const { wrap } = this.surface;
    if (wrap) at[0] -= Math.round((at[0] - this.middle[0]) / wrap) * wrap;
    return this.toPixel(at[0], at[1]);
  }

  /** Surface metres below a pixel, or undefined above the horizon. */
  toSurface(px: number, py: number): [number, number] | undefined {
    const { width, height } = this.size;
    const [cosTilt, sinTilt] = this.lean;
    const u = px - width / 2;
    const v = height / 2 - py;
    // The ray from the eye through the pixel, in pixels, in the frame turned by the bearing only.
    const down = this.distance * cosTilt - v * sinTilt;
    if (down <= this.distance * 1e-3) return undefined;
    const eyeHeight = this.distance * cosTilt;
    const t = eyeHeight / down;
    const right = u * t;
    const ahead = (v * cosTilt + this.distance * sinTilt) * t - this.distance * sinTilt;
    const [c, s] = this.turn;
    return [
      this.middle[0] + (right * c + ahead * s) * this.metresPerPixel,
      this.middle[1] + (-right * s + ahead * c) * this.metresPerPixel,
    ];
  }

  /** `[longitude, latitude]` in degrees below a pixel, or undefined where there is no ground. */
  unproject(px: number, py: number): [number, number] | undefined {
    const at = this.toSurface(px, py);
    return at && this.surface.inverse(at[0], at[1], 0);
  }
}

/** The view that puts the lon/lat place `place` at a pixel, everything else as in `view`. */
export function viewHolding(
  view: View,
  surface: Surface,
  size: Size,
  place: readonly [number, number],
  pixel: readonly [number, number],
): View {
  const camera = new Camera(view, surface, size);
  const under = camera.toSurface(pixel[0], pixel[1]);
  if (!under) return view;
  const at: [number, number, number] = [0, 0, 0];
  surface.forward(place[0], place[1], at);
  const center = surface.inverse(
    camera.middle[0] + at[0] - under[0],
    Math.max(surface.bounds[1], Math.min(surface.bounds[3], camera.middle[1] + at[1] - under[1])),
    0,
  );
  return center ? { ...view, center } : view;
}
