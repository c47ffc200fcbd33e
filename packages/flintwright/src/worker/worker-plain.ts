import { serve } from './handler.js';
import { plainSurface } from './plain-surface.js';

/** The worker of tiles on web Mercator or a plan for sheets that are plain. */
serve({ surface: plainSurface });
