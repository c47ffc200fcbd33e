import { Crowd, readPlace, type Camera } from '@flintwright/core';
import { textFieldPerPixel, type TextAtlas, type TextStyle } from '../gl/atlas.js';
import { BoxList } from '../gl/boxes.js';
import { extentOf, readMarker, type HeldMarker, type Marker, type MarkerOptions } from './marker.js';
import { MarkerElement, type Drag } from './marker-element.js';
import { seat, Shards, tip } from './marker-sprites.js';
import { Standing } from './marker-positions.js';

export type { Marker, MarkerOptions } from './marker.js';

const noHalo = [0, 0, 0, 0];
const lettering: TextStyle = {
  font: 'system-ui, "Noto Sans", sans-serif',
  weight: 700,
  style: 'normal',
  spacing: 0,
  wrap: 99,
  align: 'center',
};

export interface MarkersHost {
  /** Number of an icon; undefined for none. */
  sprite(name: string): number | undefined;
  /** Where elements of markers stand. */
  readonly over: HTMLElement;
  changed(): void;
  /** What places are. */
  space(): 'lonlat' | 'plane';
  /** A marker that is an element was pressed. */
  pressed(marker: Marker, event: Event): void;
  /** The place under a pixel. */
  toPlace(point: readonly [number, number]): [number, number] | undefined;
}

/** Markers, drawn over everything else and kept free of labels. */
export class Markers {
  private readonly held = new Set<HeldMarker>();
  private standing = new Standing();
  /** What the drawn ones look like. */
  readonly shards: Shards;
  /** Slots of those in view from the top down, for one camera. */
  private inSight: Int32Array = new Int32Array(0);
  private listed: Camera | undefined;
  private readonly elements = new Set<HeldMarker>();
  /** Whether some marker gives way where it gets crowded, and whether one bears a text. */
  private yielding = false;
  private lettered = false;

  constructor(private readonly host: MarkersHost) {
    this.shards = new Shards((name) => host.sprite(name));
  }

  get size(): number {
    return this.held.size;
  }

  /** All markers, in the order in which they were added. */
  get all(): readonly Marker[] {
    return [...this.held];
  }

  /** @throws Fault `place.*`, `marker.icon`, `marker.color`, `marker.text` or `marker.size` */
  add(options: MarkerOptions): Marker {
    const known = (name: string) => this.host.sprite(name) !== undefined;
    const marker: HeldMarker = {
      options,
      ...readMarker(options, known, this.host.space()),
      slot: -1,
      shown: undefined,
      change: (change) => {
        // One that was removed has no place any more; what stands there now is another's.
        if (marker.slot < 0) return;
        // Most changes are of the place alone.
        if (change.at !== undefined && isAlone(change)) {
          marker.at = readPlace(change.at, this.host.space());
          this.standing.move(marker.slot, marker.at);
          this.touched();
          return;
        }
        const next = { ...marker.options, at: marker.at, ...change };
        const { image, element, title } = marker.options;
        Object.assign(marker, readMarker(next, known, this.host.space()), { options: next });
        this.standing.move(marker.slot, marker.at);
        if (next.image !== image || next.element !== element || next.title !== title) this.undress(marker);
        this.dress(marker);
        this.touched();
      },
      remove: () => {
        if (!this.held.delete(marker)) return;
        this.standing.remove(marker.slot);
        marker.slot = -1;
        this.undress(marker);
        this.touched();
      },
    };
    marker.slot = this.standing.add(marker);
    this.held.add(marker);
    this.dress(marker);
    this.touched();
    return marker;
  }

  clear(): void {
    for (const marker of this.elements) this.undress(marker);
    for (const marker of this.held) marker.slot = -1;
    this.held.clear();
    this.standing = new Standing();
    this.touched();
  }

  /** Gives back the elements of markers. */
  destroy(): void {
    this.clear();
  }

  /** Takes the room on the screen that markers stand in. */
  reserve(camera: Camera, crowd: Crowd): void {
    const { standing } = this;
    for (const slot of this.placed(camera)) standing.take(crowd, slot);
  }

  /** The topmost marker at a pixel that is not an element of the page. */
  find(camera: Camera, px: number, py: number): Marker | undefined {
    const { standing } = this;
    const found = this.placed(camera).findLast(
      (slot) =>
        !standing.at(slot).shown &&
        Math.abs(px - standing.px(slot)) < Math.max(12, standing.right(slot) - standing.px(slot)) &&
        py < standing.bottom(slot) + 2 &&
        py > standing.top(slot) - 2,
    );
    return found === undefined ? undefined : standing.at(found);
  }

  /** Markers in view, those lowest on the screen last. */
  inView(camera: Camera): readonly Marker[] {
    return Array.from(this.placed(camera), (slot) => this.standing.at(slot));
  }

  /** Takes hold of a draggable marker: tells it where the pointer goes, and when it lets go. */
  grab(camera: Camera, [px, py]: readonly [number, number]): Drag | undefined {
    const marker = this.find(camera, px, py) as HeldMarker | undefined;
    return marker?.options.draggable ? this.dragging(marker, [px, py]) : undefined;
  }

  private dragging(marker: HeldMarker, from: readonly [number, number]): Drag {
    const { standing } = this;
    const [dx, dy] = [standing.px(marker.slot) - from[0], standing.py(marker.slot) - from[1]];
    return ([x, y], done) => {
      const at = this.host.toPlace([x + dx, y + dy]);
      if (at) marker.change({ at });
      marker.options.onMove?.(marker.at, done);
    };
  }

  /** Pushes a draggable marker by some pixels. */
  nudge(camera: Camera, marker: Marker, dx: number, dy: number): void {
    this.placed(camera);
    this.dragging(marker as HeldMarker, [0, 0])([dx, dy], true);
  }

  /** Puts the elements of markers where they belong. */
  follow(camera: Camera): void {
    if (!this.elements.size) return;
    const inView = new Set(this.placed(camera));
    const { standing } = this;
    for (const marker of this.elements) {
      if (!inView.has(marker.slot)) {
        marker.shown!.hide();
        continue;
      }
      marker.shown!.show(standing.left(marker.slot), standing.top(marker.slot), standing.scale(marker.slot));
    }
  }

  /** Lists where the boxes of all shards stand, in `shards.places`; returns how many there are. */
  list(camera: Camera): number {
    return this.shards.list(this.placed(camera), this.standing);
  }

  /** Writes the texts of shards as boxes of the text atlas, those left out that another shard lies over; returns how many. */
  writeTexts(camera: Camera, ratio: number, atlas: TextAtlas, out: Float32Array): number {
    const texts = new BoxList(out);
    if (!this.lettered) return 0;
    const covered = new Crowd();
    const { standing } = this;
    for (const slot of this.placed(camera).toReversed()) {
      const marker = standing.at(slot);
      const { text, stand } = marker.options;
      const size = marker.size;
      const [x, foot] = [standing.px(slot), standing.py(slot) + (stand === 'middle' ? size / 2 : 0)];
      const y = foot - (tip + seat) * size;
      if (text && !marker.shown && standing.scale(slot) === 1 && covered.isFree(x - 4, y - 4, x + 4, y + 4)) {
        const run = atlas.run(text, lettering);
        atlas.draw(run, lettering);
        const height = Math.min(size * 0.42, (size * 0.5) / Math.max(0.6, run.width));
        const [w, h] = [(run.box![0] * height) / 2, (run.box![1] * height) / 2];
        texts.put([x, y, w, h], run.uv!, marker.ink, noHalo, [0, textFieldPerPixel(height) / ratio, 0]);
      }
      standing.take(covered, slot);
    }
    return texts.count;
  }

  /** Slots of the markers in view from the top down; kept for as long as neither the camera nor a marker changes. */
  private placed(camera: Camera): Int32Array {
    if (this.listed === camera) return this.inSight;
    // Elements may have got another size meanwhile.
    for (const marker of this.elements) this.standing.resize(marker.slot, extentOf(marker));
    const found = this.standing.place(camera);
    this.listed = camera;
    this.inSight = this.yielding ? this.uncrowded(found) : found;
    return this.inSight;
  }

  /** Gives room by priority: who finds it taken hides or shrinks, if asked to. */
  private uncrowded(found: Int32Array): Int32Array {
    const crowd = new Crowd();
    const { standing } = this;
    const priority = (slot: number) => standing.at(slot).options.priority ?? 0;
    const hidden = new Set<number>();
    for (const slot of found.toSorted(
      (a, b) => priority(b) - priority(a) || (standing.isOlder(a, b) ? -1 : Number(a !== b)),
    )) {
      const { crowded = 'stay' } = standing.at(slot).options;
      standing.setScale(slot, 1);
      if (crowded !== 'stay' && !standing.isFree(crowd, slot)) {
        if (crowded === 'hide') {
          hidden.add(slot);
          continue;
        }
        standing.setScale(slot, 0.45);
      }
      standing.take(crowd, slot);
    }
    return found.filter((slot) => !hidden.has(slot));
  }

  private touched(): void {
    this.listed = undefined;
    this.host.changed();
  }

  /** Takes over what a marker looks like, and gives one that is an element its place on the page. */
  private dress(marker: HeldMarker): void {
    const { crowded, text } = marker.options;
    if (crowded === 'hide' || crowded === 'shrink') this.yielding = true;
    if (text !== undefined) this.lettered = true;
    if (!marker.shown && MarkerElement.isFor(marker.options)) {
      marker.shown = new MarkerElement(marker, {
        over: this.host.over,
        changed: () => this.touched(),
        pressed: (pressed, event) => this.host.pressed(pressed, event),
        dragging: (dragged, from) => this.dragging(dragged, from),
        nudge: (nudged, dx, dy) => this.dragging(nudged, [0, 0])([dx, dy], true),
      });
      this.elements.add(marker);
    }
    this.shards.set(marker);
    this.standing.resize(marker.slot, extentOf(marker));
  }

  private undress(marker: HeldMarker): void {
    marker.shown?.destroy();
    marker.shown = undefined;
    this.elements.delete(marker);
  }
}

function isAlone(change: Partial<MarkerOptions>): boolean {
  for (const key in change) if (key !== 'at') return false;
  return true;
}
