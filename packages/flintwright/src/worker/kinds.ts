import type { CompiledLayer, CompiledSheet, SheetData } from '@flintwright/core';
import { isColumns } from '@flintwright/core/internal';
import { fetchPart } from '../base/fetch-part.js';

/** What a worker knows, or is to know. */
export interface Knowledge {
  /** Whether it draws by every sheet, or by plain ones only. */
  readonly values: boolean;
  /** Which features it holds: none, GeoJSON that is drawn as it came, or all, to be joined, edited, clustered and measured. */
  readonly features: 0 | 1 | 2;
}

/** A kind of worker, and its text, which is fetched when such a worker is first needed. */
export interface WorkerKind {
  readonly knows: Knowledge;
  text(): Promise<string>;
}

/** From the lightest to the heaviest. */
const kinds: readonly WorkerKind[] = [
  {
    knows: { values: false, features: 0 },
    text: async () => (await fetchPart(() => import('./plain-worker-text.generated.js'))).plainWorkerText,
  },
  {
    knows: { values: false, features: 1 },
    text: async () => (await fetchPart(() => import('./overlay-worker-text.generated.js'))).overlayWorkerText,
  },
  {
    knows: { values: true, features: 0 },
    text: async () => (await fetchPart(() => import('./worker-text.generated.js'))).workerText,
  },
  {
    knows: { values: true, features: 1 },
    text: async () =>
      (await fetchPart(() => import('./overlay-values-worker-text.generated.js'))).overlayValuesWorkerText,
  },
  {
    knows: { values: true, features: 2 },
    text: async () => (await fetchPart(() => import('./features-worker-text.generated.js'))).featuresWorkerText,
  },
];

/** Whether one that knows something knows what is wanted. */
export const suffices = (knows: Knowledge, wanted: Knowledge): boolean =>
  knows.features >= wanted.features && (knows.values || !wanted.values);

/** All that can be known. */
export const everything: Knowledge = kinds[kinds.length - 1].knows;

/** The lightest kind that knows what is wanted. */
export const kindFor = (wanted: Knowledge): WorkerKind => kinds.find(({ knows }) => suffices(knows, wanted))!;

/** What a sheet takes of the workers that draw by it. */
export const wantedBy = ({ plain, needs }: CompiledSheet): Knowledge => ({
  values: !plain,
  features: needs.has('shapes') ? 2 : 0,
});

/** Which features workers have to hold for the data of a sheet, as far as it tells. */
export function featuresIn({ sheet, layers }: CompiledSheet): Knowledge['features'] {
  const all = Object.entries(sheet.data ?? {});
  return greater(0, ...all.map(([name, data]) => featuresOf(data, findsClasses(layers, name))));
}

/** Whether class limits are to be found in the features of a data entry. */
export const findsClasses = (layers: readonly CompiledLayer[], name: string): boolean =>
  layers.some(({ data, wanted }) => data === name && wanted.length > 0);

/** The greatest of some levels. */
export const greater = (...levels: Knowledge['features'][]): Knowledge['features'] =>
  Math.max(...levels) as Knowledge['features'];

/** The same for one data entry. What comes from an address is told by its ending. */
function featuresOf({ features, join, cluster, crs, edges }: SheetData, isClassed: boolean): Knowledge['features'] {
  if (features === undefined) return 0;
  const isGeoJson =
    typeof features === 'string'
      ? /\.(geo)?json(\?|$)/i.test(features)
      : !(features instanceof Blob) && !isColumns(features);
  return isGeoJson && !isClassed && !join && !cluster && crs === undefined && edges !== 'great-circle' ? 1 : 2;
}
