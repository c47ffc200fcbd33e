import {
  asFault,
  boundsOfAll,
  buffersOfPrepared,
  classBreaks,
  ClusterIndex,
  compileSheet,
  compileTree,
  Fault,
  findColumn,
  greatCircles,
  gunzip,
  editBlock,
  joinTable,
  kindNumber,
  mercatorGrid,
  numbered,
  pointsOfTable,
  prepareTile,
  readGeoJson,
  readTable,
  readTile,
  TileCutter,
  valueAt,
  vertexRange,
  withGeometryAnswers,
  type ClusterData,
  type Draped,
  type SquareGrid,
  type Surface,
  type SurfaceSpec,
  type TileAddress,
  type CompiledSheet,
  type Expression,
  type FeatureBlock,
  type JoinReport,
  type Violation,
} from '@flintwright/core';
import type { FromWorker, ToWorker, TreeClasses, TreeCluster } from './messages.js';

/** What a worker knows of surfaces. */
export interface SurfaceTools {
  /** @throws Fault for a surface that is not known */
  surface(spec: SurfaceSpec | undefined): Surface;
  /** Lays features on surfaces that do more than move and scale tiles. */
  drape?(block: FeatureBlock, tile: TileAddress, grid: SquareGrid, surface: Surface): Draped;
  /** A function that takes coordinates of a system to longitude and latitude. */
  across?(crs: string): (x: number, y: number) => [number, number];
  /** The grid of a tile matrix set. */
  grid?(spec: string | object): SquareGrid;
}

let tools: SurfaceTools;
let surface: Surface;

/** The side of the map that runs in workers: bytes in, prepared tiles out. */
const scope = globalThis as unknown as {
  onmessage: ((event: MessageEvent<ToWorker>) => void) | null;
  postMessage(message: FromWorker, transfer?: Transferable[]): void;
};

/** Features held in memory, as they came, and what cuts tiles of them for the sheet in force. */
interface Held {
  readonly block: FeatureBlock;
  readonly maxZoom: number;
  whole: FeatureBlock;
  measured: boolean;
  cutter: TileCutter;
  grid: SquareGrid;
}

let sheet: CompiledSheet | undefined;
let version = 0;
let sprites = new Map<string, number>();
const held = new Map<string, Held>();

const spriteNumber = (name: string) => sprites.get(name) ?? 0;
const layersOf = (data: string) => sheet?.layers.filter((layer) => layer.data === data) ?? [];

/** Brings features up to what the sheet asks of them: answers about whole geometries, and measures along lines. */
function fit(data: string, before: Omit<Held, 'cutter' | 'grid'> & { cutter?: TileCutter; grid?: SquareGrid }): Held {
  const layers = layersOf(data);
  const whole = withGeometryAnswers(
    before.whole,
    layers.flatMap((layer) => layer.expressions),
  );
  const measured = before.measured || layers.some((layer) => layer.hasGradient);
  const { cutter } = before;
  const { grid } = surface;
  const same = whole === before.whole && measured === before.measured && grid === before.grid;
  const kept = cutter && same ? cutter : undefined;
  return {
    ...before,
    whole,
    measured,
    grid,
    cutter: kept ?? new TileCutter(whole, before.maxZoom, { measured, grid }),
  };
}

/** Class limits of some features, as scales of the sheet want them. */
function classesOf(block: FeatureBlock, wanted: readonly TreeClasses[]): number[][] {
  return wanted.map(({ by, method, count }) => {
    const evaluate = compileTree(by).bind({ block, zoom: 0 });
    const numbers = Array.from({ length: block.count }, (_, f) => evaluate(f)).filter((v) => typeof v === 'number');
    return classBreaks(numbers, method, count);
  });
}

/** The clusters of the points of a block: its first vertices, one a feature. */
function clustersOf(block: FeatureBlock, { where, share, sum, low, high, ...rest }: TreeCluster): ClusterData {
  const places = new Float64Array(2 * block.count).fill(NaN);
  const passes = where === undefined ? undefined : compileTree(where).bind({ block, zoom: 0 });
  for (let f = 0; f < block.count; f++) {
    if (passes && passes(f) !== true) continue;
    const [from, to] = vertexRange(block, f);
    if (to > from) places.set([block.coords[2 * from], block.coords[2 * from + 1]], 2 * f);
  }
  const numbers = (trees: Readonly<Record<string, Expression>> | undefined) =>
    Object.fromEntries(
      Object.entries(trees ?? {}).map(([name, tree]) => {
        const evaluate = compileTree(tree).bind({ block, zoom: 0 });
        return [name, Float64Array.from({ length: block.count }, (_, f) => Number(evaluate(f) ?? NaN))];
      }),
    );
  const kinds = share?.kinds;
  const column = share && findColumn(block, share.attribute);
  return ClusterIndex.build(places, {
    ...rest,
    sums: numbers(sum),
    lows: numbers(low),
    highs: numbers(high),
    ...(kinds && column
      ? {
          // What is none of the kinds comes last.
          kindCount: kinds.length + 1,
          kinds: Uint8Array.from({ length: block.count }, (_, f) => kindNumber(kinds, valueAt(column, f))),
        }
      : {}),
  }).data;
}

/** Features brought to longitude and latitude, and their edges bent, as the data entry asks. */
function laidOut(
  block: FeatureBlock,
  across: ((x: number, y: number) => [number, number]) | undefined,
  bends: boolean,
): FeatureBlock {
  let laid = block;
  if (across) {
    const coords = new Float64Array(block.coords.length);
    for (let i = 0; i < coords.length; i += 2) coords.set(across(block.coords[i], block.coords[i + 1]), i);
    laid = { ...block, space: 'lonlat', coords };
  }
  return bends ? greatCircles(laid) : laid;
}

/** The features of a message, numbered and joined to their table. */
function readFeatures(
  {
    data,
    source,
    idName,
    join,
    crs,
    greatCircles: bends,
  }: Pick<Extract<ToWorker, { kind: 'features' }>, 'data' | 'source' | 'join' | 'crs' | 'greatCircles'> & {
    readonly idName?: string | undefined;
  },
  number = true,
) {
  const across = crs === undefined ? undefined : tools.across!(crs);
  // A table begins with a line of names; whatever else is no JSON is refused as GeoJSON.
  const isTable = typeof source === 'string' && /^\s*[^\s<{[][^\n]*[,;\t]/.test(source);
  const read = isTable
    ? pointsOfTable(readTable(source), data, across)
    : laidOut(
        readGeoJson(source, {
          name: data,
          space: surface.space === 'plane' || across ? 'plan' : 'lonlat',
          ...(idName === undefined ? {} : { id: idName }),
        }),
        across,
        bends ?? false,
      );
  const block = number ? numbered(read) : read;
  if (!join) return { block };
  return joinTable(block, readTable(join.table, join.at), join.match, `the join of "${data}"`);
}

function answer(message: ToWorker): { reply: FromWorker; transfer: Transferable[] } | undefined {
  switch (message.kind) {
    case 'sheet':
      // The map has checked the sheet and written its schemes and expressions out.
      surface = tools.surface(message.surface);
      sheet = compileSheet(message.sheet, () => {});
      version = message.version;
      sprites = new Map(message.sprites.map((name, i) => [name, i]));
      for (const [data, features] of held) held.set(data, fit(data, features));
      return undefined;
    case 'forget':
      held.delete(message.data);
      return undefined;
    case 'features': {
      const { block, report } = (message.held ? { block: message.held } : readFeatures(message)) as {
        block: FeatureBlock;
        report?: JoinReport;
      };
      held.set(message.data, fit(message.data, { block, whole: block, maxZoom: message.maxZoom, measured: false }));
      const bounds = block.coords.length ? boundsOfAll(block) : undefined;
      return {
        reply: { id: message.id, ok: true, version, bounds, ...(report ? { join: report } : {}) },
        transfer: [],
      };
    }
    case 'hand': {
      const features = held.get(message.data);
      if (!features) throw missing(message.data);
      return { reply: { id: message.id, ok: true, version, block: features.block }, transfer: [] };
    }
    case 'edit': {
      const features = held.get(message.data);
      if (!features) throw missing(message.data);
      const { put, ...rest } = message.edit;
      const { block } = editBlock(
        features.block,
        { ...rest, ...(put === undefined ? {} : { put: readFeatures({ ...message, source: put }, false).block }) },
        message.idName,
      );
      held.set(message.data, fit(message.data, { block, whole: block, maxZoom: features.maxZoom, measured: false }));
      return { reply: { id: message.id, ok: true, version }, transfer: [] };
    }
    case 'clusters': {
      const features = held.get(message.data);
      if (!features) throw missing(message.data);
      const { block } = features;
      const data = clustersOf(block, message.cluster);
      return {
        reply: { id: message.id, ok: true, version, clusters: { data, block } },
        transfer: [...new Set([data.xs.buffer as ArrayBuffer, data.ys.buffer as ArrayBuffer])],
      };
    }
    case 'classes': {
      const features = held.get(message.data);
      if (!features) throw missing(message.data);
      return {
        reply: { id: message.id, ok: true, version, breaks: classesOf(features.block, message.wanted) },
        transfer: [],
      };
    }
    case 'tile': {
      const violations: Violation[] = [];
      const { tile, data } = message;
      let blocks: FeatureBlock[];
      let wholes: ((row: number) => ReturnType<TileCutter['middle']>) | undefined;
      if (message.bytes) blocks = readTile(gunzip(message.bytes), { violations });
      else {
        const features = held.get(data);
        if (!features) throw missing(data);
        const { cutter } = features;
        wholes = (row) => cutter.middle(row);
        const block = cutter.tile(tile);
        blocks = block ? [block] : [];
      }
      // Clustered marks are drawn as the clusters stand, not tile by tile.
      const layers = layersOf(data).filter((layer) => !layer.clustered);
      const names = blocks.map((block) => block.name);
      const wanted = new Set(layers.map((layer) => layer.from));
      // Blocks that no layer draws stay behind.
      if (!wanted.has('')) blocks = blocks.filter((block) => wanted.has(block.name));
      const grid = !message.bytes ? surface.grid : message.grid ? tools.grid!(message.grid) : mercatorGrid;
      const { drape } = tools;
      const laid =
        surface.flat && surface.grid === grid
          ? undefined
          : (block: FeatureBlock, at: TileAddress) => drape!(block, at, grid, surface);
      const prepared = prepareTile(tile, blocks, layers, message.zoom, spriteNumber, message.shown, laid, wholes);
      const notes = violations
        .slice(0, 20)
        .map(({ code, message: text, offset }) =>
          new Fault(code, text, 'That feature is left out; have the tile written again.', `byte ${offset}`).toJSON(),
        );
      return {
        reply: { id: message.id, ok: true, version, tile: prepared, names, notes },
        transfer: buffersOfPrepared(prepared),
      };
    }
  }
}

const missing = (data: string) =>
  new Fault('worker.data', `the worker holds no features "${data}"`, 'Add the data again.');

/** Begins to answer. */
export function serve(known: SurfaceTools): void {
  tools = known;
  surface = known.surface(undefined);
  scope.onmessage = hear;
}

function hear({ data }: MessageEvent<ToWorker>): void {
  try {
    const answered = answer(data);
    if (answered) scope.postMessage(answered.reply, answered.transfer);
  } catch (error) {
    const fault = asFault(error, 'worker.failed', 'Please report this with the data that brings it about.').toJSON();
    if ('id' in data) scope.postMessage({ id: data.id, ok: false, fault });
    else throw error;
  }
}
