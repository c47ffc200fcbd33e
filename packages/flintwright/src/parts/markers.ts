import { Fault, findColour, readPlace, type Camera, type Place } from '@flintwright/core';
import { spriteBox } from '../gl/atlas.js';
import { boxFloats } from '../gl/boxes.js';
import type { PopupOptions } from './popup.js';

export interface MarkerOptions {
  readonly at: Place;
  /** Name of an icon; see the icons of the guide, or the option `icons`. */
  readonly icon?: string;
  /** CSS colour of the shard; default slate. */
  readonly color?: string;
  /** CSS colour of icon and rim; default chalk. */
  readonly ink?: string;
  /** Height in CSS pixels; default 36. */
  readonly size?: number;
  /** Shown when the marker is pressed. */
  readonly popup?: Omit<PopupOptions, 'at'>;
}

/** A marker on the map. */
export interface Marker {
  readonly options: MarkerOptions;
  /** Where it stands, `[longitude, latitude]`. */
  readonly at: readonly [number, number];
  /** Changes some of its options. */
  change(options: Partial<MarkerOptions>): void;
  remove(): void;
}

interface Placed {
  readonly marker: Held;
  readonly x: number;
  readonly y: number;
  readonly size: number;
}

interface Held extends Marker {
  options: MarkerOptions;
  at: readonly [number, number];
}

const clear = [0, 0, 0, 0];
/** The tip of the shard, in units of the drawing from its middle. */
const tip = 23.6 - 12;

/** Markers, drawn over everything else and kept free of labels. */
export class Markers {
  private readonly held = new Set<Held>();

  constructor(
    private readonly spriteOf: (name: string) => number | undefined,
    private readonly changed: () => void,
  ) {}

  get size(): number {
    return this.held.size;
  }

  /** @throws Fault `place.*`, `marker.icon` or `marker.color` */
  add(options: MarkerOptions): Marker {
    this.check(options);
    const marker: Held = {
      options,
      at: readPlace(options.at),
      change: (change) => {
        // Most changes are of the place alone; the rest has been checked before.
        if (change.at !== undefined) marker.at = readPlace(change.at);
        for (const key in change) {
          if (key === 'at') continue;
          const next = { ...marker.options, ...change };
          this.check(next);
          marker.options = next;
          break;
        }
        this.touched();
      },
      remove: () => {
        if (this.held.delete(marker)) this.touched();
      },
    };
    this.held.add(marker);
    this.touched();
    return marker;
  }

  clear(): void {
    this.held.clear();
    this.touched();
  }

  /** Boxes on the screen that markers take up. */
  boxes(camera: Camera): [number, number, number, number][] {
    return this.placed(camera).map(({ x, y, size }) => [x - size * 0.36, y - size, x + size * 0.36, y]);
  }

  /** The topmost marker at a pixel. */
  find(camera: Camera, px: number, py: number): Marker | undefined {
    const hit = this.placed(camera).findLast(
      ({ x, y, size }) => Math.abs(px - x) < Math.max(12, size * 0.36) && py < y + 2 && py > y - size - 2,
    );
    return hit?.marker;
  }

  /** Writes the parts of all markers as boxes of the sprite atlas; `draw` is called whenever the list is full, and at the end. */
  write(camera: Camera, ratio: number, out: Float32Array, draw: (amount: number) => void): void {
    let n = 0;
    const shard = this.spriteOf('shard')!;
    const room = out.length / boxFloats;
    for (const { marker, x, y, size } of this.placed(camera)) {
      const { color = '#22303a', ink = '#f7f5ef', icon } = marker.options;
      if (n + 2 > room) {
        draw(n);
        n = 0;
      }
      const middle = y - (tip * size) / 24;
      const pale = findColour(ink)!;
      n = part(out, n, shard, x, middle, size, findColour(color)!, pale, 1.6, ratio);
      if (icon) n = part(out, n, this.spriteOf(icon)!, x, middle - size * 0.085, size * 0.44, pale, clear, 0, ratio);
    }
    draw(n);
  }

  /** Markers in view from the top down, with their pixels; kept for as long as neither the camera nor a marker changes. */
  private placed(camera: Camera): readonly Placed[] {
    if (this.kept?.camera === camera) return this.kept.list;
    const { width, height } = camera.size;
    const found: Placed[] = [];
    for (const marker of this.held) {
      const [x, y, near] = camera.project(marker.at[0], marker.at[1]);
      const size = marker.options.size ?? 36;
      if (near > 0 && x > -size && y > -size && x < width + size && y < height + 2 * size)
        found.push({ marker, x, y, size });
    }
    // Sorted as numbers: the row in quarters of a pixel, then the order in which they were found.
    const room = found.length || 1;
    const keys = Float64Array.from(found, ({ y }, i) => Math.round((y + 4096) * 4) * room + i).sort();
    const list = Array.from(keys, (key) => found[key % room]);
    this.kept = { camera, list };
    return list;
  }

  private kept: { readonly camera: Camera; readonly list: readonly Placed[] } | undefined;

  private touched(): void {
    this.kept = undefined;
    this.changed();
  }

  private check({ at, icon, color, ink }: MarkerOptions): void {
    readPlace(at);
    if (icon !== undefined && this.spriteOf(icon) === undefined) {
      throw new Fault(
        'marker.icon',
        `there is no icon "${icon}"`,
        'Name one of the built-in icons, or hand its SVG path to the map in the option "icons".',
      );
    }
    for (const text of [color, ink]) {
      if (text !== undefined && !findColour(text))
        throw new Fault(
          'marker.color',
          `${JSON.stringify(text)} is not a CSS colour`,
          'Write a colour such as "#d98a2b".',
        );
    }
  }
}

function part(
  out: Float32Array,
  n: number,
  sprite: number,
  x: number,
  y: number,
  size: number,
  color: readonly number[],
  rim: readonly number[],
  rimWidth: number,
  ratio: number,
): number {
  const o = n * boxFloats;
  if (o + boxFloats > out.length) return n;
  const { uv, cellPerSize, fieldPerPixel } = spriteBox(sprite);
  out[o] = Math.round(x * ratio) / ratio;
  out[o + 1] = Math.round(y * ratio) / ratio;
  out[o + 2] = out[o + 3] = (size * cellPerSize) / 2;
  out.set(uv, o + 4);
  out.set(color, o + 8);
  out.set(rim, o + 12);
  const field = fieldPerPixel / size;
  out[o + 16] = rimWidth * field;
  out[o + 17] = field / ratio;
  out[o + 18] = 0;
  out[o + 19] = 0;
  return n + 1;
}
