import { Fault, getCrs, transformer, type SheetWms, type TileAddress } from '@flintwright/core';
import { gridHalf, mercatorGrid } from '@flintwright/core/internal';

type Pair = readonly [number, number];
type Corners = readonly [Pair, Pair, Pair, Pair];

/** Pixels of a tile that a picture is laid into. */
const side = 256;
/** Steps of the lattice on which places are worked out exactly; between them they are interpolated. */
const steps = 16;
/** Longest side, in pixels, of the picture that is kept. */
const greatest = 4096;

/** Where a picture lies: the share of its width and height for coordinates of its system. */
type ToShare = (x: number, y: number, out: [number, number]) => void;

/**
 * The projective mapping of four corners onto the unit square: the inverse of that of the square onto the corners (P. S. Heckbert,
 * Fundamentals of Texture Mapping and Image Warping, 1989, section 2.2.3).
 *
 * @param corners upper left, upper right, lower right, lower left
 * @throws Fault `picture.corners` where they span no area
 */
export function shareOfCorners([[x0, y0], [x1, y1], [x2, y2], [x3, y3]]: Corners): ToShare {
  const [dx1, dx2, dy1, dy2] = [x1 - x2, x3 - x2, y1 - y2, y3 - y2];
  const [sx, sy] = [x0 - x1 + x2 - x3, y0 - y1 + y2 - y3];
  const det = dx1 * dy2 - dx2 * dy1;
  const [g, h] = [(sx * dy2 - dx2 * sy) / det, (dx1 * sy - sx * dy1) / det];
  const [a, b, c] = [x1 - x0 + g * x1, x3 - x0 + h * x3, x0];
  const [d, e, f] = [y1 - y0 + g * y1, y3 - y0 + h * y3, y0];
  // The inverse, up to a factor that falls out: the adjugate.
  const [A, B, C] = [e - f * h, c * h - b, b * f - c * e];
  const [D, E, F] = [f * g - d, a - c * g, c * d - a * f];
  const [G, H, I] = [d * h - e * g, b * g - a * h, a * e - b * d];
  if (!(Math.abs(a * A + b * D + c * G) > 0) || !Number.isFinite(det) || det === 0)
    throw new Fault(
      'picture.corners',
      'the corners of the picture enclose no area',
      'Give the upper left, upper right, lower right and lower left corner, in this order.',
    );
  return (x, y, out) => {
    const w = G * x + H * y + I;
    out[0] = (A * x + B * y + C) / w;
    out[1] = (D * x + E * y + F) / w;
  };
}

/** The mapping of bounds, west to east and north to south, onto the unit square; in degrees it goes round the world. */
export function shareOfBounds([west, south, east, north]: readonly number[], isGeographic: boolean): ToShare {
  if (!(north > south) || !(isGeographic ? east !== west : east > west))
    throw new Fault(
      'picture.bounds',
      `the bounds [${west}, ${south}, ${east}, ${north}] of the picture are empty`,
      'Write [west, south, east, north].',
    );
  const width = isGeographic && east < west ? east + 360 - west : east - west;
  return (x, y, out) => {
    // A place to the west of the picture may be nearer to its eastern edge.
    const away = isGeographic ? ((((x - west - width / 2 + 180) % 360) + 360) % 360) - 180 + width / 2 : x - west;
    out[0] = away / width;
    out[1] = (north - y) / (north - south);
  };
}

/** One level of a picture, its colors multiplied by alpha. */
interface Level {
  readonly width: number;
  readonly height: number;
  readonly rgba: Uint8ClampedArray;
}

/** A picture that lies over a place, laid into the tiles of web Mercator, so that any surface can show it. */
export class PlacedPicture {
  /** Halved from one to the next. */
  private readonly levels: readonly Level[];
  private readonly share: ToShare;
  private readonly toSystem: (lon: number, lat: number, out: [number, number]) => boolean;

  /**
   * @param bitmap the picture
   * @param where bounds or corners in the coordinates of a system
   * @param crs the system; default degrees
   * @throws Fault `picture.corners`, `picture.bounds` or `crs.*`
   */
  constructor(
    bitmap: ImageBitmap,
    where: { readonly bounds?: readonly number[] | undefined; readonly corners?: readonly Pair[] | undefined },
    crs: string | undefined,
  ) {
    const system = systemOf(crs ?? 'OGC:CRS84');
    const to = transformer(getCrs('OGC:CRS84'), system);
    this.toSystem = (lon, lat, out) => to(lon, lat, out);
    this.share = where.corners
      ? shareOfCorners(where.corners as unknown as Corners)
      : shareOfBounds(where.bounds!, system.isGeographic);
    this.levels = halved(bitmap);
  }

  /** Level of web Mercator whose pixels are about as large as the picture's, from places of the picture itself. */
  get finest(): number {
    const [{ width }] = this.levels;
    let z = 0;
    for (; z < 22; z++) {
      const [u0, u1] = this.spanAt(z);
      if (u1 - u0 > 0 && (u1 - u0) * width <= 1.2) break;
    }
    return z;
  }

  /** Shares of the picture's width that one tile pixel of a level takes up, somewhere in the picture. */
  private spanAt(z: number): [number, number] {
    const at: [number, number] = [0, 0];
    const step = (2 * gridHalf) / 2 ** z / side;
    const [x, y] = this.middle;
    const u = (dx: number, dy: number) => {
      const [lon, lat] = mercatorGrid.place(x + dx, y + dy);
      if (!this.toSystem(lon, lat, at)) return [NaN, NaN];
      this.share(at[0], at[1], at);
      return [...at];
    };
    const [here, beside] = [u(0, 0), u(step, 0)];
    return [0, Math.hypot(beside[0] - here[0], beside[1] - here[1])];
  }

  /** A place in the middle of the picture, in meters of web Mercator; found by halving the world. */
  private get middle(): [number, number] {
    this.centre ??= this.findMiddle();
    return this.centre;
  }

  private centre: [number, number] | undefined;

  private findMiddle(): [number, number] {
    const at: [number, number] = [0, 0];
    let best: [number, number] = [0, 0];
    let [x0, y0, size] = [0, 0, 2 * gridHalf];
    for (let round = 0; round < 24; round++) {
      let nearest = Infinity;
      for (let k = 0; k < 289; k++) {
        const [x, y] = [x0 + ((k % 17) / 16 - 0.5) * size, y0 + (Math.floor(k / 17) / 16 - 0.5) * size];
        const [lon, lat] = mercatorGrid.place(x, y);
        if (!this.toSystem(lon, lat, at)) continue;
        this.share(at[0], at[1], at);
        const away = Math.hypot(at[0] - 0.5, at[1] - 0.5);
        if (away < nearest) [nearest, best] = [away, [x, y]];
      }
      if (nearest < 0.2) break;
      [x0, y0] = best;
      size /= 6;
    }
    return best;
  }

  /** The picture as one tile has it; undefined where none of it lies in the tile. */
  tile({ z, x, y }: TileAddress): ImageData | undefined {
    const span = (2 * gridHalf) / 2 ** z;
    const lattice = new Float64Array(2 * (steps + 1) ** 2);
    const at: [number, number] = [0, 0];
    for (let k = 0; k < (steps + 1) ** 2; k++) {
      const [i, j] = [k % (steps + 1), Math.floor(k / (steps + 1))];
      const [lon, lat] = mercatorGrid.place((x + i / steps) * span - gridHalf, gridHalf - (y + j / steps) * span);
      if (this.toSystem(lon, lat, at)) this.share(at[0], at[1], at);
      else at.fill(NaN);
      lattice.set(at, 2 * k);
    }
    if (!touches(lattice)) return undefined;
    const out = new ImageData(side, side);
    const cell = side / steps;
    let drawn = false;
    for (let j = 0; j < steps; j++)
      for (let i = 0; i < steps; i++) {
        const corner = 2 * (j * (steps + 1) + i);
        drawn = this.fill(out.data, lattice, corner, i * cell, j * cell, cell) || drawn;
      }
    return drawn ? out : undefined;
  }

  /** Fills one cell of the lattice. */
  private fill(
    out: Uint8ClampedArray,
    lattice: Float64Array,
    corner: number,
    px: number,
    py: number,
    cell: number,
  ): boolean {
    const below = corner + 2 * (steps + 1);
    const [u0, v0, u1, v1] = [lattice[corner], lattice[corner + 1], lattice[corner + 2], lattice[corner + 3]];
    const [u2, v2, u3, v3] = [lattice[below], lattice[below + 1], lattice[below + 2], lattice[below + 3]];
    const [{ width, height }] = this.levels;
    const pixels =
      (Math.hypot((u1 - u0) * width, (v1 - v0) * height) + Math.hypot((u2 - u0) * width, (v2 - v0) * height)) /
      2 /
      cell;
    const level = this.levels[Math.max(0, Math.min(this.levels.length - 1, Math.round(Math.log2(pixels || 1))))];
    let drawn = false;
    for (let b = 0; b < cell; b++) {
      const t = (b + 0.5) / cell;
      for (let a = 0; a < cell; a++) {
        const s = (a + 0.5) / cell;
        const u = (u0 + (u1 - u0) * s) * (1 - t) + (u2 + (u3 - u2) * s) * t;
        const v = (v0 + (v1 - v0) * s) * (1 - t) + (v2 + (v3 - v2) * s) * t;
        if (!(u >= 0 && u <= 1 && v >= 0 && v <= 1)) continue;
        sample(level, u, v, out, 4 * ((py + b) * side + px + a));
        drawn = true;
      }
    }
    return drawn;
  }
}

/** Whether a lattice may hold a part of the unit square. */
function touches(lattice: Float64Array): boolean {
  let [u0, u1, v0, v1] = [Infinity, -Infinity, Infinity, -Infinity];
  for (let i = 0; i < lattice.length; i += 2) {
    const [u, v] = [lattice[i], lattice[i + 1]];
    if (Number.isNaN(u)) continue;
    [u0, u1, v0, v1] = [Math.min(u0, u), Math.max(u1, u), Math.min(v0, v), Math.max(v1, v)];
  }
  return u0 <= 1 && u1 >= 0 && v0 <= 1 && v1 >= 0;
}

/** The color at a place of a level, mixed of the four pixels round it. */
function sample({ width, height, rgba }: Level, u: number, v: number, out: Uint8ClampedArray, to: number): void {
  const [x, y] = [
    Math.max(0, Math.min(width - 1, u * width - 0.5)),
    Math.max(0, Math.min(height - 1, v * height - 0.5)),
  ];
  const [x0, y0] = [Math.floor(x), Math.floor(y)];
  const [x1, y1] = [Math.min(width - 1, x0 + 1), Math.min(height - 1, y0 + 1)];
  const [s, t] = [x - x0, y - y0];
  const at = (px: number, py: number, c: number) => rgba[4 * (py * width + px) + c];
  const mixed = [0, 1, 2, 3].map(
    (c) => (at(x0, y0, c) * (1 - s) + at(x1, y0, c) * s) * (1 - t) + (at(x0, y1, c) * (1 - s) + at(x1, y1, c) * s) * t,
  );
  const alpha = mixed[3];
  // Image data are not multiplied by alpha.
  for (let c = 0; c < 3; c++) out[to + c] = alpha > 0 ? (mixed[c] * 255) / alpha : 0;
  out[to + 3] = alpha;
}

/** The picture at its own size, if that is not too large, and halved down to a few pixels. */
function halved(bitmap: ImageBitmap): Level[] {
  const scale = Math.min(1, greatest / Math.max(bitmap.width, bitmap.height));
  let [width, height] = [Math.max(1, Math.round(bitmap.width * scale)), Math.max(1, Math.round(bitmap.height * scale))];
  const levels: Level[] = [];
  let from: ImageBitmap | OffscreenCanvas = bitmap;
  for (;;) {
    const canvas = new OffscreenCanvas(width, height);
    const context = canvas.getContext('2d', { willReadFrequently: true })!;
    context.imageSmoothingQuality = 'high';
    context.drawImage(from, 0, 0, width, height);
    const { data } = context.getImageData(0, 0, width, height);
    for (let i = 0; i < data.length; i += 4)
      if (data[i + 3] < 255) for (let c = 0; c < 3; c++) data[i + c] = (data[i + c] * data[i + 3]) / 255;
    levels.push({ width, height, rgba: data });
    if (Math.max(width, height) <= 4) return levels;
    [width, height] = [Math.max(1, width >> 1), Math.max(1, height >> 1)];
    from = canvas;
  }
}

/** Whether a system is longitude before latitude, by the name that services give it (OGC 06-042, annex B.3) or that of the OGC. */
const isLonLat = (crs: string) => /^(OGC:)?CRS:?84$/i.test(crs);

/** A system by its code. @throws Fault `crs.*` */
const systemOf = (crs: string) => getCrs(isLonLat(crs) ? 'OGC:CRS84' : crs);

/** The box of a tile of web Mercator in a coordinate system, x (east) before y (north). */
export function boxIn(crs: string, { z, x, y }: TileAddress): [number, number, number, number] {
  const span = (2 * gridHalf) / 2 ** z;
  const [left, top] = [x * span - gridHalf, gridHalf - y * span];
  if (crs === 'EPSG:3857') return [left, top - span, left + span, top];
  const to = transformer(getCrs('OGC:CRS84'), systemOf(crs));
  const at: [number, number] = [0, 0];
  let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let k = 0; k < 81; k++) {
    const [lon, lat] = mercatorGrid.place(left + ((k % 9) / 8) * span, top - (Math.floor(k / 9) / 8) * span);
    if (!to(lon, lat, at)) continue;
    [x0, y0, x1, y1] = [Math.min(x0, at[0]), Math.min(y0, at[1]), Math.max(x1, at[0]), Math.max(y1, at[1])];
  }
  return [x0, y0, x1, y1];
}

/**
 * The address of a map from a Web Map Service (OGC 06-042, 7.3 GetMap): the box comes in the order of the axes that the authority of the
 * system gives (6.7.2), which for EPSG:4326 is latitude first.
 *
 * @param address of the service; what its query says already stays
 * @param wms layers, styles, system and format
 * @param box x (east) before y (north)
 * @param width pixels
 * @param height pixels
 */
export function getMapAddress(
  address: string,
  { layers, styles = [], crs = 'EPSG:3857', format = 'image/png' }: SheetWms,
  [x0, y0, x1, y1]: readonly [number, number, number, number],
  width = side,
  height = side,
): string {
  const isCrs84 = isLonLat(crs);
  const { definition, isGeographic } = systemOf(crs);
  const axes =
    definition.axes ?? (isGeographic && !isCrs84 ? (['north', 'east'] as const) : (['east', 'north'] as const));
  const northFirst = axes[0] === 'north' || axes[0] === 'south';
  const url = new URL(address);
  const parameters = {
    SERVICE: 'WMS',
    VERSION: '1.3.0',
    REQUEST: 'GetMap',
    LAYERS: layers.join(','),
    STYLES: styles.join(','),
    CRS: isCrs84 ? 'CRS:84' : crs,
    BBOX: (northFirst ? [y0, x0, y1, x1] : [x0, y0, x1, y1]).join(','),
    WIDTH: String(width),
    HEIGHT: String(height),
    FORMAT: format,
    TRANSPARENT: 'TRUE',
  };
  for (const [name, value] of Object.entries(parameters)) {
    for (const known of [...url.searchParams.keys()]) if (known.toUpperCase() === name) url.searchParams.delete(known);
    url.searchParams.set(name, value);
  }
  return url.href;
}
