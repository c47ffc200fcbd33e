import type { Camera, CollisionGrid } from '@flintwright/core/internal';
import type { Extent, HeldMarker } from './marker.js';

/** Markers of one row of the screen, a quarter of a pixel high, are told apart by numbers below this; both together stay below 2^53. */
const mostMarkers = 2 ** 27;
/** Pixels that a rim may reach beyond its box. */
const margin = 4;
/** Steps for each marker after which putting them in order one by one is given up. */
const patience = 8;

/**
 * Where markers stand in surface meters and on the screen, in plain lists by slot, so that ten thousand of them can move in every frame.
 */
export class MarkerPositions {
  private markers: (HeldMarker | undefined)[] = [];
  private readonly free: number[] = [];
  /** Longitude and latitude of each slot. */
  private places = new Float64Array(0);
  /** x, y, z of each slot, in meters of `surface`; x is NaN where the surface does not reach. */
  private meters = new Float64Array(0);
  private pixels = new Float64Array(0);
  /** Half the width of each slot's box, and what of it lies above and below its place, in pixels; and the share of it that is shown. */
  private reaches = new Float32Array(0);
  private scales = new Float32Array(0);
  /** Place in the order from the top of the screen down, and how many markers came before. */
  private ranks = new Float64Array(0);
  private serials = new Float64Array(0);
  /** Whether the meters of a slot are to be worked out anew. */
  private stale = new Uint8Array(0);
  private surface: object | undefined;
  /** All slots, those last in view first and from the top down. */
  private order = new Int32Array(0);
  private rest = new Int32Array(0);
  private count = 0;
  private thinned = false;
  private serial = 0;

  /** Gives a marker its slot. */
  add(marker: HeldMarker): number {
    const slot = this.free.pop() ?? this.markers.length;
    this.markers[slot] = marker;
    if (this.count === this.order.length || slot >= this.stale.length) this.grow();
    this.serials[slot] = this.serial++;
    this.scales[slot] = 1;
    this.order[this.count++] = slot;
    this.move(slot, marker.at);
    return slot;
  }

  /** Puts a slot at a place. */
  move(slot: number, [lon, lat]: readonly [number, number]): void {
    this.places[2 * slot] = lon;
    this.places[2 * slot + 1] = lat;
    this.stale[slot] = 1;
  }

  /** Says how far a slot reaches at its full size. */
  resize(slot: number, { half, above, below }: Extent): void {
    this.reaches[3 * slot] = half;
    this.reaches[3 * slot + 1] = above;
    this.reaches[3 * slot + 2] = below;
  }

  remove(slot: number): void {
    this.markers[slot] = undefined;
    this.thinned = true;
  }

  /** The marker of a slot that {@link place} found. */
  at(slot: number): HeldMarker {
    return this.markers[slot]!;
  }

  px(slot: number): number {
    return this.pixels[2 * slot];
  }

  py(slot: number): number {
    return this.pixels[2 * slot + 1];
  }

  /** Share of its size that a slot is drawn at. */
  scale(slot: number): number {
    return this.scales[slot];
  }

  setScale(slot: number, scale: number): void {
    this.scales[slot] = scale;
  }

  left(slot: number): number {
    return this.pixels[2 * slot] - this.reaches[3 * slot] * this.scales[slot];
  }

  top(slot: number): number {
    return this.pixels[2 * slot + 1] - this.reaches[3 * slot + 1] * this.scales[slot];
  }

  right(slot: number): number {
    return this.pixels[2 * slot] + this.reaches[3 * slot] * this.scales[slot];
  }

  bottom(slot: number): number {
    return this.pixels[2 * slot + 1] + this.reaches[3 * slot + 2] * this.scales[slot];
  }

  /** Gives the room of a slot's box away. */
  take(crowd: CollisionGrid, slot: number): void {
    crowd.take(this.left(slot), this.top(slot), this.right(slot), this.bottom(slot));
  }

  isFree(crowd: CollisionGrid, slot: number): boolean {
    return crowd.isFree(this.left(slot), this.top(slot), this.right(slot), this.bottom(slot));
  }

  /** Whether one marker was added before another. */
  isOlder(slot: number, other: number): boolean {
    return this.serials[slot] < this.serials[other];
  }

  /** Slots of the markers in view, those lowest on the screen last; the list is written anew by the next call. */
  place(camera: Camera): Int32Array {
    if (this.thinned) this.compact();
    const { surface } = camera;
    const { width, height } = camera.size;
    const { places, meters, pixels, reaches, ranks, serials, stale, order, rest } = this;
    if (surface !== this.surface) stale.fill(1);
    this.surface = surface;
    const all = order.subarray(0, this.count);
    const at: [number, number, number] = [0, 0, 0];
    for (let k = 0; k < all.length; k++) {
      const slot = all[k];
      if (!stale[slot]) continue;
      const reached = surface.forward(places[2 * slot], places[2 * slot + 1], at);
      meters[3 * slot] = reached ? at[0] : NaN;
      meters[3 * slot + 1] = at[1];
      meters[3 * slot + 2] = at[2];
      stale[slot] = 0;
    }
    camera.pixelsInto(meters, all, pixels);
    let [seen, unseen] = [0, 0];
    for (let k = 0; k < all.length; k++) {
      const slot = all[k];
      const [x, y] = [pixels[2 * slot], pixels[2 * slot + 1]];
      const half = reaches[3 * slot] + margin;
      // A place out of sight is NaN, and in none of these.
      const inView =
        x >= -half &&
        x <= width + half &&
        y >= -reaches[3 * slot + 2] - margin &&
        y <= height + reaches[3 * slot + 1] + margin;
      if (!inView) {
        rest[unseen++] = slot;
        continue;
      }
      ranks[slot] = Math.round((y + 4096) * 4) * mostMarkers + serials[slot];
      order[seen++] = slot;
    }
    order.set(rest.subarray(0, unseen), seen);
    const found = order.subarray(0, seen);
    this.sort(found);
    return found;
  }

  /**
   * Puts slots in order from the top down, those of one row as they were added. From frame to frame hardly any changes its place, so each
   * is moved up past those that it has overtaken; where that takes too long, all are sorted.
   */
  private sort(slots: Int32Array): void {
    const { ranks } = this;
    let left = patience * slots.length;
    for (let i = 1; i < slots.length && left >= 0; i++) {
      const slot = slots[i];
      const rank = ranks[slot];
      let k = i;
      for (; k > 0 && ranks[slots[k - 1]] > rank; k--) slots[k] = slots[k - 1];
      slots[k] = slot;
      left -= i - k;
    }
    if (left < 0) slots.sort((a, b) => ranks[a] - ranks[b]);
  }

  /** Takes out the slots of markers that are gone, which may then be given again. */
  private compact(): void {
    const { order, markers } = this;
    let kept = 0;
    for (let k = 0; k < this.count; k++) {
      if (markers[order[k]]) order[kept++] = order[k];
      else this.free.push(order[k]);
    }
    this.count = kept;
    this.thinned = false;
  }

  private grow(): void {
    const room = Math.max(64, 2 * this.order.length);
    const longer = <T extends Float64Array | Float32Array | Int32Array | Uint8Array>(list: T, into: T): T => {
      into.set(list);
      return into;
    };
    this.places = longer(this.places, new Float64Array(2 * room));
    this.reaches = longer(this.reaches, new Float32Array(3 * room));
    this.scales = longer(this.scales, new Float32Array(room));
    this.meters = longer(this.meters, new Float64Array(3 * room));
    this.pixels = longer(this.pixels, new Float64Array(2 * room));
    this.ranks = longer(this.ranks, new Float64Array(room));
    this.serials = longer(this.serials, new Float64Array(room));
    this.stale = longer(this.stale, new Uint8Array(room));
    this.order = longer(this.order, new Int32Array(room));
    this.rest = new Int32Array(room);
  }
}
