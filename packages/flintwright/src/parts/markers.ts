import { Crowd, readPlace, type Camera } from '@flintwright/core';
import { listen } from '../counts.js';
import { spriteBox, textFieldPerPixel, type TextAtlas, type TextStyle } from '../gl/atlas.js';
import { boxFloats, BoxList } from '../gl/boxes.js';
import { dropElement, makeElement, place } from './element.js';
import { extentOf, readMarker, type Extent, type HeldMarker, type Marker, type MarkerOptions } from './marker.js';

export type { Marker, MarkerOptions } from './marker.js';

const clear = [0, 0, 0, 0];
/** The tip of the shard, in units of the drawing from its middle. */
const tip = 23.6 - 12;
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
  /** In view from the top down, for one camera. */
  private list: readonly HeldMarker[] = [];
  /** All of them, those last in view from the top down. */
  private order: HeldMarker[] = [];
  /** Whether some of the order have been removed. */
  private thinned = false;
  private serial = 0;
  private listed: Camera | undefined;

  constructor(private readonly host: MarkersHost) {}

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
      x: 0,
      y: 0,
      z: 0,
      px: 0,
      py: 0,
      scale: 1,
      serial: this.serial++,
      rank: 0,
      surface: undefined,
      element: undefined,
      off: undefined,
      change: (change) => {
        // Most changes are of the place alone.
        if (change.at !== undefined && isAlone(change)) {
          marker.at = readPlace(change.at, this.host.space());
          marker.surface = undefined;
          this.touched();
          return;
        }
        const next = { ...marker.options, at: marker.at, ...change };
        const { image, element, title } = marker.options;
        Object.assign(marker, readMarker(next, known, this.host.space()), { options: next });
        marker.surface = undefined;
        if (next.image !== image || next.element !== element || next.title !== title) this.dress(marker);
        this.touched();
      },
      remove: () => {
        if (!this.held.delete(marker)) return;
        this.thinned = true;
        this.undress(marker);
        this.touched();
      },
    };
    this.held.add(marker);
    this.order.push(marker);
    this.dress(marker);
    this.touched();
    return marker;
  }

  clear(): void {
    for (const marker of this.held) this.undress(marker);
    this.held.clear();
    this.order = [];
    this.touched();
  }

  /** Gives back the elements of markers. */
  destroy(): void {
    this.clear();
  }

  /** Takes the room on the screen that markers stand in. */
  reserve(camera: Camera, crowd: Crowd): void {
    for (const marker of this.placed(camera)) takeRoom(crowd, marker);
  }

  /** The topmost marker at a pixel that is not an element of the page. */
  find(camera: Camera, px: number, py: number): Marker | undefined {
    return this.placed(camera).findLast((marker) => {
      if (marker.element) return false;
      const { half, above, below } = extentOf(marker, extent);
      return Math.abs(px - marker.px) < Math.max(12, half) && py < marker.py + below + 2 && py > marker.py - above - 2;
    });
  }

  /** Markers in view, those lowest on the screen last. */
  inView(camera: Camera): readonly Marker[] {
    return this.placed(camera);
  }

  /** Takes hold of a draggable marker: tells it where the pointer goes, and when it lets go. */
  grab(
    camera: Camera,
    [px, py]: readonly [number, number],
  ): ((to: readonly [number, number], done: boolean) => void) | undefined {
    const marker = this.find(camera, px, py) as HeldMarker | undefined;
    return marker?.options.draggable ? this.dragging(marker, [px, py]) : undefined;
  }

  private dragging(marker: HeldMarker, from: readonly [number, number]) {
    const [dx, dy] = [marker.px - from[0], marker.py - from[1]];
    return ([x, y]: readonly [number, number], done: boolean) => {
      const at = this.host.toPlace([x + dx, y + dy]);
      if (at) marker.change({ at });
      marker.options.onMove?.(marker.at, done);
    };
  }

  /** Pushes a draggable marker by some pixels. */
  nudge(camera: Camera, marker: Marker, dx: number, dy: number): void {
    this.placed(camera);
    const { px, py } = marker as HeldMarker;
    this.dragging(marker as HeldMarker, [px, py])([px + dx, py + dy], true);
  }

  /** Puts the elements of markers where they belong. */
  follow(camera: Camera): void {
    if (!this.elements) return;
    const shown = new Set(this.placed(camera));
    for (const marker of this.held) {
      const { element } = marker;
      if (!element) continue;
      element.style.visibility = shown.has(marker) ? 'visible' : 'hidden';
      if (!shown.has(marker)) continue;
      const { half, above } = extentOf(marker, extent);
      const shrunk = marker.scale < 1 ? ` scale(${marker.scale})` : '';
      element.style.transform = `translate(${Math.round(marker.px - half)}px, ${Math.round(marker.py - above)}px)${shrunk}`;
    }
  }

  /** Writes the parts of all shards as boxes of the sprite atlas; `draw` is called whenever the list is full, and at the end. */
  write(camera: Camera, ratio: number, out: Float32Array, draw: (amount: number) => void): void {
    let n = 0;
    const shard = this.host.sprite('shard')!;
    const room = out.length / boxFloats - 2;
    for (const marker of this.placed(camera)) {
      if (marker.element) continue;
      if (n > room) {
        draw(n);
        n = 0;
      }
      const { icon, shape, text, stand } = marker.options;
      const { px, color, ink } = marker;
      const size = marker.size * marker.scale;
      if (shape !== undefined) {
        const y = stand === 'foot' ? marker.py - size / 2 : marker.py;
        part(out, n++, this.host.sprite(shape)!, px, y, size, color, ink, 1.6, ratio);
        continue;
      }
      const middle = (stand === 'middle' ? marker.py + size / 2 : marker.py) - (tip * size) / 24;
      part(out, n++, shard, px, middle, size, color, ink, 1.6, ratio);
      if (icon !== undefined && text === undefined && marker.scale === 1)
        part(out, n++, this.host.sprite(icon)!, px, middle - size * 0.085, size * 0.44, ink, clear, 0, ratio);
    }
    draw(n);
  }

  /** Writes the texts of shards as boxes of the text atlas, those left out that another shard lies over; returns how many. */
  writeTexts(camera: Camera, ratio: number, atlas: TextAtlas, out: Float32Array): number {
    const texts = new BoxList(out);
    if (!this.lettered) return 0;
    const covered = new Crowd();
    for (const marker of [...this.placed(camera)].reverse()) {
      const { text, stand } = marker.options;
      const size = marker.size;
      const [x, foot] = [marker.px, stand === 'middle' ? marker.py + size / 2 : marker.py];
      const y = foot - (tip * size) / 24 - size * 0.085;
      if (text && !marker.element && marker.scale === 1 && covered.isFree(x - 4, y - 4, x + 4, y + 4)) {
        const run = atlas.run(text, lettering);
        atlas.draw(run, lettering);
        const height = Math.min(size * 0.42, (size * 0.5) / Math.max(0.6, run.width));
        const [w, h] = [(run.box![0] * height) / 2, (run.box![1] * height) / 2];
        texts.put([x, y, w, h], run.uv!, marker.ink, clear, [0, textFieldPerPixel(height) / ratio, 0]);
      }
      takeRoom(covered, marker);
    }
    return texts.count;
  }

  /** Markers in view from the top down, with their pixels; kept for as long as neither the camera nor a marker changes. */
  private placed(camera: Camera): readonly HeldMarker[] {
    if (this.listed === camera) return this.list;
    const { width, height } = camera.size;
    const { surface } = camera;
    const found: HeldMarker[] = [];
    const rest: HeldMarker[] = [];
    const at: [number, number, number] = [0, 0, 0];
    if (this.thinned) this.order = this.order.filter((marker) => this.held.has(marker));
    this.thinned = false;
    for (const marker of this.order) {
      if (marker.surface !== surface) {
        at[0] = NaN;
        surface.forward(marker.at[0], marker.at[1], at);
        marker.x = at[0];
        marker.y = at[1];
        marker.z = at[2];
        marker.surface = surface;
      }
      const { size } = marker;
      // Where the surface does not reach there is no marker.
      const isSeen = !Number.isNaN(marker.x) && camera.pixelInto(marker.x, marker.y, marker.z, at);
      const [x, y] = at;
      if (!isSeen || x < -size || y < -size || x > width + size || y > height + 2 * size) {
        rest.push(marker);
        continue;
      }
      marker.px = x;
      marker.py = y;
      marker.scale = 1;
      found.push(marker);
    }
    this.listed = camera;
    topDown(found);
    this.order = [...found, ...rest];
    this.list = this.yielding ? uncrowded(found) : found;
    return this.list;
  }

  private touched(): void {
    this.listed = undefined;
    this.host.changed();
  }

  /** Gives a marker that is an element its place on the page. */
  private dress(marker: HeldMarker): void {
    this.undress(marker);
    const { image, element, title, popup, draggable, size, crowded, text } = marker.options;
    if (crowded === 'hide' || crowded === 'shrink') this.yielding = true;
    if (text !== undefined) this.lettered = true;
    if (image === undefined && element === undefined) return;
    const box = makeElement('div', 'flint-marker');
    if (element) box.append(element);
    else {
      const picture = makeElement('img');
      picture.src = image!;
      picture.alt = title ?? '';
      picture.height = size ?? 36;
      picture.draggable = false;
      picture.addEventListener('load', () => this.touched(), { once: true });
      box.append(picture);
    }
    if (title) box.title = title;
    if (popup ?? draggable) {
      box.tabIndex = 0;
      box.setAttribute('role', 'button');
      if (title) box.setAttribute('aria-label', title);
    }
    marker.element = place(this.host.over, box);
    this.elements++;
    marker.off = this.listenTo(marker, box);
  }

  private listenTo(marker: HeldMarker, box: HTMLElement): (() => void)[] {
    let drag: ReturnType<Markers['dragging']> | undefined;
    let moved = false;
    const at = (event: PointerEvent): [number, number] => {
      const { left, top } = this.host.over.getBoundingClientRect();
      return [event.clientX - left, event.clientY - top];
    };
    const arrows: Record<string, [number, number]> = {
      ArrowLeft: [-1, 0],
      ArrowRight: [1, 0],
      ArrowUp: [0, -1],
      ArrowDown: [0, 1],
    };
    return [
      listen(box, 'pointerdown', (event: PointerEvent) => {
        moved = false;
        if (!marker.options.draggable || event.button !== 0) return;
        box.setPointerCapture(event.pointerId);
        drag = this.dragging(marker, at(event));
      }),
      listen(box, 'pointermove', (event: PointerEvent) => {
        if (!drag) return;
        moved = true;
        drag(at(event), false);
      }),
      listen(box, 'pointerup', (event: PointerEvent) => {
        if (drag && moved) drag(at(event), true);
        drag = undefined;
      }),
      listen(box, 'click', (event: MouseEvent) => {
        if (!moved) this.host.pressed(marker, event);
      }),
      listen(box, 'keydown', (event: KeyboardEvent) => {
        const way = Object.hasOwn(arrows, event.key) && event.shiftKey ? arrows[event.key] : undefined;
        if (event.key === 'Enter' || event.key === ' ') this.host.pressed(marker, event);
        else if (way && marker.options.draggable && this.listed)
          this.nudge(this.listed, marker, way[0] * 8, way[1] * 8);
        else return;
        event.preventDefault();
      }),
    ];
  }

  private undress(marker: HeldMarker): void {
    if (!marker.element) return;
    for (const stop of marker.off ?? []) stop();
    dropElement(marker.element);
    this.elements--;
    marker.element = undefined;
    marker.off = undefined;
  }

  private elements = 0;
  /** Whether some marker gives way where it gets crowded, and whether one bears a text. */
  private yielding = false;
  private lettered = false;
}

function isAlone(change: Partial<MarkerOptions>): boolean {
  for (const key in change) if (key !== 'at') return false;
  return true;
}

/** Markers, and so rows of a quarter of a pixel, are told apart by numbers below 2^53. */
const mostMarkers = 2 ** 27;
/** Steps for each marker after which putting them in order one by one is given up. */
const patience = 8;

/**
 * Puts markers in order from the top down, those of one row as they were added. From frame to frame hardly any changes its place, so each
 * is moved up past those that it has overtaken; where that takes too long, all are sorted.
 */
function topDown(found: HeldMarker[]): void {
  for (const marker of found) marker.rank = Math.round((marker.py + 4096) * 4) * mostMarkers + marker.serial;
  let left = patience * found.length;
  for (let i = 1; i < found.length && left >= 0; i++) {
    const marker = found[i];
    const { rank } = marker;
    let k = i;
    for (; k > 0 && found[k - 1].rank > rank; k--) found[k] = found[k - 1];
    found[k] = marker;
    left -= i - k;
  }
  if (left < 0) found.sort(byRank);
}

const byRank = (a: HeldMarker, b: HeldMarker) => a.rank - b.rank;

/** Where {@link extentOf} writes. */
const extent: Extent = { half: 0, above: 0, below: 0 };

function takeRoom(crowd: Crowd, marker: HeldMarker): void {
  const { half, above, below } = extentOf(marker, extent);
  crowd.take(marker.px - half, marker.py - above, marker.px + half, marker.py + below);
}

/** Gives room by priority: who finds it taken hides or shrinks, if asked to. */
function uncrowded(found: readonly HeldMarker[]): HeldMarker[] {
  const crowd = new Crowd();
  const free = (marker: HeldMarker) => {
    const { half, above, below } = extentOf(marker, extent);
    return crowd.isFree(marker.px - half, marker.py - above, marker.px + half, marker.py + below);
  };
  return [...found]
    .sort((a, b) => (b.options.priority ?? 0) - (a.options.priority ?? 0) || a.serial - b.serial)
    .filter((marker) => {
      const { crowded = 'stay' } = marker.options;
      if (crowded !== 'stay' && !free(marker)) {
        if (crowded === 'hide') return false;
        marker.scale = 0.45;
      }
      takeRoom(crowd, marker);
      return true;
    })
    .sort(byRank);
}

const sprites = new Map<number, ReturnType<typeof spriteBox>>();
function spriteOf(index: number) {
  let box = sprites.get(index);
  if (!box) sprites.set(index, (box = spriteBox(index)));
  return box;
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
): void {
  let o = n * boxFloats;
  const { uv, cellPerSize, fieldPerPixel } = spriteOf(sprite);
  const field = fieldPerPixel / size;
  const half = (size * cellPerSize) / 2;
  out[o++] = Math.round(x * ratio) / ratio;
  out[o++] = Math.round(y * ratio) / ratio;
  out[o++] = half;
  out[o++] = half;
  for (let k = 0; k < 4; k++) out[o++] = uv[k];
  for (let k = 0; k < 4; k++) out[o++] = color[k];
  for (let k = 0; k < 4; k++) out[o++] = rim[k];
  out[o++] = rimWidth * field;
  out[o++] = field / ratio;
  out[o++] = 0;
  out[o] = 0;
}
