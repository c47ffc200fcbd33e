/** All texts of the interface. An application can replace each of them. */
export interface Strings {
  readonly close: string;
  readonly popup: string;
  readonly problem: string;
  readonly dismiss: string;
  readonly legend: string;
  readonly zoomIn: string;
  readonly zoomOut: string;
  readonly zoom: string;
  readonly compass: string;
  readonly home: string;
  readonly locate: string;
  readonly here: string;
  readonly locateRefused: string;
  readonly locateFailed: string;
  readonly locateLate: string;
  readonly locateNone: string;
  readonly layers: string;
  readonly openDrawer: string;
  readonly closeDrawer: string;
  readonly opacityOf: (layer: string) => string;
  readonly fullScreen: string;
  readonly leaveFullScreen: string;
  readonly scale: string;
  readonly position: string;
  readonly inView: string;
  readonly nothingInView: string;
  readonly clusterOf: (count: number, layer: string) => string;
  readonly views: string;
  readonly loading: string;
  readonly empty: string;
  readonly failed: string;
  readonly wheelHint: string;
  readonly fingerHint: string;
}

export const english: Strings = {
  close: 'Close',
  popup: 'Details',
  problem: 'Something went wrong',
  dismiss: 'Dismiss',
  legend: 'Legend',
  zoomIn: 'Zoom in',
  zoomOut: 'Zoom out',
  zoom: 'Zoom level',
  compass: 'Reset north and tilt',
  home: 'Go to the first view',
  locate: 'Show my location',
  here: 'You are here',
  locateRefused:
    'This page is not allowed to use your location. Allow it in the browser settings, next to the address.',
  locateFailed: 'Your location could not be determined. Check that location services are turned on.',
  locateLate: 'Your location could not be determined in time. Try again, outdoors if possible.',
  locateNone: 'This browser does not provide your location. Pages need https:// for it.',
  layers: 'Layers',
  openDrawer: 'Open the drawer',
  closeDrawer: 'Close the drawer',
  opacityOf: (layer) => `Opacity of ${layer}`,
  fullScreen: 'Enter full screen',
  leaveFullScreen: 'Exit full screen',
  scale: 'Scale',
  position: 'Pointer position',
  inView: 'Features in view: arrow keys move, Enter opens',
  nothingInView: 'No features in view',
  clusterOf: (count, layer) => `${layer}: cluster of ${count}`,
  views: 'Views',
  loading: 'loading',
  empty: 'no data',
  failed: 'failed to load',
  wheelHint:
    typeof navigator !== 'undefined' && /Mac|iPhone|iPad/.test(navigator.userAgent)
      ? 'Hold ⌘ and scroll to zoom the map'
      : 'Hold Ctrl and scroll to zoom the map',
  fingerHint: 'Use two fingers to move the map',
};
