// Room "worker": the map's workers: their pool, what is said to them, and what runs in them.
import { serve } from './handler.js';
import { plainSurface } from './plain-surface.js';
import { valueTools } from './value-tools.js';

/** The worker of tiles on web Mercator or a plan: it carries no projections, and holds no features. */
serve({ surface: plainSurface, values: valueTools });
