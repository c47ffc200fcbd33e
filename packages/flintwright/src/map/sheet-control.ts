import { asFault, Fault, SheetFault, type CompiledSheet, type Sheet } from '@flintwright/core';
import { changeView, plainLayer } from '@flintwright/core/internal';
import type { FeatureTest } from '../base/feature-filters.js';
import { compileNow, hasValues, writtenOut } from '../base/late-reading.js';
import { LatePart } from '../base/late-part.js';
import { requireAlive } from '../base/map-context.js';
import { assembled, partsOf, rebased, type SheetParts } from '../base/sheet-parts.js';
import type { Clusters } from '../clusters/clusters.js';
import type { FoundBreaks } from '../load/derived-data.js';
import { fetchJson, type RequestHook } from '../load/request.js';
import { withoutFeatures, withWholeAddresses } from '../load/sheet.js';
import type { Sources } from '../load/sources.js';
import type { WorkerPool } from '../worker/pool.js';
import type * as ClassTools from './class-breaks.js';
import type { Context } from './context.js';
import type { Frames } from './frames.js';
import type { LayersHost, PartsChange } from './layers.js';
import type { MapOptions, SheetOptions } from './options.js';
import { readPermalink } from './permalink.js';
import { SheetNeeds } from './sheet-needs.js';
import type { SilentFaults } from './silent-faults.js';
import { limitsOf, type SurfaceControl } from './surface-control.js';

/** Tools of the sheet control. */
export interface SheetControlTools {
  readonly context: Context;
  readonly options: MapOptions;
  readonly hook: RequestHook | undefined;
  /** Address that others are relative to. */
  readonly base: string;
  readonly pool: WorkerPool;
  readonly sources: Sources;
  readonly clusterLayers: Clusters;
  readonly surfaces: SurfaceControl;
  readonly frames: Frames;
  readonly silent: SilentFaults;
}

/** Loads, compiles and applies sheets, and what is laid over them at run time. */
export class SheetControl implements LayersHost {
  /** Class limits found in the data; what writes them into sheets is fetched when some first are. */
  private readonly classing: LatePart<typeof ClassTools>;
  private breaks: ClassTools.ClassBreaks | undefined;
  private readonly found: FoundBreaks[] = [];
  private readonly controller = new AbortController();
  /** Ends the wait for changes that are still to be applied. */
  private due: (() => void) | undefined;
  private readonly needs: SheetNeeds;
  /** Changes made while what reads their values is on its way, and the parts before them. */
  private unread: { readonly before: SheetParts; readonly changes: PartsChange[] } | undefined;

  /** @param nothing the parts of a sheet without anything */
  constructor(
    private readonly tools: SheetControlTools,
    nothing: SheetParts,
  ) {
    const { parts, sheet } = tools.context.state;
    this.needs = new SheetNeeds(tools.context, () => this.readAgain());
    this.classing = new LatePart(
      tools.context,
      () => import('./class-breaks.js'),
      ({ ClassBreaks }) => {
        this.breaks = new ClassBreaks();
        this.takeFound(this.breaks);
      },
    );
    this.note(nothing, () => parts, sheet);
    tools.sources.listen({
      opened: () => tools.context.invalidate('ground', true),
      turned: (data, state) => tools.context.emit('datachange', { data, state }),
      found: (breaks) => {
        this.found.push(breaks);
        if (this.breaks) this.takeFound(this.breaks);
        else void this.classing.ready();
      },
    });
  }

  /** @throws Fault `map.removed` */
  parts(): SheetParts {
    requireAlive(this.tools.context);
    return this.tools.context.state.parts;
  }

  /** Puts another sheet in force; run-time layers stay, but for one that is whole. @throws SheetFault, and leaves all as it was */
  set(sheet: Sheet, { duration = 300, whole = false }: SheetOptions = {}): void {
    this.change(
      (parts) => (whole ? partsOf(sheet) : rebased(parts, sheet)),
      () => this.tools.frames.fade(duration),
    );
  }

  /** @param sound called ahead of the change, where it is sound */
  change(change: PartsChange, sound?: () => void): void {
    // Another map of the page may have brought it.
    if (this.unread && hasValues()) this.readAgain();
    const before = this.parts();
    const parts = change(before);
    const sheet = this.compiled(parts);
    sound?.();
    this.note(before, change, sheet);
    this.put(parts, sheet);
  }

  private put(parts: SheetParts, sheet: CompiledSheet): void {
    this.tools.context.update({ parts, sheet });
    this.applySoon();
  }

  /** Notes a change, where the sheet that it leads to cannot be read in full yet. */
  private note(before: SheetParts, change: PartsChange, { needs }: CompiledSheet): void {
    if (needs.has('values')) (this.unread ??= { before, changes: [] }).changes.push(change);
    else this.unread = undefined;
  }

  /**
   * Reads the sheet again when something that it takes has come. Changes that turn out not to be sound are told of, and left out; all
   * others hold.
   */
  private readAgain(): void {
    const { unread } = this;
    this.unread = undefined;
    const { parts } = this.tools.context.state;
    try {
      this.put(parts, this.compiled(parts));
    } catch (error) {
      if (!unread || !(error instanceof Fault)) throw error;
      let sound = unread.before;
      let sheet = this.compiled(sound);
      for (const change of unread.changes)
        try {
          const next = change(sound);
          sheet = this.compiled(next);
          sound = next;
        } catch (fault) {
          this.tell(fault, 'sheet.change', 'Check the change.');
        }
      this.put(sound, sheet);
    }
  }

  /** Tells of a sheet that is not sound, fault by fault, or of what else went wrong. */
  private tell(error: unknown, code: string, hint: string): void {
    const { context } = this.tools;
    const faults = error instanceof SheetFault ? error.faults : [asFault(error, code, hint)];
    for (const fault of faults) context.report(fault);
  }

  /** Has {@link apply} come when what runs now has ended, so that many changes of one turn are applied as one. */
  applySoon(): void {
    if (this.due) return;
    this.due = this.tools.context.begin();
    queueMicrotask(() => this.flush());
  }

  /** Applies what is due. */
  flush(): void {
    const end = this.due;
    if (!end) return;
    this.due = undefined;
    end();
    if (!this.tools.context.removed) this.apply();
  }

  filter(id: string, data: string, test: FeatureTest | undefined): void {
    const { context, sources, clusterLayers } = this.tools;
    this.flush();
    context.filters.set(id, test);
    sources.refilter(id, data);
    clusterLayers.forget();
    context.invalidate('ground', true);
  }

  private compiled(parts: SheetParts): CompiledSheet {
    const sheet = assembled(parts, this.tools.context.elements.isDark);
    return compileNow(this.breaks?.into(sheet) ?? sheet);
  }

  private takeFound(breaks: ClassTools.ClassBreaks): void {
    for (const found of this.found.splice(0)) for (const fault of breaks.take(found)) this.tools.context.report(fault);
    this.change((parts) => parts);
  }

  /** Takes over the colors of day or night, where the sheet has both. */
  recolor(): void {
    const { context, frames } = this.tools;
    const { parts } = context.state;
    if (!parts.base.dark || context.removed) return;
    const sheet = this.compiled(parts);
    frames.fade(300);
    this.put(parts, sheet);
  }

  /** Brings workers and stores into line with the sheet in force. */
  apply(): void {
    const { context, pool, sources, clusterLayers, surfaces, silent } = this.tools;
    const { sheet } = context.state;
    const isMet = this.needs.met(sheet);
    // Whoever waits for a surface waits for it alone.
    if (!surfaces.require(sheet.sheet, () => this.apply())) return;
    if (!isMet) {
      // While it is but values that cannot be read, data and workers may come; no tile is asked for.
      if (!sheet.needs.has('values')) return;
      pool.expect(sheet);
      sources.apply(sheet);
      return;
    }
    void context.icons.adopt(sheet.sheet.icons ?? {})?.finally(context.begin());
    pool.setSheet(
      {
        sheet: withoutFeatures(writtenOut(sheet)),
        plain: sheet.plain
          ? sheet.layers.map((layer) => plainLayer(layer, (name) => context.sprite(name) ?? 0))
          : undefined,
        sprites: context.icons.numbered,
        surface: surfaces.spec,
      },
      sheet,
    );
    sources.apply(sheet);
    clusterLayers.forget();
    silent.symbols(sheet, context.icons.names);
    context.invalidate('ground', true);
  }

  /**
   * Fetches a sheet and puts it in force.
   *
   * @param address of the sheet
   * @param first whether it is the map's first, whose view and name hold
   * @param fade how the picture before goes over into it
   */
  async load(address: string, first: boolean, fade: SheetOptions = {}): Promise<void> {
    const { context, options, hook, base } = this.tools;
    const end = context.begin();
    try {
      const url = new URL(address, base).href;
      const asked = { signal: this.controller.signal, what: 'the sheet' };
      // Hardly a sheet of some size is plain.
      const [sheet] = await Promise.all([fetchJson(url, asked, hook) as Promise<Sheet>, this.needs.values()]);
      if (context.removed) return;
      this.set(withWholeAddresses(sheet, url), first ? {} : fade);
      if (!first) return;
      this.begin(sheet);
      if (options.title === undefined && sheet.title !== undefined) context.elements.title = sheet.title;
    } catch (error) {
      if (!context.removed) this.tell(error, 'sheet.load', 'Check the sheet.');
    } finally {
      end();
      if (!context.removed) context.invalidate('ground');
    }
  }

  /** Takes over the view that the first sheet asks for. */
  private begin({ view }: Sheet): void {
    const { context, options, surfaces } = this.tools;
    const { state } = context;
    const limits = { ...state.limits, ...limitsOf(view?.surface), ...view?.limits, ...options.limits };
    const home = changeView(state.home, { ...view, ...options.view }, limits);
    // The zoom of a sheet is meant on its own surface.
    surfaces.started(view?.surface);
    const kept = options.permalink ? readPermalink(location.hash) : undefined;
    context.update({ limits, home, ...(kept ? {} : { view: home }) });
  }

  remove(): void {
    this.controller.abort(new Fault('map.removed', 'the map was removed', 'No action is needed.'));
  }
}
