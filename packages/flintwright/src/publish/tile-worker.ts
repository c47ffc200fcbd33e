import {
  ArchiveWriter,
  asFault,
  boundsOfBlocks,
  gzip,
  pyramid,
  readGeoJson,
  vectorLayers,
  writeTile,
  type FaultLike,
} from '@flintwright/core';

/** What a worker is asked to cut. */
export interface CutRequest {
  readonly features: readonly object[];
  readonly name: string;
  readonly zooms: readonly [number, number];
}

/** What it says. */
export type FromTileWorker =
  | { readonly tiles: number }
  | { readonly archive: readonly Uint8Array[] }
  | { readonly fault: FaultLike };

const scope = self as unknown as {
  postMessage(message: FromTileWorker): void;
  onmessage: ((event: MessageEvent<CutRequest>) => void) | null;
};

/** The worker that cuts one archive. */
function cut({ features, name, zooms }: CutRequest): void {
  const block = readGeoJson({ type: 'FeatureCollection', features }, { name });
  const writer = new ArchiveWriter();
  const packed = new WeakMap<object, Uint8Array>();
  let said = performance.now();
  for (const { tile, blocks } of pyramid([block], [zooms[0], zooms[1]])) {
    const bytes = packed.get(blocks) ?? gzip(writeTile(blocks));
    packed.set(blocks, bytes);
    writer.add(tile, bytes);
    if (performance.now() - said < 100) continue;
    said = performance.now();
    scope.postMessage({ tiles: writer.size });
  }
  const bounds = boundsOfBlocks([block]);
  const [west, south, east, north] = bounds;
  const { pieces } = writer.finish({
    metadata: { name, vector_layers: vectorLayers([block], [zooms[0], zooms[1]]) },
    bounds,
    center: [(west + east) / 2, (south + north) / 2],
    centerZoom: zooms[0],
  });
  scope.postMessage({ tiles: writer.size });
  scope.postMessage({ archive: [...pieces] });
}

scope.onmessage = ({ data }) => {
  try {
    cut(data);
  } catch (error) {
    scope.postMessage({ fault: asFault(error, 'tile.cut', 'Check the features.').toJSON() });
  }
};
