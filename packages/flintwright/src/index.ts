export type { SurfaceForm, SurfaceSpec } from '@flintwright/core';
export { createMap, FlintMap, type FrameOptions, type FrameTarget, type MapOptions } from './map.js';
export type { Bookmarks } from './bookmarks.js';
export type { DataState } from './load/sources.js';
export type { FeatureEdit } from './load/messages.js';
export type { AddedLayer, AddOptions, Layers } from './layers.js';
export type { JoinReport } from '@flintwright/core';
export type { MoveOptions } from './animate.js';
export type { LayerPopup, PopupOf, PressDetail } from './parts/pointing.js';
export { Rail, type RailOptions } from './parts/rail.js';
export { Drawer, type DrawerOptions } from './parts/drawer.js';
export { dms, Position, ScaleBar, type PositionOptions, type ScaleBarOptions, type Units } from './parts/gauges.js';
export { Button, type ButtonOptions } from './parts/button.js';
export { keepInStep } from './step.js';
export { english, type Words } from './words.js';
export type { PickedCluster } from './parts/cairns.js';
export type { Legend, LegendOptions } from './parts/legend.js';
export type { Marker, MarkerOptions, Markers } from './parts/markers.js';
export type { Popup, PopupOptions } from './parts/popup.js';
export type { PickedFeature, PickOptions } from './pick.js';
export type { FeatureName } from './states.js';
export { forHost, type HostKey } from './load/for-host.js';
export type { RequestHook, RequestPlan } from './load/request.js';
export { liveCounts, type LiveCounts } from './counts.js';

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
