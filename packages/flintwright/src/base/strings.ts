/** Every text of the interface; an application may replace any of them. */
export interface Strings {
  readonly close: string;
  readonly popup: string;
  readonly problem: string;
  readonly putAway: string;
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
  popup: 'About this place',
  problem: 'The map met a problem',
  putAway: 'Put away',
  legend: 'Legend',
  zoomIn: 'Zoom in',
  zoomOut: 'Zoom out',
  zoom: 'Zoom level',
  compass: 'North up and straight down',
  home: 'Back to the first view',
  locate: 'Show where I am',
  here: 'You are here',
  locateRefused: 'This page may not know where you are. Allow it in the settings of the browser, beside the address.',
  locateFailed: 'Your place could not be found. Check that the device has its location turned on.',
  locateLate: 'Your place was not found in time. Try again, outdoors if you can.',
  locateNone: 'This browser cannot tell where you are; pages need https:// for it.',
  layers: 'Layers',
  openDrawer: 'Open the drawer',
  closeDrawer: 'Close the drawer',
  opacityOf: (layer) => `Opacity of ${layer}`,
  fullScreen: 'Fill the screen',
  leaveFullScreen: 'Leave full screen',
  scale: 'Scale',
  position: 'Position of the pointer',
  inView: 'On the map: arrow keys choose, Enter opens',
  nothingInView: 'Nothing to choose in view',
  clusterOf: (count, layer) => `${count} together: ${layer}`,
  views: 'Views',
  loading: 'loading',
  empty: 'nothing in it',
  failed: 'could not be loaded',
  wheelHint:
    typeof navigator !== 'undefined' && /Mac|iPhone|iPad/.test(navigator.userAgent)
      ? 'Hold ⌘ and scroll to zoom the map'
      : 'Hold Ctrl and scroll to zoom the map',
  fingerHint: 'Move the map with two fingers',
};
