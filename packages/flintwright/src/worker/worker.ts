// Room "worker": the map's workers: their pool, what is said to them, and what runs in them.
import { Fault } from '@flintwright/core';
import { findPlainSurface } from '@flintwright/core/internal';
import { serve } from './handler.js';

/** The worker of a map on web Mercator or a plan: it carries no projections. */
serve({
  surface(spec) {
    const surface = findPlainSurface(spec);
    if (surface) return surface;
    throw new Fault(
      'worker.surface',
      'this worker knows no other surface than web Mercator and plans',
      'Serve flintwright/worker, which knows all of them.',
    );
  },
});
