import { listen } from '../base/live-counts.js';
import type { MapContext } from '../base/map-context.js';
import type { PickedCluster } from '../base/picked-cluster.js';
import { makeElement, place, removeElement } from '../overlay/dom.js';

/** Told of a press on a cluster's element. */
export type ClusterPressed = (cluster: PickedCluster, event: Event) => void;

/** Where a cluster stands on the screen. */
interface Standing extends PickedCluster {
  readonly x: number;
  readonly y: number;
  readonly opacity: number;
  readonly leaving: boolean;
}

interface Dress {
  readonly make: (cluster: PickedCluster) => HTMLElement;
  readonly pressed: ClusterPressed;
}

interface Shown {
  readonly box: HTMLElement;
  readonly count: number;
  readonly off: () => void;
}

/** Clusters that are elements of the page, made by the application. */
export class ClusterElements {
  private readonly dresses = new Map<string, Dress>();
  private readonly shown = new Map<string, Shown>();

  constructor(private readonly context: MapContext) {}

  get any(): boolean {
    return this.dresses.size > 0 || this.shown.size > 0;
  }

  has(layer: string): boolean {
    return this.dresses.has(layer);
  }

  dress(layer: string, make: Dress['make'], pressed: ClusterPressed): () => void {
    const dress = { make, pressed };
    this.clear(layer);
    this.dresses.set(layer, dress);
    return () => {
      if (this.dresses.get(layer) !== dress) return;
      this.dresses.delete(layer);
      this.clear(layer);
    };
  }

  /** Height of a cluster's element; undefined where it has none. */
  sizeOf(layer: string, id: number): number | undefined {
    const shown = this.shown.get(`${layer}/${id}`);
    return shown && Math.max(shown.box.offsetWidth, shown.box.offsetHeight);
  }

  /** Shows the elements of some clusters, and takes all others off. */
  follow(standing: readonly Standing[]): void {
    const left = new Set(this.shown.keys());
    for (const one of standing) {
      const { layer, node, x, y, opacity, leaving } = one;
      const key = `${layer}/${node.id}`;
      if (leaving && !this.shown.has(key)) continue;
      const { style } = this.elementOf(key, one);
      left.delete(key);
      style.transform = `translate(${Math.round(x)}px, ${Math.round(y)}px) translate(-50%, -50%)`;
      style.opacity = String(opacity);
    }
    for (const key of left) this.drop(key);
  }

  private elementOf(key: string, { layer, node, at }: Standing): HTMLElement {
    const known = this.shown.get(key);
    if (known?.count === node.count) return known.box;
    if (known) this.drop(key);
    const { make, pressed } = this.dresses.get(layer)!;
    const cluster: PickedCluster = { layer, node, at };
    const box = place(this.context.overlay, makeElement('div', 'flint-marker'));
    box.append(make(cluster));
    box.tabIndex = 0;
    box.setAttribute('role', 'button');
    box.setAttribute('aria-label', this.context.strings.clusterOf(node.count, this.titleOf(layer)));
    const stops = [
      listen(box, 'click', (event: MouseEvent) => pressed(cluster, event)),
      listen(box, 'keydown', (event: KeyboardEvent) => {
        if (event.key !== 'Enter' && event.key !== ' ') return;
        event.preventDefault();
        pressed(cluster, event);
      }),
    ];
    this.shown.set(key, { box, count: node.count, off: () => stops.forEach((stop) => stop()) });
    return box;
  }

  private titleOf(layer: string): string {
    return this.context.state.sheet.layers.find(({ id }) => id === layer)?.title ?? layer;
  }

  private drop(key: string): void {
    const shown = this.shown.get(key);
    if (!shown) return;
    shown.off();
    removeElement(shown.box);
    this.shown.delete(key);
  }

  private clear(layer: string): void {
    for (const key of [...this.shown.keys()]) if (key.startsWith(`${layer}/`)) this.drop(key);
  }

  remove(): void {
    this.dresses.clear();
    for (const key of [...this.shown.keys()]) this.drop(key);
  }
}
