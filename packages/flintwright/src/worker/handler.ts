import {
  asFault,
  Fault,
  isGzip,
  readTile,
  type CompiledLayer,
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
  mercatorGrid,
  plainPortrayal,
  prepareTile,
  unpackNatively,
  type PlainLayer,
  type ProjectedTile,
} from '@flintwright/core/internal';
import type { ToDegrees } from './features.js';
import type { Answer, Calls, HeldFeatures, Scene } from './held-features.js';
import { lacking } from './plain-surface.js';
import type { valueTools } from './value-tools.js';
import {
  isHere,
  stillPacked,
  type CallMessage,
  type CallName,
  type FromWorker,
  type RequestOf,
  type SheetMessage,
  type ToWorker,
} from './messages.js';

/** What a worker can do beside reading tiles for web Mercator and plans, and drawing them by plain sheets. */
export interface WorkerTools {
  /** What takes sheets that are not plain. */
  readonly values?: typeof valueTools;
  /** @throws Fault for a surface that is not known */
  surface(spec: SurfaceSpec | undefined): Surface;
  /** Makes what holds features; a worker without it has tiles only. */
  hold?(scene: Scene): HeldFeatures;
  /** Projects features onto surfaces that do more than move and scale tiles. */
  projectTile?(block: FeatureBlock, tile: TileAddress, grid: SquareGrid, surface: Surface): ProjectedTile;
  /** A function that takes coordinates of a system to longitude and latitude. */
  toDegrees?(crs: string): ToDegrees;
  /** The grid of a tile matrix set. */
  grid?(spec: string | object): SquareGrid;
}

/** The side of the map that runs in workers: bytes in, prepared tiles out. */
export class WorkerHandler implements Scene {
  surface: Surface;
  private version = 0;
  /** Layers of the sheet in force: compiled by a worker that takes every sheet, as they came by others. */
  private layers: readonly CompiledLayer[] = [];
  private plain: readonly PlainLayer[] = [];
  private sprites: ReadonlyMap<string, number> = new Map();
  private readonly features: HeldFeatures | undefined;
  /** Data whose colors were looked at since the sheet or they changed, and what was told of them. */
  private readonly looked = new Set<string>();
  private readonly told = new Set<string>();

  /** @param post sends an answer to the map */
  constructor(
    private readonly tools: WorkerTools,
    private readonly post: (message: FromWorker, transfer: readonly ArrayBuffer[]) => void,
  ) {
    this.surface = tools.surface(undefined);
    this.features = tools.hold?.(this);
  }

  /** Does what the map says. */
  hear(message: ToWorker): void {
    if ('sheet' in message) this.setSheet(message.sheet);
    else if ('forget' in message) this.features?.forget(message.forget);
    else this.answer(message);
  }

  layersOf(data: string): readonly CompiledLayer[] {
    return this.layers.filter((layer) => layer.data === data);
  }

  toDegrees(crs: string): ToDegrees {
    return required(this.tools.toDegrees)(crs);
  }

  private answer<K extends CallName>({ call, id, request }: CallMessage<K>): void {
    const packed = call === 'tile' && packedBytes(request as RequestOf<'tile'>);
    if (!packed) {
      this.work({ call, id, request });
      return;
    }
    // Other work may be done meanwhile; the tile is prepared by the sheet that is in force then.
    unpackNatively(packed).then(
      (bytes) => {
        if (bytes) this.work({ call, id, request: { ...request, bytes } });
        else this.failed(id, new Fault(stillPacked, 'this worker cannot unpack the tile', 'The map unpacks it.'));
      },
      (error: unknown) => this.failed(id, error),
    );
  }

  private work<K extends CallName>({ call, id, request }: CallMessage<K>): void {
    try {
      const { reply, transfer = [] } = this.callOf(call)(request);
      if (call === 'features') this.looked.delete((request as RequestOf<'features'>).data);
      this.post({ id, ok: true, version: this.version, reply }, transfer);
    } catch (error) {
      this.failed(id, error);
    }
  }

  private failed(id: number, error: unknown): void {
    const fault = asFault(error, 'worker.failed', 'Please report this with the data that causes it.');
    this.post({ id, ok: false, fault: fault.toJSON() }, []);
  }

  private callOf<K extends CallName>(call: K): (request: RequestOf<K>) => Answer<K> {
    const all: Partial<Calls<CallName>> = { ...this.features?.calls, tile: (request) => this.prepare(request) };
    return required<unknown>(all[call]) as (request: RequestOf<K>) => Answer<K>;
  }

  private setSheet({ sheet, plain = [], version, sprites, surface }: SheetMessage): void {
    this.surface = this.tools.surface(surface);
    this.layers = this.tools.values?.layersOf(sheet) ?? [];
    this.plain = plain;
    this.looked.clear();
    this.version = version;
    this.sprites = new Map(sprites.map((name, i) => [name, i]));
    this.features?.refit();
  }

  private prepare({ data, tile, zoom, shown, bytes, grid: gridSpec }: RequestOf<'tile'>): Answer<'tile'> {
    const violations: Violation[] = [];
    const features = bytes ? undefined : required(this.features).of(data);
    const cut = features?.cutter.tile(tile);
    let blocks = bytes ? readTile(bytes, { violations }) : cut ? [cut] : [];
    // Clustered marks are drawn as the clusters stand, not tile by tile.
    const mine = <L extends PlainLayer | CompiledLayer>(layers: readonly L[]) =>
      layers.filter((layer) => layer.data === data && !layer.clustered);
    const { values } = this.tools;
    const layers = mine(this.layers);
    const wanted = new Set((values ? layers : mine(this.plain)).map((layer) => layer.from));
    // Blocks that no layer draws stay behind.
    if (!wanted.has('')) blocks = blocks.filter((block) => wanted.has(block.name));
    const { surface } = this;
    const grid = features ? surface.grid : gridSpec === undefined ? mercatorGrid : required(this.tools.grid)(gridSpec);
    const flat = surface.flat && surface.grid === grid;
    const task = {
      tile,
      blocks,
      zoom,
      shown,
      project: flat
        ? undefined
        : (block: FeatureBlock, at: TileAddress) => required(this.tools.projectTile)(block, at, grid, surface),
      wholes: features && ((row: number) => features.cutter.middle(row)),
    };
    const sprites = (name: string) => this.sprites.get(name) ?? 0;
    const reply = values
      ? prepareTile({ ...task, layers, portrayal: values.portrayal(sprites), anchorsOf: values.anchorsOf })
      : prepareTile({ ...task, layers: mine(this.plain), portrayal: plainPortrayal });
    const hint = 'That feature was left out. Write the tile again with a correct encoder.';
    const notes = violations
      .slice(0, 20)
      .map(({ code, message, offset }) => new Fault(code, message, hint, `byte ${offset}`).toJSON());
    notes.push(...this.colorNotes(data, layers, blocks, features?.block));
    return { reply: { tile: reply, notes }, transfer: buffersOfPrepared(reply) };
  }

  /** Tells once of each layer whose features have no colors where they should: of features whole, of tiles as they come. */
  private colorNotes(
    data: string,
    layers: readonly CompiledLayer[],
    blocks: readonly FeatureBlock[],
    whole: FeatureBlock | undefined,
  ): FaultLike[] {
    const { values } = this.tools;
    if (!values) return [];
    if (whole) {
      if (this.looked.has(data)) return [];
      this.looked.add(data);
    }
    const faults = layers.flatMap((layer) =>
      (whole ? [whole] : blocks.filter(({ name }) => name === layer.from)).flatMap((block) =>
        values.unusableColors(layer, block),
      ),
    );
    return faults
      .filter(({ at, message }) => {
        const key = `${at} ${message.replace(/^\d+ \w+/, '').replace(/:.*/, '')}`;
        return !this.told.has(key) && this.told.add(key);
      })
      .map((fault) => fault.toJSON());
  }
}

/** The bytes of a tile that came packed. */
const packedBytes = ({ bytes }: RequestOf<'tile'>) => (bytes && isGzip(bytes) ? bytes : undefined);

/** A tool that the worker of a plain map lacks. */
function required<T>(tool: T | undefined): T {
  if (tool) return tool;
  throw lacking();
}

/** Begins to answer in the worker that this runs in. */
export function serve(tools: WorkerTools): void {
  const scope = globalThis as unknown as {
    onmessage: ((event: MessageEvent<ToWorker>) => void) | null;
    postMessage(message: FromWorker | typeof isHere, transfer: readonly ArrayBuffer[]): void;
  };
  const handler = new WorkerHandler(tools, (message, transfer) => scope.postMessage(message, transfer));
  scope.onmessage = ({ data }) => handler.hear(data);
  scope.postMessage(isHere, []);
}
