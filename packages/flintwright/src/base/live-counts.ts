/** Numbers of live resources over all maps of the page. All return to zero once every map is removed. */
export interface LiveCounts {
  readonly maps: number;
  readonly buffers: number;
  readonly textures: number;
  readonly vertexArrays: number;
  readonly programs: number;
  readonly listeners: number;
  readonly workers: number;
  readonly requests: number;
  readonly elements: number;
  /** Geometry buffers filled since the page was loaded. Restyling does not change it. */
  readonly geometryUploads: number;
}

const live = {
  maps: 0,
  buffers: 0,
  textures: 0,
  vertexArrays: 0,
  programs: 0,
  listeners: 0,
  workers: 0,
  requests: 0,
  elements: 0,
  geometryUploads: 0,
};

export const countLive = (what: keyof LiveCounts, by: 1 | -1): void => {
  live[what] += by;
};

/** Returns a copy of the current counts. */
export const liveCounts = (): LiveCounts => ({ ...live });

/** Adds a listener and returns what takes it off again. */
export function listen<E extends Event>(
  target: EventTarget,
  type: string,
  handler: (event: E) => void,
  options?: AddEventListenerOptions,
): () => void {
  target.addEventListener(type, handler as EventListener, options);
  countLive('listeners', 1);
  let on = true;
  return () => {
    if (!on) return;
    on = false;
    target.removeEventListener(type, handler as EventListener, options);
    countLive('listeners', -1);
  };
}
