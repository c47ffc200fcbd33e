import {
  asFault,
  boundsOfAll,
  Fault,
  featureKeys,
  TileCutter,
  type CompiledLayer,
  type FeatureBlock,
  type SquareGrid,
  type Surface,
} from '@flintwright/core';
import { buffersOfPieces, hiddenMark } from '@flintwright/core/internal';
import type { FeatureTools, ToDegrees } from './features.js';
import { readOverlay } from './read-overlay.js';
import type { CallName, ReplyOf, RequestOf } from './messages.js';

/** A reply, and the buffers that are handed over with it. */
export interface Answer<K extends CallName> {
  readonly reply: ReplyOf<K>;
  readonly transfer?: readonly ArrayBuffer[];
}

export type Calls<K extends CallName> = { readonly [Name in K]: (request: RequestOf<Name>) => Answer<Name> };

type FeatureCalls = Calls<Exclude<CallName, 'tile'>>;
type PlainName = 'features' | 'export' | 'has';

/** What features are held for: the sheet in force, and the surface that it is drawn on. */
export interface Scene {
  readonly surface: Surface;
  layersOf(data: string): readonly CompiledLayer[];
  /** A function that takes coordinates of a system to longitude and latitude. @throws Fault for a system that is not known here */
  toDegrees(crs: string): ToDegrees;
}

/** Features held in memory, as they came, and what cuts tiles of them for the sheet in force. */
interface Held {
  readonly block: FeatureBlock;
  readonly maxZoom: number;
  /** With answers about whole geometries, as the sheet's expressions ask for them. */
  readonly whole: FeatureBlock;
  readonly measured: boolean;
  readonly cutter: TileCutter;
  readonly grid: SquareGrid;
}

/** The features that a worker holds, cut into tiles; with the tools for it they are joined, edited and clustered, too. */
export class HeldFeatures {
  private readonly held = new Map<string, Held>();
  readonly calls: Partial<FeatureCalls>;

  /**
   * @param tools what it takes for more than GeoJSON that is drawn as it came
   */
  constructor(
    private readonly scene: Scene,
    private readonly tools?: FeatureTools,
  ) {
    this.calls = { ...this.plainCalls, ...(tools && this.callsWith(tools)) };
  }

  private readonly plainCalls: Pick<FeatureCalls, PlainName> = {
    features: (request) => this.add(request),
    export: ({ data }) => ({ reply: { block: this.of(data).block } }),
    has: ({ data, keys, idName }) => {
      const { block } = this.of(data);
      const keyOf = featureKeys(block, idName);
      const missing = new Set(keys);
      for (let f = 0; f < block.count && missing.size; f++) missing.delete(keyOf(f) ?? '');
      return { reply: { missing: [...missing] } };
    },
  };

  private callsWith({ classesOf, clustersOf, edited }: FeatureTools): Omit<FeatureCalls, PlainName> {
    return {
      edit: ({ data, idName, edit }) => {
        const { block: before, maxZoom } = this.of(data);
        const read = (source: string | object) => this.read({ data, idName, source }, false).block;
        this.held.set(data, this.fit(data, { block: edited(before, edit, idName, read), maxZoom }));
        return { reply: {} };
      },
      clusters: ({ data, query }) => {
        const { block } = this.of(data);
        const clusters = clustersOf(block, query);
        const buffers = new Set([clusters.xs.buffer as ArrayBuffer, clusters.ys.buffer as ArrayBuffer]);
        return { reply: { data: clusters, block }, transfer: [...buffers] };
      },
      classes: ({ data, wanted }) => ({ reply: { breaks: classesOf(this.of(data).block, wanted) } }),
    };
  }

  /** @throws Fault `worker.data` */
  of(data: string): Held {
    const features = this.held.get(data);
    if (features) return features;
    throw new Fault('worker.data', `the worker holds no features "${data}"`, 'Add the data again.');
  }

  forget(data: string): void {
    this.held.delete(data);
  }

  /** Brings all up to another sheet. */
  refit(): void {
    for (const [data, features] of this.held) this.held.set(data, this.fit(data, features));
  }

  /** Brings features up to what the sheet asks of them: answers about whole geometries, and measures along lines. */
  private fit(data: string, before: Pick<Held, 'block' | 'maxZoom'> & Partial<Held>): Held {
    const { block, maxZoom } = before;
    const layers = this.scene.layersOf(data);
    const expressions = layers.flatMap((layer) => layer.expressions);
    const kept = before.whole ?? block;
    const whole = this.tools?.withGeometryAnswers(kept, expressions) ?? kept;
    const measured = (before.measured ?? false) || layers.some((layer) => layer.hasGradient);
    const { grid } = this.scene.surface;
    const same = whole === before.whole && measured === before.measured && grid === before.grid;
    const cutter = same ? before.cutter : undefined;
    return {
      block,
      maxZoom,
      whole,
      measured,
      grid,
      cutter: cutter ?? new TileCutter(whole, maxZoom, { measured, grid }),
    };
  }

  private read(request: Omit<RequestOf<'features'>, 'maxZoom'>, number = true): ReturnType<FeatureTools['read']> {
    const crs = request.block ? undefined : request.crs;
    return (this.tools?.read ?? readOverlay)(request, {
      plan: this.scene.surface.space === 'plane',
      toDegrees: crs === undefined ? undefined : this.scene.toDegrees(crs),
      number,
    });
  }

  private add(request: RequestOf<'features'>): Answer<'features'> {
    const { data, maxZoom, held, pieces } = request;
    let found: ReturnType<FeatureTools['read']>;
    try {
      found = held ? { block: held } : this.read(request);
    } catch (error) {
      if (!pieces) throw error;
      const fault = asFault(error, 'features.read', 'Check the features.').toJSON();
      return {
        reply: { bounds: undefined, attributes: [], unread: { fault, pieces } },
        transfer: buffersOfPieces(pieces),
      };
    }
    const { block, report } = found;
    this.held.set(data, this.fit(data, { block, maxZoom }));
    const bounds = block.coords.length ? boundsOfAll(block) : undefined;
    const attributes = block.columns.map(({ name }) => name).filter((name) => !name.startsWith(hiddenMark));
    return { reply: { bounds, attributes, ...(report ? { join: report } : {}) } };
  }
}
