import {
  asFault,
  changeView,
  findPlainSurface,
  surfaceKey,
  type Fault,
  type MatrixGrid,
  type Sheet,
  type Surface,
  type SurfaceSpec,
  type View,
  type ViewLimits,
} from '@flintwright/core';
import type * as Surfaces from '../gl/surfaces.js';

type Tools = typeof Surfaces;

/** What the keeper of the surface may ask of the map. */
export interface SurfaceHost {
  sheet(): Sheet;
  surface(): Surface;
  view(): View;
  limits(): ViewLimits;
  /** The first view, to which `home` leads. */
  start(): View;
  /** Keeps what was edited for the workers to come. */
  hold(): Promise<void>;
  /** Lets go of all tiles, and puts workers of another kind in place of the present ones where they are given. */
  renew(workers: string | undefined): void;
  /** Puts another surface in force; `over` takes the view, and where a movement under way leads, to it. */
  take(change: { surface: Surface; over: (view: View) => View; start: View; limits: ViewLimits }): void;
  /** Brings all into line with the sheet and the surface in force. */
  apply(): void;
  fault(fault: Fault): void;
  isDestroyed(): boolean;
}

/** Brings the surface that a sheet asks for, with what is needed for it, and takes the view over. */
export class SurfaceKeeper {
  /** Shapes of tiles, on surfaces that bend them. */
  ground: Surfaces.Ground | undefined;
  /** Description of the surface in force. */
  spec: SurfaceSpec | undefined;
  private tools: Tools | undefined;
  /** Key of what was last asked for, whether it could be had or not; and of what is on its way. */
  private asked: string;
  private coming: string | undefined;
  /** Key of the surface that the first view is meant for. */
  private startFor: string;

  /** @param spec what the first sheet asks for */
  constructor(
    private readonly host: SurfaceHost,
    spec: SurfaceSpec | undefined,
  ) {
    const plain = findPlainSurface(spec);
    this.spec = plain ? spec : undefined;
    this.asked = surfaceKey(this.spec);
    this.startFor = surfaceKey(spec);
  }

  /** Whether a surface is on its way. */
  get busy(): boolean {
    return this.coming !== undefined;
  }

  /** Whether all is there that a sheet asks for; if not, it is brought, and the map told to apply the sheet again. */
  has(sheet: Sheet): boolean {
    const spec = sheet.view?.surface;
    if (surfaceKey(spec) === this.asked && (this.tools || this.refused || !needsTools(sheet))) return true;
    void this.bring(spec, sheet);
    return false;
  }

  /** The first view has been given anew, for a surface. */
  started(spec: SurfaceSpec | undefined): void {
    this.startFor = surfaceKey(spec);
  }

  /** @throws Fault for a surface that is not known */
  async load(spec: SurfaceSpec | undefined, sheet = this.host.sheet()): Promise<{ surface: Surface; tools?: Tools }> {
    const plain = findPlainSurface(spec);
    if (plain && !needsTools(sheet)) return { surface: plain };
    const tools = await import('../gl/surfaces.js');
    return { surface: tools.getSurface(spec), tools };
  }

  /** The grid of a tile matrix set. @throws Fault `grid.*` */
  gridOf(spec: string | object): MatrixGrid {
    return this.tools!.gridOfMatrixSet(spec);
  }

  private async bring(spec: SurfaceSpec | undefined, sheet: Sheet): Promise<void> {
    const key = surfaceKey(spec);
    if (this.coming === key) return;
    this.coming = key;
    const { host } = this;
    try {
      const { surface, tools } = await this.load(spec, sheet);
      if (host.isDestroyed() || this.coming !== key) return;
      await host.hold();
      if (host.isDestroyed() || this.coming !== key) return;
      host.renew(tools && !this.tools ? tools.surfacesWorkerText : undefined);
      this.tools ??= tools;
      this.ground = this.tools && new this.tools.Ground(surface);
      this.spec = spec;
      this.take(surface, key);
    } catch (error) {
      // The map stays on the surface that it has.
      this.refused = !this.tools;
      if (!host.isDestroyed()) host.fault(asFault(error, 'surface.failed', 'Check the surface.', '$.view.surface'));
    } finally {
      if (this.coming === key) this.coming = undefined;
      this.asked = key;
    }
    if (!host.isDestroyed()) host.apply();
  }

  private take(surface: Surface, key: string): void {
    const { host, startFor } = this;
    const before = host.surface();
    const limits = { ...host.limits(), ...limitsOf(this.spec) };
    // The first view speaks of its own surface; any other has to be taken over.
    const isFirst = startFor === key && this.asked !== key && before !== surface && !this.wasThere;
    const carry = (view: View) => (before === surface ? view : carriedOver(view, before, surface, limits));
    this.startFor = key;
    this.wasThere = true;
    host.take({
      surface,
      limits,
      over: isFirst ? (view) => settledOn(view, surface) : carry,
      start: startFor === key ? host.start() : carry(host.start()),
    });
  }

  /** Whether what other surfaces and systems need could not be had. */
  private refused = false;
  /** Whether a surface has been put in force since the first view was given. */
  private wasThere = false;
}

/** What a surface asks of the limits of a view. */
export const limitsOf = (spec: SurfaceSpec | undefined): Pick<ViewLimits, 'space' | 'latitude'> =>
  spec === 'plan' ? { space: 'plane' } : { space: 'lonlat', latitude: findPlainSurface(spec) ? 85.05 : 89.9 };

/** Whether a sheet has data in coordinate systems or grids that a plain map does not know. */
const needsTools = ({ data = {} }: Sheet) =>
  Object.values(data).some(({ crs, grid }) => crs !== undefined || (grid !== undefined && grid !== 'WebMercatorQuad'));

/** A view on a surface that may not reach its middle. */
function settledOn(view: View, surface: Surface): View {
  return surface.forward(view.center[0], view.center[1], [0, 0, 0]) ? view : { ...view, center: surface.home };
}

/** A view taken from one surface to another: the same middle, the same scale on the ground. */
function carriedOver(view: View, from: Surface, to: Surface, limits: ViewLimits): View {
  if (from.space !== to.space) return { ...view, center: to.home };
  const there = settledOn(view, to);
  const zoom = there.zoom - Math.log2(to.stretch(...there.center) / from.stretch(...there.center));
  return changeView(there, { zoom: Math.max(limits.zoom[0], Math.min(limits.zoom[1], zoom)) }, limits);
}
