import { Fault, type Surface, type SurfaceSpec } from '@flintwright/core';
import { findPlainSurface } from '@flintwright/core/internal';

/** The fault of a worker that is asked for a surface, or for the tools of one, that another kind of worker has. */
export const lacking = (): Fault =>
  new Fault(
    'worker.surface',
    'this worker supports only web Mercator and plans',
    'Serve flintwright/worker, which supports all surfaces.',
  );

/** The surfaces of a worker that carries no projections. @throws Fault `worker.surface` */
export function plainSurface(spec: SurfaceSpec | undefined): Surface {
  const surface = findPlainSurface(spec);
  if (surface) return surface;
  throw lacking();
}
