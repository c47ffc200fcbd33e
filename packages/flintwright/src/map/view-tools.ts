import type { Sources } from '../load/sources.js';
import type { Obstacles } from '../overlay/obstacles.js';
import type { Context } from './context.js';
import type { Layers } from './layers.js';
import type { ViewAnimation } from './view-animation.js';

/** Tools of movements. */
export interface ViewControlTools {
  readonly context: Context;
  readonly animation: ViewAnimation;
  readonly obstacles: Obstacles;
  readonly sources: Sources;
  readonly layers: Layers;
}
