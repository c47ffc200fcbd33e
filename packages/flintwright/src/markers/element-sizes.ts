import type { HeldMarker } from './marker.js';

/** Follows the sizes of elements of markers: of pictures that load, and of contents that an application changes. */
export class ElementSizes {
  private readonly markers = new Map<Element, HeldMarker>();
  /** Width and height of each element when it was measured, in CSS pixels. */
  private readonly known = new WeakMap<Element, readonly [number, number]>();
  private observer: ResizeObserver | undefined;

  /** @param changed called with a marker whose element has another size than when it was measured */
  constructor(private readonly changed: (marker: HeldMarker) => void) {}

  watch(marker: HeldMarker, box: HTMLElement): void {
    if (this.markers.has(box)) return;
    this.observer ??= new ResizeObserver((entries) => this.follow(entries));
    this.markers.set(box, marker);
    this.observer.observe(box);
  }

  /** Notes the size that an element has now. */
  measured(box: HTMLElement): void {
    this.known.set(box, [box.offsetWidth, box.offsetHeight]);
  }

  private follow(entries: readonly ResizeObserverEntry[]): void {
    for (const { target } of entries) {
      const marker = this.markers.get(target);
      const { offsetWidth, offsetHeight } = target as HTMLElement;
      const [width, height] = this.known.get(target) ?? [];
      if (marker && (width !== offsetWidth || height !== offsetHeight)) this.changed(marker);
    }
  }

  unwatch(box: Element): void {
    this.markers.delete(box);
    this.observer?.unobserve(box);
  }
}
