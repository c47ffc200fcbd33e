import type { CompiledLayer } from '@flintwright/core';
import type { MapContext } from '../base/map-context.js';
import type { PickedCluster } from '../base/picked-cluster.js';
import type { Clusters } from '../clusters/clusters.js';
import type { Sources } from '../load/sources.js';
import type { Marker, Markers } from '../markers/markers.js';
import type { FeaturePopups } from './feature-popups.js';
import { featuresInView } from './pick.js';
import type { Pointer } from './pointer.js';

/** Something on the map that can be chosen by keyboard. */
export interface KeyboardItem {
  /** The text that is read out. */
  readonly label: string;
  /** `[longitude, latitude]` */
  readonly at: readonly [number, number];
  /** Pixels above the place where its symbol has its middle; default 0. */
  readonly rise?: number;
  /** Does what a press on it does. */
  act(event: Event): void;
  /** Pushes it by some pixels, for what can be dragged. */
  nudge?(dx: number, dy: number): void;
}

/** Sources of the items. */
export interface KeyboardItemsTools {
  readonly context: MapContext;
  readonly sources: Sources;
  readonly markers: Markers;
  readonly clusterLayers: Clusters;
  readonly featurePopups: FeaturePopups;
  readonly pointer: Pointer;
  /** Shows what a cluster holds. */
  openCluster(cluster: PickedCluster): void;
}

/** Whether there is something to choose features of a layer for. */
const isChoosable = ({ id, source, stateNames }: CompiledLayer, { featurePopups }: KeyboardItemsTools) =>
  featurePopups.has(id) || source.select !== undefined || stateNames.includes('selected');

/** Everything that can be chosen by keyboard: markers, clusters, and features with something to say; nearest the middle first. */
export function itemsInView(tools: KeyboardItemsTools): readonly KeyboardItem[] {
  const { context, sources, markers, clusterLayers, featurePopups, pointer } = tools;
  const { camera, strings } = context;
  const { width, height } = camera.size;
  const items: { item: KeyboardItem; away: number }[] = [];
  const add = (item: KeyboardItem) => {
    const [x, y] = camera.project(item.at[0], item.at[1]);
    items.push({ item, away: Math.hypot(x - width / 2, y - height / 2) });
  };
  for (const marker of markers.inView(camera)) {
    const item = ofMarker(marker, tools);
    if (item) add(item);
  }
  for (const { layer, node, at, x, y } of clusterLayers.inView(camera)) {
    const title = layer.source.title ?? layer.id;
    if (node.count > 1)
      add({
        label: strings.clusterOf(node.count, title),
        at,
        act: () => tools.openCluster({ layer: layer.id, node, at }),
      });
    else if (isChoosable(layer, tools)) {
      const [feature] = clusterLayers.pick(camera, x, y, [layer.id]);
      if (feature) add({ label: featurePopups.nameOf(feature), at, act: () => pointer.choose([feature], at) });
    }
  }
  const layers = context.state.sheet.layers.filter((layer) => !layer.clustered && isChoosable(layer, tools));
  for (const { feature, at } of featuresInView({ context, sources, layers }))
    add({ label: featurePopups.nameOf(feature), at, act: () => pointer.choose([feature], at) });
  return items
    .sort((a, b) => a.away - b.away)
    .slice(0, 100)
    .map(({ item }) => item);
}

function ofMarker(marker: Marker, { context, markers, pointer }: KeyboardItemsTools): KeyboardItem | undefined {
  const { title, description, draggable, popup, size = 36 } = marker.options;
  const name = title ?? popup?.title;
  // A marker without a name cannot be read out; one that is an element has the focus for itself.
  if (name === undefined || marker.options.element || marker.options.image !== undefined) return undefined;
  return {
    label: description ? `${name}, ${description}` : name,
    get at() {
      return marker.at;
    },
    rise: size * 0.55,
    act: (event) => pointer.onMarker(marker, 'press', event),
    ...(draggable ? { nudge: (dx, dy) => markers.nudge(context.camera, marker, dx, dy) } : {}),
  };
}
