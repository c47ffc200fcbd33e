import { webMercatorHalf } from '../crs/web-mercator.js';
import { directions } from './globe.js';
import { multiply, perspective, rotation, translated, type Matrix } from './matrix.js';
import type { Surface } from './surface.js';
import type { View } from './view.js';

/** Height of the field of view in radians. */
export const fieldOfView = 0.62;

export interface Size {
  /** CSS pixels. */
  readonly width: number;
  readonly height: number;
}

type Triple = [number, number, number];
type Axis = readonly [number, number, number];

/** Where the numbers of a mesh are counted from, and in which directions; see `TileFrame`. */
export interface Frame {
  readonly anchor: readonly [number, number, number];
  readonly east?: readonly [number, number, number];
  readonly north?: readonly [number, number, number];
  readonly up?: readonly [number, number, number];
}

/**
 * A view made ready for one surface and one size of map: turns surface meters into pixels and back. All in
 * doubles; pixels are CSS pixels from the top left corner.
 */
export class Camera {
  /** The middle of the view, in meters of the surface. */
  readonly middle: readonly [number, number, number];
  /** Surface meters in one CSS pixel at the middle. */
  readonly metresPerPixel: number;
  /** From meters off the middle, along the axes of the surface, to clip space. */
  readonly matrix: Matrix;
  /** Distance of the eye from the middle, in CSS pixels. */
  readonly distance: number;
  /** The near and the far plane, in CSS pixels from the eye. */
  readonly near: number;
  readonly farthest: number;
  private readonly turn: readonly [number, number];
  private readonly lean: readonly [number, number];
  /** On a sphere: east, north and up at the middle, along the axes of the surface. */
  private readonly axes: readonly [Axis, Axis, Axis] | undefined;
  /** On a sphere: the eye, in radii from its center. A point P (in radii) is in sight when P · eye is 1 or more. */
  readonly eye: readonly [number, number, number] | undefined;

  constructor(
    readonly view: View,
    readonly surface: Surface,
    readonly size: Size,
  ) {
    const at: Triple = [0, 0, 0];
    if (!surface.forward(view.center[0], view.center[1], at)) surface.forward(surface.home[0], surface.home[1], at);
    this.middle = at;
    this.metresPerPixel = (2 * webMercatorHalf) / (256 * 2 ** view.zoom);
    const { width, height } = size;
    const bearing = (view.bearing * Math.PI) / 180;
    const tilt = (view.tilt * Math.PI) / 180;
    this.turn = [Math.cos(bearing), Math.sin(bearing)];
    this.lean = [Math.cos(tilt), Math.sin(tilt)];
    this.distance = height / 2 / Math.tan(fieldOfView / 2);
    this.near = this.distance / 50;
    this.farthest = this.far(tilt);
    if (surface.radius) {
      const { east, north, up } = directions(at);
      this.axes = [east, north, up];
    }
    const scale = 1 / this.metresPerPixel;
    const away = Float64Array.of(1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, -this.distance, 1);
    const scaling = Float64Array.of(scale, 0, 0, 0, 0, scale, 0, 0, 0, 0, scale, 0, 0, 0, 0, 1);
    const turned = multiply(rotation('x', -tilt), multiply(rotation('z', bearing), scaling));
    const flat = multiply(perspective(fieldOfView, width / height, this.near, this.farthest), multiply(away, turned));
    this.matrix = this.axes ? multiply(flat, intoAxes(this.axes)) : flat;
    if (this.axes) {
      const [dx, dy, dz] = this.fromAxes(this.eyeOffset());
      this.eye = [(at[0] + dx) / surface.radius, (at[1] + dy) / surface.radius, (at[2] + dz) / surface.radius];
    }
  }

  /** The far plane: it just takes in the ground at the top edge, or 8 eye distances where the horizon is near; on a sphere, its horizon. */
  private far(tilt: number): number {
    const { radius } = this.surface;
    const top = tilt + fieldOfView / 2;
    const reach = top < 1.45 ? (this.distance * Math.cos(tilt) * Math.cos(fieldOfView / 2)) / Math.cos(top) : Infinity;
    if (!radius) return Math.min(reach, this.distance * 8) * 1.02 + 10;
    const r = radius / this.metresPerPixel;
    const d = this.distance;
    const horizon = Math.sqrt(d * d + 2 * r * d * Math.cos(tilt));
    return Math.min(horizon, d * 12) * 1.05 + 10;
  }

  /** The eye off the middle, in meters to the east, north and up. */
  private eyeOffset(): Triple {
    const [, sinB] = this.turn;
    const [cosB] = this.turn;
    const [cosT, sinT] = this.lean;
    const d = this.distance * this.metresPerPixel;
    return [-sinB * d * sinT, -cosB * d * sinT, d * cosT];
  }

  private fromAxes([e, n, u]: readonly [number, number, number]): Triple {
    if (!this.axes) return [e, n, u];
    const [east, north, up] = this.axes;
    return [0, 1, 2].map((k) => east[k] * e + north[k] * n + up[k] * u) as Triple;
  }

  /** Clip coordinates x, y, w of a place in meters off the middle, into `out`. */
  clip(dx: number, dy: number, out: [number, number, number], dz = 0): void {
    const m = this.matrix;
    out[0] = m[0] * dx + m[4] * dy + m[8] * dz + m[12];
    out[1] = m[1] * dx + m[5] * dy + m[9] * dz + m[13];
    out[2] = m[3] * dx + m[7] * dy + m[11] * dz + m[15];
  }

  /** From positions in a frame to clip space; `shift` meters further to the east, for copies of a surface that wraps. */
  frameMatrix({ anchor, east, north, up }: Frame, shift: number, out: Float32Array | Float64Array): void {
    const { middle } = this;
    const [dx, dy, dz] = [anchor[0] + shift - middle[0], anchor[1] - middle[1], anchor[2] - middle[2]];
    if (!east || !north || !up) {
      translated(this.matrix, dx, dy, dz, out);
      return;
    }
    const m = this.matrix;
    for (let row = 0; row < 4; row++) {
      const [a, b, c] = [m[row], m[4 + row], m[8 + row]];
      out[row] = a * east[0] + b * east[1] + c * east[2];
      out[4 + row] = a * north[0] + b * north[1] + c * north[2];
      out[8 + row] = a * up[0] + b * up[1] + c * up[2];
      out[12 + row] = a * dx + b * dy + c * dz + m[12 + row];
    }
  }

  /** Whether a place in surface meters faces the eye; always so on a plane. */
  faces(x: number, y: number, z: number): boolean {
    if (!this.eye) return true;
    const [ex, ey, ez] = this.eye;
    return (x * ex + y * ey + z * ez) / this.surface.radius >= 1;
  }

  /** How far a place in surface meters is within the horizon: 1 in the middle of a sphere's disc, 0 at its rim, below beyond; 1 on a plane. */
  sight(x: number, y: number, z: number): number {
    if (!this.eye) return 1;
    const [ex, ey, ez] = this.eye;
    return ((x * ex + y * ey + z * ez) / this.surface.radius - 1) / Math.max(1e-9, Math.hypot(ex, ey, ez) - 1);
  }

  /** Pixel of a place in surface meters; the third number is how near it is (1 at the middle, below 1 beyond, 0 or less out of sight). */
  toPixel(x: number, y: number, z = 0): [number, number, number] {
    const c: Triple = [0, 0, 0];
    this.clip(x - this.middle[0], y - this.middle[1], c, z - this.middle[2]);
    const { width, height } = this.size;
    const near = this.faces(x, y, z) ? this.distance / c[2] : -1;
    return [(c[0] / c[2] + 1) * 0.5 * width, (1 - c[1] / c[2]) * 0.5 * height, near];
  }

  /**
   * Like {@link toPixel}, for many places at once, each in the copy nearest the middle.
   *
   * @param meters x, y and z of each slot
   * @param slots which slots are asked for
   * @param pixels receives x and y of each of them; x is NaN for what is out of sight, or has no x
   */
  pixelsInto(meters: Float64Array, slots: Int32Array, pixels: Float64Array): void {
    const { wrap } = this.surface;
    const [mx, my, mz] = this.middle;
    const [m0, m1, , m3, m4, m5, , m7, m8, m9, , m11, m12, m13, , m15] = this.matrix;
    const [halfWidth, halfHeight] = [this.size.width / 2, this.size.height / 2];
    for (let k = 0; k < slots.length; k++) {
      const slot = slots[k];
      const [x, y, z] = [meters[3 * slot], meters[3 * slot + 1], meters[3 * slot + 2]];
      let dx = x - mx;
      if (wrap) dx -= Math.round(dx / wrap) * wrap;
      const [dy, dz] = [y - my, z - mz];
      const w = m3 * dx + m7 * dy + m11 * dz + m15;
      const seen = w > 0 && (!this.eye || this.faces(x, y, z));
      pixels[2 * slot] = seen ? ((m0 * dx + m4 * dy + m8 * dz + m12) / w + 1) * halfWidth : NaN;
      pixels[2 * slot + 1] = (1 - (m1 * dx + m5 * dy + m9 * dz + m13) / w) * halfHeight;
    }
  }

  /**
   * Pixel of a lon/lat place; east and west are taken round so that the copy nearest the middle answers. The third number is 0 or less
   * where the place is out of sight, or not on the surface at all.
   */
  project(lon: number, lat: number): [number, number, number] {
    const at: Triple = [0, 0, 0];
    if (!this.surface.forward(lon, lat, at)) return [-1e6, -1e6, -1];
    const { wrap } = this.surface;
    if (wrap) at[0] -= Math.round((at[0] - this.middle[0]) / wrap) * wrap;
    return this.toPixel(at[0], at[1], at[2]);
  }

  /** Surface meters below a pixel, or undefined where there is no ground. */
  toSurface(px: number, py: number): [number, number, number] | undefined {
    const { width, height } = this.size;
    const [cosTilt, sinTilt] = this.lean;
    const u = px - width / 2;
    const v = height / 2 - py;
    if (this.axes) return this.onSphere(u, v);
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
      0,
    ];
  }

  /** Where the ray through a pixel off the middle first meets the sphere. */
  private onSphere(u: number, v: number): Triple | undefined {
    const [c, s] = this.turn;
    const [cosT, sinT] = this.lean;
    const mpp = this.metresPerPixel;
    const [ex, ey, ez] = this.eyeOffset().map((m) => m / mpp);
    const [dx, dy, dz] = [u * c + v * s * cosT - ex, -u * s + v * c * cosT - ey, v * sinT - ez];
    const r = this.surface.radius / mpp;
    // |eye + t·d + (0, 0, r)|² = r², with r² taken out of both sides before it can swallow the rest.
    const a = dx * dx + dy * dy + dz * dz;
    const b = dx * ex + dy * ey + dz * (ez + r);
    const k = ex * ex + ey * ey + ez * ez + 2 * r * ez;
    const disc = b * b - a * k;
    if (disc < 0 || b >= 0) return undefined;
    const t = k / (-b + Math.sqrt(disc));
    const [x, y, z] = this.fromAxes([(ex + t * dx) * mpp, (ey + t * dy) * mpp, (ez + t * dz) * mpp]);
    return [this.middle[0] + x, this.middle[1] + y, this.middle[2] + z];
  }

  /** `[longitude, latitude]` in degrees below a pixel, or undefined where there is no ground. */
  unproject(px: number, py: number): [number, number] | undefined {
    const at = this.toSurface(px, py);
    return at && this.surface.inverse(at[0], at[1], at[2]);
  }
}

/** The matrix that turns offsets along the axes of the surface into east, north and up. */
const intoAxes = ([e, n, u]: readonly [Axis, Axis, Axis]): Matrix =>
  Float64Array.of(e[0], n[0], u[0], 0, e[1], n[1], u[1], 0, e[2], n[2], u[2], 0, 0, 0, 0, 1);

/** The view that puts the lon/lat place `place` at a pixel, everything else as in `view`. */
export function viewHolding(
  view: View,
  surface: Surface,
  size: Size,
  place: readonly [number, number],
  pixel: readonly [number, number],
): View {
  if (surface.radius) return holdingOnSphere(view, surface, size, place, pixel);
  const camera = new Camera(view, surface, size);
  const under = camera.toSurface(pixel[0], pixel[1]);
  const at: Triple = [0, 0, 0];
  if (!under || !surface.forward(place[0], place[1], at)) return view;
  const center = surface.inverse(
    camera.middle[0] + at[0] - under[0],
    Math.max(surface.bounds[1], Math.min(surface.bounds[3], camera.middle[1] + at[1] - under[1])),
    0,
  );
  return center ? { ...view, center } : view;
}

/** On a sphere the middle is moved by what is still missing, a few times over. */
function holdingOnSphere(
  view: View,
  surface: Surface,
  size: Size,
  place: readonly [number, number],
  pixel: readonly [number, number],
): View {
  let next = view;
  for (let i = 0; i < 4; i++) {
    const under = new Camera(next, surface, size).unproject(pixel[0], pixel[1]);
    if (!under) return next;
    const lon = place[0] - under[0];
    const [dLon, dLat] = [lon - 360 * Math.round(lon / 360), place[1] - under[1]];
    // Near a pole a small way is many degrees; leaps are cut.
    const cut = Math.min(1, 30 / Math.max(1e-9, Math.abs(dLon)));
    next = {
      ...next,
      center: [next.center[0] + dLon * cut, Math.max(-89.9, Math.min(89.9, next.center[1] + dLat))],
    };
  }
  return next;
}
