import type { Fault } from '@flintwright/core';
import type { Camera } from '@flintwright/core/internal';
import { FeatureFilters } from '../base/feature-filters.js';
import { FeatureStates } from '../base/feature-states.js';
import { listen } from '../base/live-counts.js';
import type { Box, MapContext, MapState } from '../base/map-context.js';
import { Icons } from '../base/icons.js';
import { english, type Strings } from '../base/strings.js';
import { MapElements } from '../overlay/map-elements.js';
import { Notice } from '../overlay/notice.js';
import type { MapEventDetail, MapEvents } from './events.js';
import { FrameLoop } from './frame-loop.js';
import type { MapOptions } from './options.js';
import { StateStore } from './state.js';

/** Whether anything of the ground, and of the labels, may differ from what was drawn last. */
export interface Stale {
  ground: boolean;
  labels: boolean;
}

/** The context that the parts of one map share: its state, its elements, and ways to tell and to ask. */
export class Context implements MapContext {
  readonly states = new FeatureStates();
  readonly filters = new FeatureFilters();
  readonly loop = new FrameLoop();
  readonly stale: Stale = { ground: true, labels: true };
  readonly strings: Strings;
  readonly icons: Icons;
  readonly elements: MapElements;
  readonly store: StateStore;
  readonly notice: Notice;
  private readonly motion = matchMedia('(prefers-reduced-motion: reduce)');
  /** Told when the map turns dark or light. */
  readonly recolors: (() => void)[] = [];
  private readonly written = new Set<string>();
  private readonly off: () => void;
  private underWay = 0;
  private gone = false;

  /**
   * @param target where the map's events are told
   * @param title what the map is called when it is read out
   */
  constructor(
    readonly host: HTMLElement,
    private readonly target: EventTarget,
    private readonly options: MapOptions,
    title: string,
    state: MapState,
  ) {
    this.strings = { ...english, ...options.strings };
    this.icons = new Icons(options.icons ?? {}, document.baseURI, (fault) => this.reportLater(fault));
    this.store = new StateStore(state);
    const recolor = () => {
      this.invalidate('ground');
      for (const one of this.recolors) one();
    };
    const arranged = () => this.invalidate('overlay', true);
    this.elements = new MapElements(host, title, options.colorScheme ?? 'light', recolor, arranged);
    this.notice = new Notice(this.overlay, this.strings);
    // People may change their mind while the map is up.
    this.off = listen(this.motion, 'change', () => this.invalidate('overlay'));
  }

  get canvas(): HTMLCanvasElement {
    return this.elements.canvas;
  }

  get overlay(): HTMLElement {
    return this.elements.overlay;
  }

  get panelBoxes(): readonly Box[] {
    return this.elements.panels.boxes;
  }

  get fitBoxes(): readonly Box[] {
    return this.elements.panels.fitBoxes;
  }

  get state(): MapState {
    return this.store.now;
  }

  get camera(): Camera {
    return this.store.camera;
  }

  get reducedMotion(): boolean {
    return this.motion.matches;
  }

  get removed(): boolean {
    return this.gone;
  }

  /** Whether something that was begun has not come to an end. */
  get busy(): boolean {
    return this.underWay > 0;
  }

  sprite(name: string): number | undefined {
    const { asked } = this.icons;
    if (asked.size !== asked.add(name).size) this.invalidate('overlay');
    return this.icons.number(name);
  }

  idName(data: string): string | undefined {
    return this.state.sheet.sheet.data?.[data]?.id;
  }

  update(change: Partial<MapState>): void {
    this.store.update(change);
  }

  invalidate(what: 'ground' | 'overlay', labels = false): void {
    if (what === 'ground') this.stale.ground = true;
    if (labels) this.stale.labels = true;
    this.loop.again();
  }

  /** Tells of an event; false when somebody prevented what would follow. */
  emit<K extends keyof MapEvents>(type: K, detail: MapEventDetail<K>): boolean {
    return this.target.dispatchEvent(new CustomEvent(type, { detail, cancelable: true }));
  }

  report(fault: Fault): void {
    const wanted = this.emit('fault', fault);
    if (!wanted) return;
    this.write(fault);
    if (this.options.notices !== false) this.notice.show(fault);
  }

  /** Writes a fault that nobody has taken up to the console, once. */
  private write(fault: Fault): void {
    const text = `${fault.code}: ${String(fault)}`;
    if (this.written.has(text)) return;
    this.written.add(text);
    const cause = fault.cause === undefined ? [] : [fault.cause];
    // oxlint-disable-next-line no-console -- the console is where a developer looks when nothing is drawn
    console.error(`Flintwright, ${text}`, ...cause);
  }

  reportLater(fault: Fault): void {
    queueMicrotask(() => {
      if (!this.gone) this.report(fault);
    });
  }

  begin(): () => void {
    this.underWay++;
    let ended = false;
    return () => {
      if (ended) return;
      ended = true;
      this.underWay--;
    };
  }

  /** From now on nothing is told of any more. */
  close(): void {
    this.gone = true;
  }

  /** Takes the elements off the page, and draws no more. */
  remove(): void {
    this.off();
    this.notice.clear();
    this.elements.remove();
    this.loop.stop();
  }
}
