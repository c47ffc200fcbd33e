export { createMap, FlintMap } from './map/map.js';
export type { DataChange, MapEventDetail, MapEvents, MapEventTarget, MapListener } from './map/events.js';
export type {
  BoundsTarget,
  FadeOptions,
  SheetOptions,
  FrameOptions,
  FrameTarget,
  GeoJsonTarget,
  MapOptions,
} from './map/options.js';
export type { MapIcons } from './map/map-icons.js';
export type { AddedLayer, AddOptions, Layers } from './map/layers.js';
export type { Bookmarks } from './map/bookmarks.js';
export type { Arrival, MoveOptions } from './map/view-animation.js';
export type { Abortable, Removable } from './base/removable.js';
export type { FeatureName } from './base/feature-states.js';
export type { FeatureTest } from './base/feature-filters.js';
export type { PickedFeature, PickOptions } from './base/picked-feature.js';
export { liveCounts, type LiveCounts } from './base/live-counts.js';
export type { IconSource, TintedIcon } from './base/icons.js';
export { english, type Strings } from './base/strings.js';
export type { PickedCluster } from './base/picked-cluster.js';
export type {
  ElementMarker,
  ImageMarker,
  Marker,
  MarkerBase,
  MarkerChange,
  MarkerEvents,
  MarkerListener,
  MarkerOptions,
  Markers,
  PressDetail,
  ShapeMarker,
  ShardMarker,
  WordsMarker,
} from './markers/markers.js';
export type { ColorScheme } from './overlay/map-elements.js';
export type { Legend, LegendOptions } from './overlay/legend.js';
export type { Popup } from './overlay/popup.js';
export type { Anchor, PopupOptions } from './overlay/popup-options.js';
export type { PopupImage, PopupLink } from './overlay/safe-link.js';
export type { LayerPopupOptions, PopupOf } from './overlay/popups.js';
export type { DataState } from './load/data-entry.js';
export { forHost, type HostKey } from './load/for-host.js';
export type { RequestHook, RequestPlan } from './load/request.js';
export type { FeatureEdit } from './worker/messages.js';
export { Button, type ButtonOptions } from './controls/button.js';
export type { Corner } from './base/check-options.js';
export { Control, type ControlOptions } from './controls/control.js';
export type { Seat } from './overlay/panels.js';
export { Drawer, type DrawerOptions } from './controls/drawer.js';
export { dms, Position, type PositionOptions } from './controls/position.js';
export { Rail, type RailOptions } from './controls/rail.js';
export { ScaleBar, type ScaleBarOptions, type Units } from './controls/scale-bar.js';
export { syncViews } from './controls/sync-views.js';

export {
  builtInSprites as icons,
  checkSheet,
  Fault,
  SheetFault,
  type FaultLike,
  type GeoJsonFeature,
  type JoinReport,
  type LayerChange,
  type LegendEntry,
  type LegendItem,
  type Padding,
  type Place,
  type Sheet,
  type SheetData,
  type SheetIcon,
  type SheetLayer,
  type SheetValue,
  type SurfaceForm,
  type SurfaceSpec,
  type Swatch,
  type View,
  type ViewChange,
  type ViewLimits,
} from '@flintwright/core';
