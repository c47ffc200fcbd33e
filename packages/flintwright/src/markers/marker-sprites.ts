import { spriteBox } from '../gl/atlas.js';
import type { MarkerRows } from '../gl/marker-brush.js';
import type { HeldMarker } from './marker.js';
import type { MarkerPositions } from './marker-positions.js';

/** The tip of the shard below its middle, as a share of its size. */
export const tip = (23.6 - 12) / 24;
/** The middle of what a shard bears above its own, as a share of its size. */
export const seat = 0.085;
const clear = [0, 0, 0, 0];
/** Pixels of the rim. */
const rim = 1.6;
/** Boxes that each marker has room for, and texels of a box. */
const boxes = 2;
const boxTexels = 5;
const slotFloats = boxes * boxTexels * 4;

/** Number of an icon; undefined for none. */
export type SpriteOf = (name: string) => number | undefined;

/** One sprite of a marker: pixels from its middle down to its place, its height, and its colors multiplied by alpha. */
interface SpriteBox {
  readonly name: string;
  readonly y: number;
  readonly size: number;
  readonly color: readonly number[];
  readonly outline: readonly number[];
  readonly outlineWidth: number;
}

/** Appearance of drawn markers, by slot: boxes of the sprite atlas, made once and then only moved. */
export class MarkerSprites implements MarkerRows {
  texels = new Float32Array(0);
  changed: [number, number] | undefined;
  /** How many of its boxes a slot uses. */
  private counts = new Uint8Array(0);
  /** Where boxes stand, in the order in which they are drawn; see {@link list}. */
  places = new Float32Array(0);

  constructor(private readonly spriteOf: SpriteOf) {}

  /** Takes over what a marker looks like. */
  set({ slot, options, size, color, ink, shown }: HeldMarker): void {
    if (slot >= this.counts.length) this.grow(slot);
    this.counts[slot] = 0;
    // Words come from the atlas of texts.
    if (shown || options.words !== undefined) return;
    const { icon, shape, text, anchor } = options;
    if (shape !== undefined) {
      const y = anchor === 'bottom' ? -size / 2 : 0;
      this.put(slot, { name: shape, y, size, color, outline: ink, outlineWidth: rim });
      return;
    }
    const middle = (anchor === 'center' ? size / 2 : 0) - tip * size;
    this.put(slot, { name: 'shard', y: middle, size, color, outline: ink, outlineWidth: rim });
    if (icon === undefined || text !== undefined) return;
    this.put(slot, {
      name: icon,
      y: middle - size * seat,
      size: size * 0.44,
      color: ink,
      outline: clear,
      outlineWidth: 0,
    });
  }

  /** One box: how far its middle lies from the place, half its sides, its part of the atlas, colors, and its field in pixels. */
  private put(slot: number, { name, y, size, color, outline, outlineWidth }: SpriteBox): void {
    const { uv, cellPerSize, fieldPerPixel } = spriteBox(this.spriteOf(name)!);
    const half = (size * cellPerSize) / 2;
    const field = fieldPerPixel / size;
    const first = (slot * boxes + this.counts[slot]++) * boxTexels;
    this.texels.set([0, y, half, half, ...uv, ...color, ...outline, outlineWidth * field, field, 0, 0], first * 4);
    const last = first + boxTexels - 1;
    const { changed } = this;
    this.changed = changed ? [Math.min(changed[0], first), Math.max(changed[1], last)] : [first, last];
  }

  written(): void {
    this.changed = undefined;
  }

  /** Writes where the boxes of some slots stand into `places`, in the order of the slots; returns how many there are. */
  list(slots: Int32Array, standing: MarkerPositions): number {
    const { counts } = this;
    if (this.places.length < slots.length * boxes * 4) this.places = new Float32Array(slots.length * boxes * 8);
    const { places } = this;
    let o = 0;
    for (let i = 0; i < slots.length; i++) {
      const slot = slots[i];
      const scale = standing.scale(slot);
      // Markers that gave way are drawn without what they bear.
      const count = scale < 1 ? Math.min(1, counts[slot]) : counts[slot];
      for (let k = 0; k < count; k++) {
        places[o++] = standing.px(slot);
        places[o++] = standing.py(slot);
        places[o++] = (slot * boxes + k) * boxTexels;
        places[o++] = scale;
      }
    }
    return o / 4;
  }

  private grow(slot: number): void {
    const room = Math.max(64, 2 * slot);
    const texels = new Float32Array(room * slotFloats);
    texels.set(this.texels);
    const counts = new Uint8Array(room);
    counts.set(this.counts);
    this.texels = texels;
    this.counts = counts;
  }
}
