export type { SurfaceForm, SurfaceSpec } from '@flintwright/core';
export { createMap, FlintMap, type FrameOptions, type FrameTarget, type MapOptions } from './map/map.js';
export type { Bookmarks } from './map/bookmarks.js';
export type { DataState } from './load/sources.js';
export type { FeatureEdit } from './worker/messages.js';
export type { AddedLayer, AddOptions, Layers } from './map/layers.js';
export type { JoinReport } from '@flintwright/core';
export type { MoveOptions } from './map/view-animation.js';
export type { LayerPopup, PopupOf, PressDetail } from './input/pointer.js';
export { Rail, type RailOptions } from './controls/rail.js';
export { Drawer, type DrawerOptions } from './controls/drawer.js';
export { dms, Position, ScaleBar, type PositionOptions, type ScaleBarOptions, type Units } from './controls/scale-bar.js';
export { Button, type ButtonOptions } from './controls/button.js';
export { keepInStep } from './controls/sync-views.js';
export { english, type Words } from './overlay/strings.js';
export type { PickedCluster } from './clusters/cluster-layer.js';
export type { Legend, LegendOptions } from './overlay/legend.js';
export type { Marker, MarkerOptions, Markers } from './markers/markers.js';
export type { Popup, PopupOptions } from './overlay/popup.js';
export type { PickedFeature, PickOptions } from './input/pick.js';
export type { FeatureName } from './map/feature-states.js';
export { forHost, type HostKey } from './load/for-host.js';
export type { RequestHook, RequestPlan } from './load/request.js';
export { liveCounts, type LiveCounts } from './base/live-counts.js';

export {
  builtInSprites as icons,
  Fault,
  SheetFault,
  checkSheet,
  type LegendEntry,
  type LegendItem,
  type Swatch,
  type Pad,
  type Place,
  type Sheet,
  type SheetLayer,
  type View,
  type ViewChange,
} from '@flintwright/core';
