// Room "clusters": points that come together, and how they are placed over the ground.
import type { Camera } from '@flintwright/core/internal';
import { LatePart } from '../base/late-part.js';
import type { MapContext } from '../base/map-context.js';
import type { PickedCluster } from '../base/picked-cluster.js';
import type { PickedFeature } from '../base/picked-feature.js';
import type { Sources } from '../load/sources.js';
import type { ClusterPressed } from './cluster-elements.js';
import type { ClusterLayers, StandingNode } from './cluster-layer.js';
import type { ClusterDrawing } from '../gl/renderer.js';
import type { SymbolTarget } from './cluster-symbol.js';

interface Dress {
  readonly layer: string;
  readonly make: (cluster: PickedCluster) => HTMLElement;
  readonly pressed: ClusterPressed;
  /** Takes it off, once it is on. */
  off?: () => void;
}

/** The clusters of a map. What draws them is fetched when a sheet first has some; until then there are none. */
export class Clusters {
  private readonly part: LatePart<ClusterLayers>;
  private readonly dresses = new Set<Dress>();

  constructor(
    private readonly context: MapContext,
    sources: Sources,
  ) {
    this.part = new LatePart(
      context,
      async () => new (await import('./cluster-layer.js')).ClusterLayers(context, sources),
      (layers) => this.dresses.forEach((dress) => this.adoptStyles(dress, layers)),
    );
  }

  private get layers(): ClusterLayers | undefined {
    return this.part.known;
  }

  private adoptStyles(dress: Dress, layers: ClusterLayers): void {
    dress.off = layers.dress(dress.layer, dress.make, dress.pressed);
  }

  /** See {@link ClusterLayers.dress}. */
  dress(layer: string, make: Dress['make'], pressed: ClusterPressed): () => void {
    const dress: Dress = { layer, make, pressed };
    this.dresses.add(dress);
    if (this.layers) this.adoptStyles(dress, this.layers);
    return () => {
      this.dresses.delete(dress);
      dress.off?.();
    };
  }

  /** Settles what stands for a view, moved on by `elapsed` milliseconds. */
  follow(camera: Camera, elapsed: number, still: boolean): void {
    if (this.layers) this.layers.follow(camera, elapsed, still);
    else if (this.context.state.sheet.layers.some(({ clustered }) => clustered)) void this.part.ready();
  }

  /** Puts the elements of clusters where they belong. */
  followElements(camera: Camera): void {
    this.layers?.followElements(camera);
  }

  /** Whether there is what draws them. */
  get isThere(): boolean {
    return this.layers !== undefined;
  }

  /** Writes the boxes to draw; returns the clusters that are drawn otherwise. */
  write(camera: Camera, target: Omit<SymbolTarget, 'figures'>): ClusterDrawing | undefined {
    return this.layers?.write(camera, target);
  }

  /** Whether something is still gliding. */
  get moving(): boolean {
    return this.layers?.moving ?? false;
  }

  /** Boxes on the screen that labels are to leave free. */
  boxes(camera: Camera): [number, number, number, number][] {
    return this.layers?.boxes(camera) ?? [];
  }

  /** The cluster at a pixel. */
  findCluster(camera: Camera, x: number, y: number): PickedCluster | undefined {
    return this.layers?.findCluster(camera, x, y);
  }

  /** The single features at a pixel, topmost first. */
  pick(camera: Camera, x: number, y: number, layers: readonly string[] | undefined): PickedFeature[] {
    return this.layers?.pick(camera, x, y, layers) ?? [];
  }

  /** All that stands in view, clusters and single features. */
  inView(camera: Camera): StandingNode[] {
    return this.layers?.inView(camera) ?? [];
  }

  /** Spreads the members of a cluster that share one place around it. */
  fan(cluster: Parameters<ClusterLayers['fan']>[0]): void {
    this.layers?.fan(cluster);
  }

  /** Forgets how points look, after the sheet or a state has changed. */
  forget(): void {
    this.layers?.forget();
  }

  /** Takes the elements of clusters off the page. */
  remove(): void {
    this.layers?.remove();
  }
}
