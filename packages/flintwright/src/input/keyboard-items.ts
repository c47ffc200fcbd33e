import type { Camera, CompiledLayer } from '@flintwright/core';
import type { Sources } from '../load/sources.js';
import { featuresInView, type FeatureInView } from './pick.js';
import type { Words } from '../overlay/strings.js';
import type { Cairns, PickedCluster } from '../clusters/cluster-layer.js';
import type { Marker, Markers } from '../markers/markers.js';
import type { Pointing } from './pointer.js';
import type { RollItem } from './keyboard-list.js';

export interface InViewHost {
  readonly camera: Camera;
  readonly layers: readonly CompiledLayer[];
  readonly sources: Sources;
  readonly markers: Markers;
  readonly cairns: Cairns;
  readonly pointing: Pointing;
  readonly words: Words;
  hasPopup(layer: string): boolean;
  idName(data: string): string | undefined;
  openCluster(cluster: PickedCluster): void;
  pickOne(layer: CompiledLayer, x: number, y: number): FeatureInView['feature'] | undefined;
}

/** Whether there is something to choose features of a layer for. */
const isChoosable = ({ id, source, stateNames }: CompiledLayer, host: InViewHost) =>
  source.popup !== undefined || source.select !== undefined || host.hasPopup(id) || stateNames.includes('selected');

/** What of the map can be chosen by keyboard: markers, clusters, and features with something to say; nearest the middle first. */
export function itemsInView(host: InViewHost): readonly RollItem[] {
  const { camera, pointing, words } = host;
  const { width, height } = camera.size;
  const items: { item: RollItem; away: number }[] = [];
  const add = (item: RollItem) => {
    const [x, y] = camera.project(item.at[0], item.at[1]);
    items.push({ item, away: Math.hypot(x - width / 2, y - height / 2) });
  };
  for (const marker of host.markers.inView(camera)) {
    const item = ofMarker(marker, host);
    if (item) add(item);
  }
  for (const { layer, node, at, x, y } of host.cairns.inView(camera)) {
    const title = layer.source.title ?? layer.id;
    if (node.count > 1)
      add({
        label: words.clusterOf(node.count, title),
        at,
        act: () => host.openCluster({ layer: layer.id, node, at }),
      });
    else if (isChoosable(layer, host)) {
      const feature = host.pickOne(layer, x, y);
      if (feature) add({ label: pointing.nameOf(feature), at, act: () => pointing.choose([feature], at) });
    }
  }
  const layers = host.layers.filter((layer) => !layer.clustered && isChoosable(layer, host));
  const { stores, drawn } = host.sources;
  for (const { feature, at } of featuresInView(camera, layers, stores, drawn, (data) => host.idName(data)))
    add({ label: pointing.nameOf(feature), at, act: () => pointing.choose([feature], at) });
  return items
    .sort((a, b) => a.away - b.away)
    .slice(0, 100)
    .map(({ item }) => item);
}

function ofMarker(marker: Marker, { camera, markers, pointing }: InViewHost): RollItem | undefined {
  const { title, description, draggable, popup, size = 36 } = marker.options;
  const name = title ?? popup?.title;
  // A marker without a name cannot be read out; one that is an element has the focus for itself.
  if (name === undefined || marker.options.element || marker.options.image !== undefined) return undefined;
  return {
    label: description ? `${name}, ${description}` : name,
    at: marker.at,
    rise: size * 0.55,
    act: (event) => {
      const [x, y] = camera.project(marker.at[0], marker.at[1]);
      pointing.pressMarker(marker, [x, y], event);
    },
    ...(draggable ? { nudge: (dx, dy) => markers.nudge(camera, marker, dx, dy) } : {}),
  };
}
