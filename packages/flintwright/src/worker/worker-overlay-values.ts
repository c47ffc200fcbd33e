import { serve } from './handler.js';
import { HeldFeatures } from './held-features.js';
import { plainSurface } from './plain-surface.js';
import { valueTools } from './value-tools.js';

/** The worker of tiles and of GeoJSON on web Mercator or a plan, for every sheet. */
serve({ surface: plainSurface, values: valueTools, hold: (scene) => new HeldFeatures(scene) });
