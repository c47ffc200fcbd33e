import {
  asFault,
  type Sheet,
  type SquareGrid,
  type Surface,
  type SurfaceSpec,
  type View,
  type ViewLimits,
} from '@flintwright/core';
import {
  changeView,
  findPlainSurface,
  squareTilesInView,
  surfaceKey,
  type Camera,
  type MatrixGrid,
  type TileInView,
} from '@flintwright/core/internal';
import { fetchPart } from '../base/fetch-part.js';
import type { MapContext } from '../base/map-context.js';
import type * as SurfaceTools from '../gl/surfaces.js';
import type { Sources } from '../load/sources.js';
import type { WorkerPool } from '../worker/pool.js';
import type { ViewAnimation } from './view-animation.js';

/** Brings the surface that a sheet asks for, with what is needed for it, and takes the view over. */
export class SurfaceControl {
  /** Shapes of tiles, on surfaces that bend them. */
  ground: SurfaceTools.Ground | undefined;
  /** Description of the surface in force. */
  spec: SurfaceSpec | undefined;
  private tools: typeof SurfaceTools | undefined;
  /** Key of what was last asked for, whether it could be had or not; and of what is on its way. */
  private asked: string;
  private coming: string | undefined;
  /** Key of the surface that the first view is meant for. */
  private homeFor: string;
  /** Whether what other surfaces and systems need could not be had. */
  private refused = false;
  /** Whether a surface has been put in force since the first view was given. */
  private wasThere = false;
  private sources: Sources | undefined;

  /** @param spec what the first sheet asks for */
  constructor(
    private readonly context: MapContext,
    private readonly pool: WorkerPool,
    private readonly animation: ViewAnimation,
    spec: SurfaceSpec | undefined,
  ) {
    const plain = findPlainSurface(spec);
    this.spec = plain ? spec : undefined;
    this.asked = surfaceKey(this.spec);
    this.homeFor = surfaceKey(spec);
  }

  /** Has tiles and features let go of, and edits kept, whenever the surface changes. */
  watch(sources: Sources): void {
    this.sources = sources;
  }

  /** Whether a surface is on its way. */
  get busy(): boolean {
    return this.coming !== undefined;
  }

  /** Whether all is there that a sheet asks for; if not, it is brought, and `then` called, however that ends. */
  require(sheet: Sheet, then: () => void): boolean {
    const spec = sheet.view?.surface;
    if (surfaceKey(spec) === this.asked && (this.tools || this.refused || !needsTools(sheet))) return true;
    void this.bring(spec, sheet, then);
    return false;
  }

  /** The first view has been given anew, for a surface. */
  started(spec: SurfaceSpec | undefined): void {
    this.homeFor = surfaceKey(spec);
  }

  /** @throws Fault `crs.*` or `surface.*` for a surface that is not known */
  async load(
    spec: SurfaceSpec | undefined,
    sheet = this.context.state.sheet.sheet,
  ): Promise<{ surface: Surface; tools?: typeof SurfaceTools }> {
    const plain = findPlainSurface(spec);
    if (plain && !needsTools(sheet)) return { surface: plain };
    const tools = await fetchPart(() => import('../gl/surfaces.js'));
    return { surface: tools.getSurface(spec), tools };
  }

  /** The grid of a tile matrix set; `require` has brought what that takes. @throws Fault `grid.*` */
  gridOf(spec: string | object): MatrixGrid {
    return this.tools!.gridOfMatrixSet(spec);
  }

  /** The tiles of a grid that a view needs; those of other surfaces and grids than the plain ones once their tools are there. */
  tilesInView(camera: Camera, span: number, zooms: readonly [number, number], grid: SquareGrid): TileInView[] {
    if (this.tools) return this.tools.tilesInView(camera, span, zooms, grid);
    return camera.surface.grid === grid ? squareTilesInView(camera, span, zooms) : [];
  }

  private async bring(spec: SurfaceSpec | undefined, sheet: Sheet, then: () => void): Promise<void> {
    const key = surfaceKey(spec);
    if (this.coming === key) return;
    this.coming = key;
    const { context } = this;
    const outdated = () => context.removed || this.coming !== key;
    try {
      const { surface, tools } = await this.load(spec, sheet);
      if (outdated()) return;
      await this.sources?.keepEdits();
      if (outdated()) return;
      this.sources?.reset();
      if (tools && !this.tools) this.pool.exchange(tools.surfacesWorkerText);
      this.tools ??= tools;
      this.ground = this.tools && new this.tools.Ground(surface);
      this.spec = spec;
      this.take(surface, key);
    } catch (error) {
      // The map stays on the surface that it has.
      this.refused = !this.tools;
      if (!context.removed) context.report(asFault(error, 'surface.failed', 'Check the surface.', '$.view.surface'));
    } finally {
      if (this.coming === key) this.coming = undefined;
      this.asked = key;
    }
    if (!context.removed) then();
  }

  private take(surface: Surface, key: string): void {
    const { context, homeFor } = this;
    const { state } = context;
    const before = state.surface;
    const limits = { ...state.limits, ...limitsOf(this.spec) };
    const carry = (view: View) => (before === surface ? view : carriedOver(view, before, surface, limits));
    // The first view speaks of its own surface; any other has to be taken over.
    const isFirst = homeFor === key && this.asked !== key && before !== surface && !this.wasThere;
    const over = isFirst ? (view: View) => settledOn(view, surface) : carry;
    this.homeFor = key;
    this.wasThere = true;
    this.animation.carry(over);
    context.update({
      surface,
      limits,
      home: homeFor === key ? state.home : carry(state.home),
      view: over(context.state.view),
    });
  }
}

/** The limits of a view that a surface asks for. */
export const limitsOf = (spec: SurfaceSpec | undefined): Pick<ViewLimits, 'space' | 'latitude'> =>
  spec === 'plan' ? { space: 'plane' } : { space: 'lonlat', latitude: findPlainSurface(spec) ? 85.05 : 90 };

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
