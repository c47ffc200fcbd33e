import {
  featureKeys,
  asFault,
  boundsOfAll,
  editBlock,
  Fault,
  gunzip,
  readTile,
  TileCutter,
  type CompiledLayer,
  type CompiledSheet,
  type Expression,
  type FaultLike,
  type FeatureBlock,
  type SquareGrid,
  type Surface,
  type SurfaceSpec,
  type TileAddress,
  type Violation,
} from '@flintwright/core';
import {
  buffersOfPrepared,
  compileSheet,
  compileTree,
  mercatorGrid,
  prepareTile,
  unusableColours,
  withGeometryAnswers,
  type ProjectedTile,
  hiddenMark,
} from '@flintwright/core/internal';
import { classesOf, clustersOf, readFeatures, type ToDegrees } from './features.js';
import type { CallMessage, CallName, FromWorker, ReplyOf, RequestOf, SheetMessage, ToWorker } from './messages.js';

/** A worker's knowledge of surfaces. */
export interface SurfaceTools {
  /** @throws Fault for a surface that is not known */
  surface(spec: SurfaceSpec | undefined): Surface;
  /** Projects features onto surfaces that do more than move and scale tiles. */
  projectTile?(block: FeatureBlock, tile: TileAddress, grid: SquareGrid, surface: Surface): ProjectedTile;
  /** A function that takes coordinates of a system to longitude and latitude. */
  toDegrees?(crs: string): ToDegrees;
  /** The grid of a tile matrix set. */
  grid?(spec: string | object): SquareGrid;
}

/** Features held in memory, as they came, and what cuts tiles of them for the sheet in force. */
interface HeldFeatures {
  readonly block: FeatureBlock;
  readonly maxZoom: number;
  /** With answers about whole geometries, as the sheet's expressions ask for them. */
  readonly whole: FeatureBlock;
  readonly measured: boolean;
  readonly cutter: TileCutter;
  readonly grid: SquareGrid;
}

/** A reply, and the buffers that are handed over with it. */
interface Answer<K extends CallName> {
  readonly reply: ReplyOf<K>;
  readonly transfer?: readonly ArrayBuffer[];
}

/** The side of the map that runs in workers: bytes in, prepared tiles out. */
export class WorkerHandler {
  private readonly held = new Map<string, HeldFeatures>();
  private sheet: CompiledSheet | undefined;
  private version = 0;
  private sprites: ReadonlyMap<string, number> = new Map();
  private surface: Surface;

  private readonly calls: { readonly [K in CallName]: (request: RequestOf<K>) => Answer<K> } = {
    features: (request) => this.addFeatures(request),
    export: ({ data }) => ({ reply: { block: this.features(data).block } }),
    edit: (request) => this.edit(request),
    has: ({ data, keys, idName }) => {
      const { block } = this.features(data);
      const keyOf = featureKeys(block, idName);
      const missing = new Set(keys);
      for (let f = 0; f < block.count && missing.size; f++) missing.delete(keyOf(f) ?? '');
      return { reply: { missing: [...missing] } };
    },
    clusters: ({ data, query }) => {
      const { block } = this.features(data);
      const clusters = clustersOf(block, query);
      const buffers = new Set([clusters.xs.buffer as ArrayBuffer, clusters.ys.buffer as ArrayBuffer]);
      return { reply: { data: clusters, block }, transfer: [...buffers] };
    },
    classes: ({ data, wanted }) => ({ reply: { breaks: classesOf(this.features(data).block, wanted) } }),
    tile: (request) => this.prepare(request),
  };

  /** @param post sends an answer to the map */
  constructor(
    private readonly tools: SurfaceTools,
    private readonly post: (message: FromWorker, transfer: readonly ArrayBuffer[]) => void,
  ) {
    this.surface = tools.surface(undefined);
  }

  /** Does what the map says. */
  hear(message: ToWorker): void {
    if ('sheet' in message) this.setSheet(message.sheet);
    else if ('forget' in message) this.held.delete(message.forget);
    else this.answer(message);
  }

  private answer<K extends CallName>({ call, id, request }: CallMessage<K>): void {
    try {
      const { reply, transfer = [] } = this.calls[call](request);
      this.post({ id, ok: true, version: this.version, reply }, transfer);
    } catch (error) {
      const fault = asFault(error, 'worker.failed', 'Please report this with the data that brings it about.');
      this.post({ id, ok: false, fault: fault.toJSON() }, []);
    }
  }

  private setSheet({ sheet, version, sprites, surface }: SheetMessage): void {
    this.surface = this.tools.surface(surface);
    // The map has checked the sheet and written its schemes and expressions out.
    this.sheet = compileSheet(sheet, () => {});
    this.looked.clear();
    this.version = version;
    this.sprites = new Map(sprites.map((name, i) => [name, i]));
    for (const [data, features] of this.held) this.held.set(data, this.fit(data, features));
  }

  private layersOf(data: string): readonly CompiledLayer[] {
    return this.sheet?.layers.filter((layer) => layer.data === data) ?? [];
  }

  /** @throws Fault `worker.data` */
  private features(data: string): HeldFeatures {
    const features = this.held.get(data);
    if (features) return features;
    throw new Fault('worker.data', `the worker holds no features "${data}"`, 'Add the data again.');
  }

  /** Brings features up to what the sheet asks of them: answers about whole geometries, and measures along lines. */
  private fit(data: string, before: Pick<HeldFeatures, 'block' | 'maxZoom'> & Partial<HeldFeatures>): HeldFeatures {
    const { block, maxZoom } = before;
    const layers = this.layersOf(data);
    const expressions = layers.flatMap((layer) => layer.expressions);
    const whole = withGeometryAnswers(before.whole ?? block, expressions);
    const measured = (before.measured ?? false) || layers.some((layer) => layer.hasGradient);
    const { grid } = this.surface;
    const same = whole === before.whole && measured === before.measured && grid === before.grid;
    const kept = same ? before.cutter : undefined;
    return {
      block,
      maxZoom,
      whole,
      measured,
      grid,
      cutter: kept ?? new TileCutter(whole, maxZoom, { measured, grid }),
    };
  }

  private read(request: Parameters<typeof readFeatures>[0] & { readonly crs?: string | undefined }, number = true) {
    const crs = request.block ? undefined : request.crs;
    return readFeatures(request, {
      plan: this.surface.space === 'plane',
      toDegrees: crs === undefined ? undefined : required(this.tools.toDegrees)(crs),
      number,
    });
  }

  private addFeatures(request: RequestOf<'features'>): Answer<'features'> {
    const { data, maxZoom, held } = request;
    const { block, report } = held ? { block: held } : this.read(request);
    this.held.set(data, this.fit(data, { block, maxZoom }));
    this.looked.delete(data);
    const bounds = block.coords.length ? boundsOfAll(block) : undefined;
    const attributes = block.columns.map(({ name }) => name).filter((name) => !name.startsWith(hiddenMark));
    return { reply: { bounds, attributes, ...(report ? { join: report } : {}) } };
  }

  private edit({ data, idName, edit }: RequestOf<'edit'>): Answer<'edit'> {
    const { block: before, maxZoom } = this.features(data);
    const { put, ...rest } = edit;
    const added = put === undefined ? {} : { put: this.read({ data, idName, source: put }, false).block };
    const { block } = editBlock(before, { ...rest, ...added }, idName);
    this.held.set(data, this.fit(data, { block, maxZoom }));
    return { reply: {} };
  }

  private prepare({ data, tile, zoom, shown, bytes, grid: gridSpec }: RequestOf<'tile'>): Answer<'tile'> {
    const violations: Violation[] = [];
    const features = bytes ? undefined : this.features(data);
    const cut = features?.cutter.tile(tile);
    let blocks = bytes ? readTile(gunzip(bytes), { violations }) : cut ? [cut] : [];
    // Clustered marks are drawn as the clusters stand, not tile by tile.
    const layers = this.layersOf(data).filter((layer) => !layer.clustered);
    const wanted = new Set(layers.map((layer) => layer.from));
    // Blocks that no layer draws stay behind.
    if (!wanted.has('')) blocks = blocks.filter((block) => wanted.has(block.name));
    const { surface } = this;
    const grid = features ? surface.grid : gridSpec === undefined ? mercatorGrid : required(this.tools.grid)(gridSpec);
    const flat = surface.flat && surface.grid === grid;
    const reply = prepareTile({
      tile,
      blocks,
      layers,
      zoom,
      shown,
      sprites: (name) => this.sprites.get(name) ?? 0,
      project: flat ? undefined : (block, at) => required(this.tools.projectTile)(block, at, grid, surface),
      wholes: features && ((row) => features.cutter.middle(row)),
    });
    const hint = 'That feature is left out; have the tile written again.';
    const notes = violations
      .slice(0, 20)
      .map(({ code, message, offset }) => new Fault(code, message, hint, `byte ${offset}`).toJSON());
    notes.push(...this.colourNotes(data, layers, features ? [features.block] : blocks));
    return { reply: { tile: reply, notes }, transfer: buffersOfPrepared(reply) };
  }

  /** Tells once of each layer whose features have no colours where they should. */
  private colourNotes(data: string, layers: readonly CompiledLayer[], blocks: readonly FeatureBlock[]): FaultLike[] {
    // Features are looked at whole, and once; tiles as they come.
    if (this.held.has(data)) {
      if (this.looked.has(data)) return [];
      this.looked.add(data);
    }
    return layers.flatMap((layer) =>
      blocks.flatMap((block) =>
        layer.from && layer.from !== block.name
          ? []
          : unusableColours(layer, block, (is) => compileTree(is as Expression))
              .filter(({ message }) => {
                const key = `${layer.id} ${message.replace(/^\d+ \w+/, '').replace(/:.*/, '')}`;
                return !this.told.has(key) && this.told.add(key);
              })
              .map((fault) => fault.toJSON()),
      ),
    );
  }

  /** Data whose colours were looked at since the sheet or they changed, and what was told of them. */
  private readonly looked = new Set<string>();
  private readonly told = new Set<string>();
}

/** A tool that the worker of a plain map lacks. */
function required<T>(tool: T | undefined): T {
  if (tool) return tool;
  throw new Fault(
    'worker.surface',
    'this worker knows no other surface than web Mercator and plans',
    'Serve flintwright/worker, which knows all of them.',
  );
}

/** Begins to answer in the worker that this runs in. */
export function serve(tools: SurfaceTools): void {
  const scope = globalThis as unknown as {
    onmessage: ((event: MessageEvent<ToWorker>) => void) | null;
    postMessage(message: FromWorker, transfer: readonly ArrayBuffer[]): void;
  };
  const handler = new WorkerHandler(tools, (message, transfer) => scope.postMessage(message, transfer));
  scope.onmessage = ({ data }) => handler.hear(data);
}
