import {
  deleteVertex,
  insertVertex,
  lineBetween,
  middleOf,
  moved,
  moveVertex,
  pathsOf,
  turned,
  type EditGeometry,
  type EditPosition,
  type VertexName,
} from '@flintwright/core/edit';
import { append, greatest, least } from '@flintwright/core/internal';
import { listen } from '../base/live-counts.js';
import type { FlintMap } from '../map/map.js';
import { place, removeElement } from '../overlay/dom.js';
import type { DrawStrings } from './draw-strings.js';
import type { Sketch } from './sketch.js';

const ns = 'http://www.w3.org/2000/svg';
type Pixel = readonly [number, number];

function shape(
  name: string,
  className: string,
  attributes: Readonly<Record<string, string | number>> = {},
): SVGElement {
  const element = document.createElementNS(ns, name);
  if (className) element.setAttribute('class', className);
  for (const [key, value] of Object.entries(attributes)) element.setAttribute(key, String(value));
  return element;
}

/** Handles on the screen at most; with more corners than that in view, people are asked to move closer. */
const mostHandles = 240;
/** CSS pixels within which places snap, and a place counts as the same. */
export const reachPixels = 11;

/** A handle that is drawn: what it does to the feature that it belongs to. */
interface Handle {
  readonly kind: 'corner' | 'middle' | 'turn' | 'scale';
  readonly key: string;
  readonly vertex: VertexName;
  readonly at: EditPosition;
  readonly label: string;
}

/** A drag under way: what it makes of the feature with the pointer at a place. */
interface Drag {
  readonly key: string;
  readonly step: string;
  move(to: EditPosition, pixel: Pixel): void;
}

/** What lies over the map while somebody draws and corrects: outlines, handles, what is drawn, and where it does not work. */
export class EditHandles {
  private readonly svg: SVGSVGElement;
  private readonly off: (() => void)[] = [];
  private drag: Drag | undefined;
  /** The handle that had the focus, so that it is given back when the handles are drawn anew. */
  private focused: string | undefined;
  private waiting = false;
  crosshair = false;
  /** The shape that a feature has elsewhere; undefined where nobody has to decide. */
  other: EditGeometry | undefined;
  tooMany = false;

  constructor(
    private readonly map: FlintMap,
    private readonly sketch: Sketch,
    private readonly strings: DrawStrings,
    private readonly tag: (geometry: EditGeometry) => string,
    private readonly crowded: () => void = () => {},
  ) {
    this.svg = place(map.host, shape('svg', 'flint-hand') as SVGSVGElement);
    const on = <E extends Event>(target: EventTarget, type: string, handler: (event: E) => void) =>
      this.off.push(listen(target, type, handler));
    on(map, 'viewchange', () => this.draw());
    on<PointerEvent>(this.svg, 'pointerdown', (event) => this.take(event));
    on<PointerEvent>(this.svg, 'pointermove', (event) => {
      if (!this.drag || !event.isPrimary) return;
      const pixel = this.pixelOf(event);
      const to = this.map.toPlace(pixel);
      if (to) this.drag.move(to, pixel);
    });
    for (const type of ['pointerup', 'pointercancel'])
      on<PointerEvent>(this.svg, type, (event) => {
        const { drag } = this;
        if (!drag || !event.isPrimary) return;
        this.drag = undefined;
        if (type === 'pointercancel') this.sketch.cancel();
        else this.sketch.keep(drag.step);
      });
    on<KeyboardEvent>(this.svg, 'keydown', (event) => this.key(event));
    // Not on the drawing itself: one that listens for the focus is a stop of the Tab key in some browsers.
    on<FocusEvent>(map.host, 'focusin', ({ target }) => {
      if (this.svg.contains(target as Element))
        this.focused = (target as Element).getAttribute('data-name') ?? undefined;
    });
  }

  /** Meters that some CSS pixels stand for, where the map is looked at. */
  reach(pixels = reachPixels): number {
    return pixels * this.map.metresPerPixel;
  }

  pixelOf(event: PointerEvent): Pixel {
    const box = this.map.host.getBoundingClientRect();
    return [event.clientX - box.left, event.clientY - box.top];
  }

  // --- drawing ------------------------------------------------------------------------------------

  /** Draws all anew with the next frame, however often it is asked. */
  later(): void {
    if (this.waiting) return;
    this.waiting = true;
    requestAnimationFrame(() => {
      this.waiting = false;
      if (this.svg.isConnected) this.draw();
    });
  }

  /** Draws at once what would be drawn with the next frame. A press right after a change of tools must not meet handles of the tool before. */
  flush(): void {
    if (this.waiting && this.svg.isConnected) this.draw();
  }

  private draw(): void {
    const { sketch, svg } = this;
    const parts: Element[] = [];
    const before = this.tooMany;
    this.tooMany = false;
    let handles: Handle[] = [];
    for (const key of sketch.selected) {
      const geometry = sketch.geometryOf(key);
      if (!geometry) continue;
      append(parts, this.outline(geometry, key));
      if (sketch.tool === 'select') append(handles, this.handlesOf(key, geometry));
    }
    if (handles.length > mostHandles) [handles, this.tooMany] = [[], true];
    if (this.tooMany !== before) this.crowded();
    for (const key of sketch.preview.keys())
      if (!sketch.selected.has(key)) append(parts, this.outline(sketch.preview.get(key)!, undefined));
    if (this.other && !this.other.type.endsWith('Point'))
      parts.push(shape('path', 'flint-other', { d: this.path(this.other) }));
    else if (this.other)
      for (const part of this.outline(this.other, undefined)) {
        part.setAttribute('class', 'flint-other');
        parts.push(part);
      }
    for (const handle of handles) parts.push(this.handle(handle));
    append(parts, [...this.drawn(), ...this.wrong()]);
    const root = svg.getRootNode() as Document | ShadowRoot;
    // Whoever selects by keyboard sees where Enter presses while the map has the focus, and not while a handle has it.
    const onMap = sketch.tool !== 'select' || root.activeElement?.classList.contains('flint-canvas');
    if (this.crosshair && onMap) parts.push(...this.cross());
    const within = svg.contains(root.activeElement);
    svg.replaceChildren(...parts);
    if (!within) return;
    // The focus goes to the same handle, or to the map where that is gone; never to the page.
    const again = svg.querySelector<SVGElement>(`[data-name="${CSS.escape(this.focused ?? '')}"]`);
    (again ?? this.map.host.querySelector<HTMLElement>('.flint-canvas'))?.focus({ preventScroll: true });
  }

  /** Pixels of places; undefined where one lies behind the globe. */
  private pixels(spots: readonly EditPosition[]): (Pixel | undefined)[] {
    const { map } = this;
    return spots.map(([x, y]) => {
      const pixel = map.toPixel([x, y]);
      if (!pixel.every(Number.isFinite)) return undefined;
      if (map.surface !== 'globe') return pixel;
      const back = map.toPlace(pixel);
      return back && Math.abs(back[1] - y) < 1 ? pixel : undefined;
    });
  }

  /** Outlines as path data; edges are straight on the map, as the map draws them. */
  private path(geometry: EditGeometry): string {
    return pathsOf(geometry)
      .map(({ spots, closed }) => {
        const dense = closed ? [...spots, spots[0]] : spots;
        let pen = 'M';
        let last: Pixel = [NaN, NaN];
        const pixels = this.pixels(this.bent(dense));
        const steps = pixels.map((pixel, i) => {
          if (!pixel) {
            pen = 'M';
            return '';
          }
          // What lies within half a pixel of the last is not seen.
          if (pen === 'L' && i < pixels.length - 1 && Math.hypot(pixel[0] - last[0], pixel[1] - last[1]) < 0.5)
            return '';
          last = pixel;
          const step = `${pen}${pixel[0].toFixed(1)} ${pixel[1].toFixed(1)}`;
          pen = 'L';
          return step;
        });
        return steps.join('');
      })
      .join('');
  }

  /** Edges in pieces where the surface bends them. */
  private bent(spots: readonly EditPosition[]): readonly EditPosition[] {
    const { surface } = this.map;
    if (surface === 'EPSG:3857' || surface === 'plan') return spots;
    return spots.flatMap((spot, i) => {
      if (i === 0) return [spot];
      const before = spots[i - 1];
      const pieces = Math.min(
        24,
        Math.ceil(Math.max(Math.abs(spot[0] - before[0]), Math.abs(spot[1] - before[1])) / 2),
      );
      return Array.from({ length: Math.max(1, pieces) }, (_, k) => {
        const t = (k + 1) / Math.max(1, pieces);
        return [before[0] + (spot[0] - before[0]) * t, before[1] + (spot[1] - before[1]) * t];
      });
    });
  }

  private outline(geometry: EditGeometry, key: string | undefined): Element[] {
    if (geometry.type.endsWith('Point')) {
      return this.pixels(pathsOf(geometry).map(({ spots }) => spots[0])).flatMap((pixel) =>
        pixel ? [shape('circle', 'flint-set', { cx: pixel[0], cy: pixel[1], r: 4 })] : [],
      );
    }
    const d = this.path(geometry);
    const line = geometry.type.endsWith('LineString') ? { 'data-line': '' } : {};
    const out = [shape('path', 'flint-shape', { d, ...line }), shape('path', 'flint-shape', { d, ...line })];
    if (key !== undefined && this.sketch.tool === 'select' && !this.drag)
      out.push(shape('path', 'flint-body', { d, 'data-key': key, 'fill-rule': 'evenodd', ...line }));
    return out;
  }

  private handlesOf(key: string, geometry: EditGeometry): Handle[] {
    const out: Handle[] = [];
    const { strings, sketch } = this;
    const alone = sketch.selected.size === 1;
    pathsOf(geometry).forEach(({ spots, closed }, path) =>
      spots.forEach((at, index) => {
        const vertex = { path, index };
        out.push({ kind: 'corner', key, vertex, at, label: strings.corner(index + 1, spots.length) });
        const next = index + 1 < spots.length ? spots[index + 1] : closed ? spots[0] : undefined;
        if (next && alone) {
          const middle = [(at[0] + next[0]) / 2, (at[1] + next[1]) / 2];
          out.push({ kind: 'middle', key, vertex, at: middle, label: strings.middle(index + 1) });
        }
      }),
    );
    const count = pathsOf(geometry).reduce((sum, { spots }) => sum + spots.length, 0);
    if (alone && count > 1) {
      const vertex = { path: 0, index: 0 };
      const at = middleOf(geometry);
      out.push({ kind: 'turn', key, vertex, at, label: strings.turn });
      out.push({ kind: 'scale', key, vertex, at, label: strings.scale });
    }
    return out;
  }

  /** Where the handles that turn and scale stand: above the middle of what is selected, and at its lower right. */
  private armOf({ kind, key }: Handle): Pixel | undefined {
    const geometry = this.sketch.geometryOf(key);
    if (!geometry) return undefined;
    const seen = this.pixels(pathsOf(geometry).flatMap(({ spots }) => spots)).filter((pixel) => pixel !== undefined);
    if (!seen.length) return undefined;
    const [xs, ys] = [seen.map(([x]) => x), seen.map(([, y]) => y)];
    const [left, right, top, foot] = [least(xs), greatest(xs), least(ys), greatest(ys)];
    const { clientWidth, clientHeight } = this.map.host;
    const keep = (v: number, most: number) => Math.max(18, Math.min(most - 18, v));
    return kind === 'turn'
      ? [keep((left + right) / 2, clientWidth), keep(top - 34, clientHeight)]
      : [keep(right + 24, clientWidth), keep(foot + 24, clientHeight)];
  }

  private handle(handle: Handle): Element {
    const { kind, key, vertex, at, label } = handle;
    const name = `${key}/${kind}/${vertex.path}/${vertex.index}`;
    const seat = kind === 'turn' || kind === 'scale' ? this.armOf(handle) : this.pixels([at])[0];
    const group = shape('g', 'flint-handle', { 'data-kind': kind, 'data-name': name });
    const { clientWidth, clientHeight } = this.map.host;
    if (!seat || seat[0] < -20 || seat[1] < -20 || seat[0] > clientWidth + 20 || seat[1] > clientHeight + 20)
      return group;
    const [x, y] = seat;
    group.setAttribute('tabindex', kind === 'middle' ? '-1' : '0');
    group.setAttribute('role', 'button');
    group.setAttribute('aria-label', label);
    const title = shape('title', '');
    title.textContent = label;
    const dots = {
      corner: () => shape('rect', 'flint-dot', { x: x - 5, y: y - 5, width: 10, height: 10 }),
      middle: () => shape('circle', 'flint-dot', { cx: x, cy: y, r: 4 }),
      turn: () => shape('circle', 'flint-dot', { cx: x, cy: y, r: 7 }),
      scale: () => shape('path', 'flint-dot', { d: `M${x - 7} ${y - 7}h9l5 5v9h-14z` }),
    };
    const reach = kind === 'middle' ? 9 : 14;
    group.append(
      title,
      shape('circle', 'flint-reach', { cx: x, cy: y, r: reach }),
      shape('circle', 'flint-ringed', { cx: x, cy: y, r: reach }),
      dots[kind](),
    );
    handles.set(group, handle);
    return group;
  }

  /** What is being drawn: its outline, the places set, how long or large it is. */
  private drawn(): Element[] {
    const { sketch } = this;
    const out: Element[] = [];
    const geometry = sketch.shape();
    if (geometry) {
      const d = this.path(geometry);
      const line = geometry.type === 'LineString' ? { 'data-line': '' } : {};
      out.push(shape('path', 'flint-sketch', { d, ...line }), shape('path', 'flint-sketch', { d, ...line }));
    }
    for (const pixel of this.pixels(sketch.places))
      if (pixel) out.push(shape('rect', 'flint-set', { x: pixel[0] - 4, y: pixel[1] - 4, width: 8, height: 8 }));
    const [seat] = sketch.pointer ? this.pixels([sketch.pointer]) : [];
    if (seat && sketch.snapped !== 'none')
      out.push(shape('circle', 'flint-snapped', { cx: seat[0], cy: seat[1], r: 8 }));
    if (seat && geometry && sketch.drawing) {
      const text = shape('text', 'flint-tag', { x: seat[0] + 14, y: seat[1] - 12 });
      text.textContent = this.tag(geometry);
      out.push(text);
    }
    return out;
  }

  private wrong(): Element[] {
    return this.pixels(this.sketch.trouble?.at ?? []).flatMap((pixel) =>
      pixel ? [shape('circle', 'flint-trouble', { cx: pixel[0], cy: pixel[1], r: 11 })] : [],
    );
  }

  /** A cross in the middle of the map, for those who draw by keyboard. */
  private cross(): Element[] {
    const { clientWidth, clientHeight } = this.map.host;
    const [x, y] = [clientWidth / 2, clientHeight / 2];
    const d = `M${x - 14} ${y}h10m8 0h10M${x} ${y - 14}v10m0 8v10`;
    return [shape('path', 'flint-cross-rim', { d }), shape('path', 'flint-cross', { d })];
  }

  // --- dragging -----------------------------------------------------------------------------------

  private take(event: PointerEvent): void {
    const target = event.target as Element;
    const group = target.closest('.flint-handle');
    const handle = group ? handles.get(group) : undefined;
    const key = handle?.key ?? target.getAttribute('data-key') ?? undefined;
    if (key === undefined || !event.isPrimary || event.button) return;
    event.preventDefault();
    event.stopPropagation();
    const pixel = this.pixelOf(event);
    const from = this.map.toPlace(pixel);
    if (!from) return;
    this.svg.setPointerCapture(event.pointerId);
    if (group instanceof SVGElement) group.focus({ preventScroll: true });
    this.drag = handle ? this.dragOf(handle, pixel) : this.dragWhole(key, from);
  }

  private dragWhole(key: string, from: EditPosition): Drag {
    const { sketch, strings } = this;
    const keys = sketch.selected.has(key) ? [...sketch.selected] : [key];
    const before = keys.map((one) => [one, sketch.document.require(one).geometry] as const);
    return {
      key,
      step: strings.steps.move,
      move: (to) => {
        for (const [one, geometry] of before) sketch.show(one, moved(geometry, from, to, sketch.space));
      },
    };
  }

  private dragOf(handle: Handle, start: Pixel): Drag {
    const { sketch, strings } = this;
    const { kind, key, at } = handle;
    let { vertex } = handle;
    let geometry = sketch.document.require(key).geometry;
    if (kind === 'turn' || kind === 'scale') {
      const about = middleOf(geometry);
      const centre = this.pixels([about])[0] ?? start;
      const angle = ([x, y]: Pixel) => (Math.atan2(x - centre[0], centre[1] - y) * 180) / Math.PI;
      const away = ([x, y]: Pixel) => Math.max(4, Math.hypot(x - centre[0], y - centre[1]));
      return {
        key,
        step: strings.steps.turn,
        move: (_, pixel) => {
          const change =
            kind === 'turn' ? { degrees: angle(pixel) - angle(start) } : { factor: away(pixel) / away(start) };
          sketch.show(key, turned(geometry, about, change, sketch.space));
        },
      };
    }
    if (kind === 'middle') {
      geometry = insertVertex(geometry, vertex, at);
      vertex = { ...vertex, index: vertex.index + 1 };
    } else sketch.grab(key, vertex);
    const except = new Set([key]);
    return {
      key,
      step: kind === 'middle' ? strings.steps.insert : strings.steps.corner,
      move: (to) => {
        const place = sketch.snap(to, this.reach(), except);
        sketch.show(key, moveVertex(geometry, vertex, place), { ...vertex, at: place });
      },
    };
  }

  // --- by keyboard --------------------------------------------------------------------------------

  private key(event: KeyboardEvent): void {
    const group = (event.target as Element).closest('.flint-handle');
    const handle = group && handles.get(group);
    if (!handle) return;
    const { sketch, strings, map } = this;
    const { kind, key, vertex } = handle;
    const geometry = sketch.document.require(key).geometry;
    const steps: Readonly<Record<string, Pixel>> = {
      ArrowLeft: [-1, 0],
      ArrowRight: [1, 0],
      ArrowUp: [0, -1],
      ArrowDown: [0, 1],
    };
    const step = Object.hasOwn(steps, event.key) ? steps[event.key] : undefined;
    const far = event.shiftKey ? 10 : 1;
    const done = () => {
      event.preventDefault();
      event.stopPropagation();
    };
    if (step && (kind === 'turn' || kind === 'scale')) {
      const sign = (step[0] || -step[1]) * far;
      const change = kind === 'turn' ? { degrees: sign } : { factor: 1 + 0.01 * sign };
      sketch.show(key, turned(geometry, middleOf(geometry), change, sketch.space));
      sketch.keep(strings.steps.turn);
      done();
    } else if (step && kind === 'corner') {
      const spot = pathsOf(geometry)[vertex.path].spots[vertex.index];
      const [x, y] = map.toPixel([spot[0], spot[1]]);
      const to = map.toPlace([x + step[0] * far, y + step[1] * far]);
      if (to) {
        sketch.grab(key, vertex);
        sketch.show(key, moveVertex(geometry, vertex, to), { ...vertex, at: to });
        sketch.keep(strings.steps.corner);
      }
      done();
    } else if ((event.key === 'Delete' || event.key === 'Backspace') && kind === 'corner') {
      this.drop(key, vertex);
      done();
    } else if ((event.key === '+' || event.key === 'Insert') && kind === 'corner') {
      const { spots } = pathsOf(geometry)[vertex.path];
      const [a, b] = [spots[vertex.index], spots[(vertex.index + 1) % spots.length]];
      const made = insertVertex(geometry, vertex, [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2]);
      this.apply(key, made, strings.steps.insert);
      done();
    } else if (event.key === 'Escape') {
      sketch.select(undefined);
      map.host.querySelector<HTMLElement>('.flint-canvas')?.focus();
      done();
    }
  }

  private drop(key: string, vertex: VertexName): void {
    const { geometry } = this.sketch.document.require(key);
    const left = deleteVertex(geometry, vertex);
    this.apply(key, left, this.strings.steps.drop);
  }

  private apply(key: string, geometry: EditGeometry | undefined, name: string): void {
    const feature = this.sketch.document.require(key);
    this.sketch.document.apply(name, new Map([[key, geometry && { ...feature, geometry }]]));
  }

  /** Length of the last edge, for the line below the map. */
  lastEdge(): number | undefined {
    const { places, pointer, space } = this.sketch;
    const last = places[places.length - 1];
    return last && pointer ? lineBetween(last, pointer, space).length : undefined;
  }

  remove(): void {
    for (const stop of this.off) stop();
    removeElement(this.svg);
  }
}

/** What each handle on the screen does. */
const handles = new WeakMap<Element, Handle>();
