import { listen } from '../base/live-counts.js';
import { removeElement, makeElement, place } from '../overlay/dom.js';
import type { HeldMarker, Marker, MarkerEvents, MarkerFigure } from './marker.js';

/** Follows a pointer: where it is, in pixels of the map, and whether it has let go. */
export type Drag = (to: readonly [number, number], done: boolean) => void;

export interface MarkerElementHost {
  /** Where elements of markers stand. */
  readonly overlay: HTMLElement;
  /** The element has got another size. */
  changed(): void;
  told(marker: Marker, type: keyof MarkerEvents, event: Event): void;
  /** The picture at an address could not be had. */
  broken(address: string): void;
  dragging(marker: HeldMarker, from: readonly [number, number]): Drag;
  nudge(marker: HeldMarker, dx: number, dy: number): void;
}

const arrows: Readonly<Record<string, readonly [number, number]>> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

/** The element of a marker that is a picture or an element of the application's own. */
export class MarkerElement implements MarkerFigure {
  readonly box: HTMLElement;
  private readonly off: readonly (() => void)[];
  private drag: Drag | undefined;
  private moved = false;

  constructor(
    private readonly marker: HeldMarker,
    private readonly host: MarkerElementHost,
  ) {
    const { image, element, popup, draggable, size, title = popup?.title } = marker.options;
    const box = makeElement('div', 'flint-marker');
    if (element) box.append(element);
    else {
      const picture = makeElement('img');
      picture.src = image!;
      picture.alt = title ?? '';
      picture.height = size ?? 36;
      picture.draggable = false;
      picture.addEventListener('load', () => host.changed(), { once: true });
      picture.addEventListener(
        'error',
        () => {
          box.classList.add('flint-missing');
          picture.removeAttribute('src');
          host.changed();
          host.broken(image!);
        },
        { once: true },
      );
      box.append(picture);
    }
    if (title) box.title = title;
    if (popup ?? draggable) {
      box.tabIndex = 0;
      box.setAttribute('role', 'button');
      if (title) box.setAttribute('aria-label', title);
    }
    this.box = place(host.overlay, box);
    this.off = this.listen();
  }

  /** Whether a marker with these options is an element of the page. */
  static isFor({ image, element }: HeldMarker['options']): boolean {
    return image !== undefined || element !== undefined;
  }

  show(x: number, y: number, scale: number): void {
    const { style } = this.box;
    style.visibility = 'visible';
    style.transform = `translate(${Math.round(x)}px, ${Math.round(y)}px)${scale < 1 ? ` scale(${scale})` : ''}`;
  }

  hide(): void {
    this.box.style.visibility = 'hidden';
  }

  private listen(): (() => void)[] {
    const { box, marker, host } = this;
    const at = (event: PointerEvent): [number, number] => {
      const { left, top } = host.overlay.getBoundingClientRect();
      return [event.clientX - left, event.clientY - top];
    };
    return [
      listen(box, 'pointerdown', (event: PointerEvent) => {
        this.moved = false;
        if (!marker.options.draggable || event.button !== 0) return;
        box.setPointerCapture(event.pointerId);
        this.drag = host.dragging(marker, at(event));
      }),
      listen(box, 'pointermove', (event: PointerEvent) => {
        if (!this.drag) return;
        this.moved = true;
        this.drag(at(event), false);
      }),
      listen(box, 'pointerup', (event: PointerEvent) => {
        if (this.moved) this.drag?.(at(event), true);
        this.drag = undefined;
      }),
      listen(box, 'click', (event: MouseEvent) => {
        if (!this.moved) host.told(marker, 'press', event);
      }),
      listen(box, 'dblclick', (event: MouseEvent) => host.told(marker, 'dblpress', event)),
      listen(box, 'contextmenu', (event: MouseEvent) => {
        event.preventDefault();
        event.stopPropagation();
        host.told(marker, 'contextmenu', event);
      }),
      listen(box, 'pointerenter', (event: PointerEvent) => host.told(marker, 'pointerenter', event)),
      listen(box, 'pointerleave', (event: PointerEvent) => host.told(marker, 'pointerleave', event)),
      listen(box, 'keydown', (event: KeyboardEvent) => {
        const way = Object.hasOwn(arrows, event.key) && event.shiftKey ? arrows[event.key] : undefined;
        if (event.key === 'Enter' || event.key === ' ') host.told(marker, 'press', event);
        else if (way && marker.options.draggable) host.nudge(marker, way[0] * 8, way[1] * 8);
        else return;
        event.preventDefault();
      }),
    ];
  }

  remove(): void {
    for (const stop of this.off) stop();
    removeElement(this.box);
  }
}
