import { serve } from './handler.js';
import { HeldFeatures } from './held-features.js';
import { plainSurface } from './plain-surface.js';

/** The worker of tiles and of GeoJSON on web Mercator or a plan, for sheets that are plain. */
serve({ surface: plainSurface, hold: (scene) => new HeldFeatures(scene) });
