// Room "markers": placed things of the application, as sprites or as elements of the page.
import { readPlace } from '@flintwright/core';
import { CollisionGrid, type Camera } from '@flintwright/core/internal';
import { dispose } from '../base/removable.js';
import { requireAlive, type MapContext } from '../base/map-context.js';
import { boldLettering, textFieldPerPixel } from '../gl/lettering.js';
import type { TextAtlas } from '../gl/text-atlas.js';
import type { BoxList } from '../gl/boxes.js';
import {
  checkMarker,
  extentOf,
  missingImage,
  readMarker,
  type HeldMarker,
  type Marker,
  type MarkerChange,
  type MarkerEvents,
  type MarkerOptions,
  type WordsMarker,
} from './marker.js';
import { ElementSizes } from './element-sizes.js';
import { MarkerElement, type Drag } from './marker-element.js';
import { Listeners } from './listeners.js';
import { seat, MarkerSprites, tip } from './marker-sprites.js';
import { MarkerPositions } from './marker-positions.js';

export type {
  ElementMarker,
  ImageMarker,
  Marker,
  MarkerBase,
  MarkerChange,
  MarkerEvents,
  MarkerListener,
  MarkerOptions,
  PressDetail,
  ShapeMarker,
  ShardMarker,
  WordsMarker,
} from './marker.js';

/** Hears of markers. */
export interface MarkerHandler {
  /** Something happened to a marker that is an element of the page. */
  told(marker: Marker, type: keyof MarkerEvents, event: Event): void;
  /** A marker was removed. */
  gone(marker: Marker): void;
}

const noHalo = [0, 0, 0, 0];
/** Markers of a map, drawn over everything else and kept free of labels. */
export class Markers {
  private readonly held = new Set<HeldMarker>();
  private positions = new MarkerPositions();
  /**
   * Appearance of the drawn ones.
   *
   * @internal
   */
  readonly sprites: MarkerSprites;
  /** Slots of those in view from the top down, for one camera. */
  private inSight: Int32Array = new Int32Array(0);
  private listed: Camera | undefined;
  private readonly elements = new Set<HeldMarker>();
  /** Markers whose elements are measured before the next frame, all at once: each reading of a size may cost a layout of the page. */
  private readonly unmeasured = new Set<HeldMarker>();
  private readonly sizes = new ElementSizes((marker) => {
    this.unmeasured.add(marker);
    this.touched();
  });
  /** Whether some marker gives way where it gets crowded, and whether one bears a text. */
  private yielding = false;
  private lettered = false;

  private readonly handlers: MarkerHandler[] = [];

  /** @internal */
  constructor(private readonly context: MapContext) {
    this.sprites = new MarkerSprites((name) => context.sprite(name));
  }

  /**
   * Tells of the pointer on markers that are elements of the page, and of markers that go.
   *
   * @internal
   */
  listen(handler: MarkerHandler): void {
    this.handlers.push(handler);
  }

  get size(): number {
    return this.held.size;
  }

  /** All markers, in the order of addition. */
  get all(): readonly Marker[] {
    return [...this.held];
  }

  /** Adds a marker. @throws Fault `option.*`, `place.*`, `marker.icon`, `marker.color`, `marker.text` or `marker.size` */
  add(options: MarkerOptions): Marker {
    requireAlive(this.context);
    checkMarker('markers.add', options);
    const known = this.context.icons;
    const listeners = new Listeners();
    const marker: HeldMarker = {
      options,
      listeners,
      addEventListener: (type, listener, how) => listeners.add(type, listener as EventListener, how),
      removeEventListener: (type, listener, how) => listeners.remove(type, listener as EventListener, how),
      ...readMarker(options, known, this.space),
      slot: -1,
      shown: undefined,
      change: (change) => {
        // One that was removed has no place any more; what stands there now is another's.
        if (marker.slot < 0) return;
        // Most changes are of the place alone.
        if (change.at !== undefined && isAlone(change)) {
          marker.at = readPlace(change.at, this.space);
          this.positions.move(marker.slot, marker.at);
          this.touched();
          return;
        }
        checkMarker('marker.change', change);
        const next = { ...marker.options, at: marker.at, ...change } as MarkerOptions;
        const { image, element, title, popup } = marker.options;
        Object.assign(marker, readMarker(next, known, this.space), { options: next });
        this.positions.move(marker.slot, marker.at);
        const isNamed = next.title === title && next.popup?.title === popup?.title;
        if (next.image !== image || next.element !== element || !isNamed) this.undress(marker);
        this.dress(marker);
        this.touched();
      },
      remove: () => this.drop(marker),
      [dispose]: () => this.drop(marker),
    };
    marker.slot = this.positions.add(marker);
    this.held.add(marker);
    this.dress(marker);
    this.touched();
    return marker;
  }

  private drop(marker: HeldMarker): void {
    if (!this.held.delete(marker)) return;
    this.positions.remove(marker.slot);
    marker.slot = -1;
    this.undress(marker);
    this.touched();
    for (const handler of this.handlers) handler.gone(marker);
  }

  /** Space of the places. */
  private get space(): 'lonlat' | 'plane' {
    return this.context.state.surface.space;
  }

  /** Removes all markers. @throws Fault `map.removed` */
  clear(): void {
    requireAlive(this.context);
    this.end();
  }

  /**
   * Takes all markers off, with the map or without.
   *
   * @internal
   */
  end(): void {
    for (const marker of this.elements) this.undress(marker);
    const gone = [...this.held];
    for (const marker of gone) marker.slot = -1;
    this.held.clear();
    this.positions = new MarkerPositions();
    this.touched();
    for (const marker of gone) for (const handler of this.handlers) handler.gone(marker);
  }

  /**
   * Takes the room on the screen that markers stand in.
   *
   * @internal
   */
  reserve(camera: Camera, crowd: CollisionGrid): void {
    const { positions } = this;
    for (const slot of this.placed(camera)) positions.take(crowd, slot);
  }

  /**
   * The topmost marker at a pixel that is not an element of the page.
   *
   * @internal
   */
  find(camera: Camera, px: number, py: number): Marker | undefined {
    const { positions } = this;
    const found = this.placed(camera).findLast(
      (slot) =>
        !positions.at(slot).shown &&
        Math.abs(px - positions.px(slot)) < Math.max(12, positions.right(slot) - positions.px(slot)) &&
        py < positions.bottom(slot) + 2 &&
        py > positions.top(slot) - 2,
    );
    return found === undefined ? undefined : positions.at(found);
  }

  /**
   * Markers in view, those lowest on the screen last.
   *
   * @internal
   */
  inView(camera: Camera): readonly Marker[] {
    return Array.from(this.placed(camera), (slot) => this.positions.at(slot));
  }

  /**
   * Takes hold of a draggable marker: tells it where the pointer goes, and when it lets go.
   *
   * @internal
   */
  grab(camera: Camera, [px, py]: readonly [number, number]): Drag | undefined {
    const marker = this.find(camera, px, py) as HeldMarker | undefined;
    return marker?.options.draggable ? this.dragging(marker, [px, py]) : undefined;
  }

  private dragging(marker: HeldMarker, from: readonly [number, number]): Drag {
    const { positions } = this;
    const [dx, dy] = [positions.px(marker.slot) - from[0], positions.py(marker.slot) - from[1]];
    return ([x, y], done) => {
      const at = this.context.camera.unproject(x + dx, y + dy);
      if (at) marker.change({ at });
      marker.options.onMove?.(marker.at, done);
    };
  }

  /**
   * Pushes a draggable marker by some pixels.
   *
   * @internal
   */
  nudge(camera: Camera, marker: Marker, dx: number, dy: number): void {
    this.placed(camera);
    this.dragging(marker as HeldMarker, [0, 0])([dx, dy], true);
  }

  /**
   * Puts the elements of markers where they belong.
   *
   * @internal
   */
  follow(camera: Camera): void {
    if (!this.elements.size) return;
    const inView = new Set(this.placed(camera));
    const { positions } = this;
    for (const marker of this.elements) {
      if (!inView.has(marker.slot)) {
        marker.shown!.hide();
        continue;
      }
      marker.shown!.show(positions.left(marker.slot), positions.top(marker.slot), positions.scale(marker.slot));
    }
  }

  /**
   * Lists where the boxes of all shards stand, in `shards.places`; returns how many there are.
   *
   * @internal
   */
  list(camera: Camera): number {
    return this.sprites.list(this.placed(camera), this.positions);
  }

  /**
   * Whether any of them says something.
   *
   * @internal
   */
  get hasTexts(): boolean {
    return this.lettered;
  }

  /**
   * Writes the texts of shards as boxes of the text atlas, those left out that another shard lies over.
   *
   * @internal
   */
  writeTexts(camera: Camera, ratio: number, atlas: TextAtlas, texts: BoxList): void {
    const covered = new CollisionGrid();
    const { positions } = this;
    for (const slot of this.placed(camera).toReversed()) {
      const marker = positions.at(slot);
      const { text, anchor, words } = marker.options;
      if (words !== undefined) {
        this.writeWords(marker, marker.options, ratio, atlas, texts);
        positions.take(covered, slot);
        continue;
      }
      const size = marker.size;
      const [x, foot] = [positions.px(slot), positions.py(slot) + (anchor === 'center' ? size / 2 : 0)];
      const y = foot - (tip + seat) * size;
      if (text && !marker.shown && positions.scale(slot) === 1 && covered.isFree(x - 4, y - 4, x + 4, y + 4)) {
        const run = atlas.run(text, boldLettering);
        const { box, uv } = atlas.draw(run, boldLettering);
        const height = Math.min(size * 0.42, (size * 0.5) / Math.max(0.6, run.width));
        const [w, h] = [(box[0] * height) / 2, (box[1] * height) / 2];
        texts.put([x, y, w, h], uv, marker.ink, noHalo, [0, textFieldPerPixel(height) / ratio, 0]);
      }
      positions.take(covered, slot);
    }
  }

  private writeWords(
    { slot, size, color, ink }: HeldMarker,
    { words, rotation = 0, weight = 600, halo }: WordsMarker,
    ratio: number,
    atlas: TextAtlas,
    out: BoxList,
  ): void {
    const { positions } = this;
    const style = { ...boldLettering, weight };
    const { box, uv } = atlas.draw(atlas.run(words, style), style);
    const field = textFieldPerPixel(size);
    const rim = halo ? Math.min(0.46, (halo.width ?? 2) * field) : 0;
    out.put(
      [positions.px(slot), positions.py(slot), (box[0] * size) / 2, (box[1] * size) / 2],
      uv,
      color,
      rim ? ink : noHalo,
      [rim, field / ratio, (rotation * Math.PI) / 180],
    );
  }

  /** Slots of the markers in view from the top down; kept for as long as neither the camera nor a marker changes. */
  private placed(camera: Camera): Int32Array {
    if (this.listed === camera) return this.inSight;
    this.measure();
    const found = this.positions.place(camera);
    this.listed = camera;
    this.inSight = this.yielding ? this.uncrowded(found) : found;
    return this.inSight;
  }

  /** Gives room by priority: who finds it taken hides or shrinks, if asked to. */
  private uncrowded(found: Int32Array): Int32Array {
    const crowd = new CollisionGrid();
    const { positions } = this;
    const priority = (slot: number) => positions.at(slot).options.priority ?? 0;
    const hidden = new Set<number>();
    for (const slot of found.toSorted(
      (a, b) => priority(b) - priority(a) || (positions.isOlder(a, b) ? -1 : Number(a !== b)),
    )) {
      const { crowded = 'stay' } = positions.at(slot).options;
      positions.setScale(slot, 1);
      if (crowded !== 'stay' && !positions.isFree(crowd, slot)) {
        if (crowded === 'hide') {
          hidden.add(slot);
          continue;
        }
        positions.setScale(slot, 0.45);
      }
      positions.take(crowd, slot);
    }
    return found.filter((slot) => !hidden.has(slot));
  }

  private touched(): void {
    this.listed = undefined;
    this.context.invalidate('overlay', true);
  }

  /** Takes over what a marker looks like, and gives one that is an element its place on the page. */
  private dress(marker: HeldMarker): void {
    const { crowded, text, words } = marker.options;
    if (crowded === 'hide' || crowded === 'shrink') this.yielding = true;
    if (text !== undefined || words !== undefined) this.lettered = true;
    if (!marker.shown && MarkerElement.isFor(marker.options)) {
      marker.shown = new MarkerElement(marker, {
        overlay: this.context.overlay,
        changed: () => this.touched(),
        told: (told, type, event) => this.handlers.forEach((handler) => handler.told(told, type, event)),
        broken: (address) => this.context.report(missingImage(address)),
        dragging: (dragged, from) => this.dragging(dragged, from),
        nudge: (nudged, dx, dy) => this.dragging(nudged, [0, 0])([dx, dy], true),
      });
      this.elements.add(marker);
    }
    this.sprites.set(marker);
    if (marker.shown) {
      this.unmeasured.add(marker);
      this.sizes.watch(marker, marker.shown.box);
    } else this.positions.resize(marker.slot, extentOf(marker));
  }

  private measure(): void {
    for (const marker of this.unmeasured) {
      if (marker.slot >= 0) this.positions.resize(marker.slot, extentOf(marker));
      if (marker.shown) this.sizes.measured(marker.shown.box);
    }
    this.unmeasured.clear();
  }

  private undress(marker: HeldMarker): void {
    if (marker.shown) this.sizes.unwatch(marker.shown.box);
    this.unmeasured.delete(marker);
    marker.shown?.remove();
    marker.shown = undefined;
    this.elements.delete(marker);
  }
}

function isAlone(change: MarkerChange): boolean {
  for (const key in change) if (key !== 'at') return false;
  return true;
}
