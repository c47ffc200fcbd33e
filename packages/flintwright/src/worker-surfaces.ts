import { drape, getSurface } from '@flintwright/core';
import { serve } from './worker-core.js';

/** The worker that knows every surface. */
serve({ surface: getSurface, drape });
