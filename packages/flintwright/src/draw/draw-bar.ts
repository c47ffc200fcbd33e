import { asFault, Fault } from '@flintwright/core';
import {
  cutAtAntimeridian,
  EditDocument,
  pathsOf,
  type EditChange,
  type EditDraft,
  type EditFeature,
  type EditGeometry,
  type EditSpace,
  type EditStep,
  type MeasureUnits,
  type StepCause,
} from '@flintwright/core/edit';
import { checkOptions, type Corner, type OptionTable } from '../base/check-options.js';
import { Control } from '../controls/control.js';
import type { FlintMap } from '../map/map.js';
import type { PressDetail } from '../markers/markers.js';
import { makeElement } from '../overlay/dom.js';
import { adoptStyles } from '../overlay/adopt-styles.js';
import { ChoicePanel } from './choice-panel.js';
import { ConflictPanel } from './conflict-panel.js';
import { DraftStore } from './draft-store.js';
import type { FieldsSchema } from './draw-form.js';
import { DrawLayer, isComplete, withIcons, type DrawLooks } from './draw-layer.js';
import { DrawPanel } from './draw-panel.js';
import { measureText } from './measure-text.js';
import { englishDraw, type DrawStrings, type DrawTool } from './draw-strings.js';
import { drawStyle } from './draw-style.js';
import { EditHandles } from './edit-handles.js';
import { barIcons } from './icons.js';
import { PressOwner } from './press-owner.js';
import { Sketch } from './sketch.js';
import { typedPlace } from './typed-place.js';

export { RemoteFeatures, type RemoteFeaturesOptions, type SaveReport } from './remote-features.js';
export { Measure, type MeasureOptions } from './measure.js';
export type { FieldSchema, FieldsSchema } from './draw-form.js';
export type { DrawLook, DrawLooks } from './draw-layer.js';
export type { DrawStrings, DrawTool } from './draw-strings.js';
export type { EditChange, EditConflict, EditFeature, EditGeometry, EditStep, StepCause } from '@flintwright/core/edit';

/** Kind of a feature; multipart geometries count as their single kind. */
export type DrawGeometry = 'Point' | 'LineString' | 'Polygon';

/** An edit step, as reported to the application. */
export interface DrawStep extends EditStep {
  readonly changes: readonly (EditChange & {
    /** Whether the feature has all attributes that {@link DrawBarOptions.fields} require; true for a deleted feature. */
    readonly valid: boolean;
  })[];
  /** Whether all features of the step have their required attributes; false if one of them is a draft. */
  readonly valid: boolean;
}

export interface DrawBarOptions {
  /** Initial features as GeoJSON; default none. They are shown in layers of the draw bar. */
  readonly features?: { readonly type?: string; readonly features: readonly object[] };
  /** Attribute that identifies features; default their GeoJSON ids. */
  readonly idName?: string;
  /** Id of the layer that shows the features; default `drawn`. */
  readonly layer?: string;
  /** Title of that layer; default `Drawn`. */
  readonly title?: string;
  /** Symbols for each kind of feature. */
  readonly looks?: DrawLooks;
  /** Available tools in their order, for the bar, keys and {@link DrawBar.tool}; default all that draw an allowed geometry. */
  readonly tools?: readonly DrawTool[];
  /** Geometry types that can be drawn and added; default those that the tools draw, and all types if no tool draws. */
  readonly geometries?: readonly DrawGeometry[];
  /** Attributes of the features, from which a form is made; default no form. */
  readonly fields?: FieldsSchema;
  /** Units of lengths and areas; default `metric`. */
  readonly units?: MeasureUnits;
  /** Whether positions snap to existing vertices and edges; default true. */
  readonly snap?: boolean;
  /** Spacing in meters of a grid that positions snap to; default no grid. */
  readonly grid?: number;
  /** Whether vertices that features share move together; default true. */
  readonly shared?: boolean;
  /** Name under which the browser stores a draft that survives a reload or a crash; default no draft. */
  readonly draft?: string;
  /**
   * Called after each edit step with the features before and after it, so that the application can save them. Geometries are cut at the
   * antimeridian, as in {@link DrawBar.features}.
   */
  readonly onStep?: (step: DrawStep, cause: StepCause) => void;
  /** Corner of the map; controls in one corner stack. Default: the middle of the lower edge. */
  readonly position?: Corner | undefined;
  /** Texts to replace the English ones. */
  readonly strings?: Partial<DrawStrings>;
}

const table: OptionTable<DrawBarOptions> = {
  features: 'object',
  idName: 'text',
  layer: 'text',
  title: 'text',
  looks: 'object',
  tools: 'list',
  geometries: 'list',
  fields: 'object',
  units: 'text',
  snap: 'switch',
  grid: 'number',
  shared: 'switch',
  draft: 'text',
  onStep: 'function',
  position: 'corner',
  strings: 'object',
};

const allTools: readonly DrawTool[] = [
  'select',
  'box',
  'lasso',
  'point',
  'line',
  'area',
  'rectangle',
  'circle',
  'offset',
  'cut',
  'hole',
];

/** The geometry type that a tool draws. */
const drawnBy: Partial<Readonly<Record<DrawTool, DrawGeometry>>> = {
  point: 'Point',
  line: 'LineString',
  offset: 'LineString',
  area: 'Polygon',
  rectangle: 'Polygon',
  circle: 'Polygon',
};
const allGeometries: readonly DrawGeometry[] = ['Point', 'LineString', 'Polygon'];

/**
 * A bar of tools to draw and correct features by mouse, pen, touch and keyboard, on every surface. Undo is unlimited, and drafts can be
 * stored.
 */
export class DrawBar extends Control {
  /** The edited features and their edit steps. */
  readonly document: EditDocument;
  private readonly strings: DrawStrings;
  private readonly sketch: Sketch;
  private readonly handles: EditHandles;
  private readonly layer: DrawLayer;
  private readonly store: DraftStore | undefined;
  private readonly buttons = new Map<string, HTMLButtonElement>();
  private readonly said = makeElement('p');
  private readonly measured = makeElement('b');
  private readonly typed = makeElement('form');
  private readonly panel: DrawPanel | undefined;
  private readonly conflicts: ConflictPanel;
  private readonly choices: ChoicePanel;
  private readonly presses: PressOwner;
  private readonly tools: readonly DrawTool[];
  private readonly geometries: readonly DrawGeometry[];
  /** Whether the last thing that somebody used was a key. */
  private keys = false;
  private readonly coarse = matchMedia('(pointer: coarse)');

  /**
   * Adds a draw bar to a map.
   *
   * @param map the map
   * @param options features, symbols, attributes, and drawing behavior
   * @throws Fault `option.*`, `edit.key`, `edit.geometry`, `draw.features`, `draw.tool` or `draw.geometry`
   */
  constructor(
    map: FlintMap,
    private readonly options: DrawBarOptions = {},
  ) {
    checkOptions('new DrawBar', options, table, "new DrawBar(map, { features, draft: 'moorings' })");
    const strings = { ...englishDraw, ...options.strings };
    const { tools, geometries } = checkedTools(options);
    const document = new EditDocument(readFeatures(options.features), options.idName);
    super(map, 'flint-draw', { position: options.position, seat: 'bottom' });
    adoptStyles(map.host, drawStyle);
    this.strings = strings;
    this.document = document;
    this.tools = tools;
    this.geometries = geometries;
    this.presses = new PressOwner(map.host, () => this.sketch.use('select'));
    this.end(() => this.presses.remove());
    const space: EditSpace = map.surface === 'plan' ? 'plane' : 'lonlat';
    const { snap = true, grid, shared = true, layer = 'drawn', title = 'Drawn', looks = {} } = options;
    this.sketch = new Sketch(document, space, { snap, grid, shared }, strings, () => this.follow());
    this.handles = new EditHandles(
      map,
      this.sketch,
      strings,
      (geometry) => this.measure(geometry),
      () => this.follow(),
    );
    this.layer = new DrawLayer(map, layer, document, title, withIcons(looks, options.fields), options.fields);
    this.end(() => this.handles.remove());
    this.end(() => this.layer.remove());
    if (options.fields) this.panel = new DrawPanel(map, document, options.fields, strings);
    this.end(() => this.panel?.remove());
    this.conflicts = new ConflictPanel(map, document, strings);
    this.end(() => this.conflicts.remove());
    this.choices = new ChoicePanel(map);
    this.end(() => this.choices.remove());
    this.end(document.watch(() => this.follow()));
    this.end(document.listen((step, cause) => this.onStep(step, cause)));
    this.element.append(this.card());
    this.listen();
    if (options.draft !== undefined) {
      this.store = new DraftStore(options.draft, () => this.loseDraft());
      this.end(() => this.store?.close());
      void this.takeUp();
    }
    this.follow();
  }

  // --- for applications ---------------------------------------------------------------------------

  /** All features as GeoJSON, cut at the antimeridian (RFC 7946, section 3.1.9). */
  get features(): { readonly type: 'FeatureCollection'; readonly features: readonly EditFeature[] } {
    const features = [...this.document.features.values()];
    return { type: 'FeatureCollection', features: features.map((feature) => this.withinWorld(feature)) };
  }

  /** A feature as it is given away: what goes over the antimeridian is cut there (RFC 7946, section 3.1.9). */
  private withinWorld(feature: EditFeature): EditFeature {
    if (this.sketch.space === 'plane') return feature;
    const geometry = cutAtAntimeridian(feature.geometry) as EditFeature['geometry'];
    return geometry === feature.geometry ? feature : { ...feature, geometry };
  }

  /**
   * Adds features in one edit step, for example those of a layer that is to be corrected, or of a file.
   *
   * @param collection GeoJSON; features without a geometry are left out
   * @param name name of the edit step
   * @returns their keys
   * @throws Fault `draw.features`, `draw.geometry` or `edit.geometry`; nothing is changed then
   */
  add(
    collection: { readonly type?: string; readonly features: readonly object[] },
    name = this.strings.steps.add,
  ): readonly string[] {
    const { idName } = this.document;
    const placed = (collection?.features as { geometry?: unknown }[] | undefined)?.filter((one) => one?.geometry);
    const after = new Map<string, EditFeature | undefined>();
    for (const feature of readFeatures({ features: placed ?? (undefined as never) })) {
      const type = feature.geometry.type.replace('Multi', '');
      if (!this.geometries.some((allowed) => allowed === type))
        throw new Fault(
          'draw.geometry',
          `a ${feature.geometry.type} cannot be added here`,
          `Types: ${this.geometries.join(', ')}; "geometries" of the draw bar allows others.`,
        );
      const own = idName === undefined ? feature.id : feature.properties[idName];
      const free = own !== undefined && !this.document.features.has(String(own)) && !after.has(String(own));
      let key = free ? String(own) : this.document.newKey();
      while (after.has(key)) key += '-2';
      const named = idName === undefined ? { id: key } : { properties: { ...feature.properties, [idName]: key } };
      after.set(key, { ...feature, ...named });
    }
    this.document.apply(name, after);
    return [...after.keys()];
  }

  /** The active tool. */
  get tool(): DrawTool {
    return this.sketch.tool;
  }

  set tool(tool: DrawTool) {
    if (!this.tools.includes(tool) && tool !== 'select')
      throw new Fault('draw.tool', `there is no tool "${String(tool)}" here`, `Tools: ${this.tools.join(', ')}.`);
    this.use(tool);
  }

  /** Picks a tool up, and ends what other tools of the map do with presses. */
  private use(tool: DrawTool): void {
    this.presses.claim();
    this.sketch.use(tool);
    this.handles.flush();
  }

  /** Whether people may select and correct. */
  private get selects(): boolean {
    return this.tools.some((tool) => tool === 'select' || tool === 'box' || tool === 'lasso');
  }

  /** Keys of the selected features. */
  get selection(): readonly string[] {
    return [...this.sketch.selected];
  }

  /** Selects features by their keys and deselects all others. @throws Fault `edit.key` */
  select(...keys: readonly string[]): void {
    for (const key of keys) this.document.require(key);
    this.sketch.use('select');
    this.sketch.selected.clear();
    for (const key of keys) this.sketch.selected.add(key);
    this.follow();
  }

  undo(): void {
    this.sketch.cancel();
    this.document.undo();
  }

  redo(): void {
    this.sketch.cancel();
    this.document.redo();
  }

  /** Forgets the draft that was put by, once the work is saved elsewhere. */
  async discardDraft(): Promise<void> {
    await this.store?.discard();
  }

  /**
   * Sets the next place, as if it had been pressed, from coordinates in text.
   *
   * @param text decimal degrees, degrees, minutes and seconds, or a code and two numbers, such as `EPSG:32625 641000 4942000`
   * @throws Fault `draw.place` or `crs.*`
   */
  async enter(text: string): Promise<void> {
    const place = await typedPlace(text, this.sketch.space);
    if (!place) throw new Fault('draw.place', this.strings.unread(text), `Write ${this.strings.placeHint}.`);
    const { snap } = this.sketch.choices;
    // What is typed is meant exactly.
    this.sketch.choices.snap = false;
    try {
      await this.sketch.set(place, 0);
    } finally {
      this.sketch.choices.snap = snap;
    }
  }

  // --- the bar ------------------------------------------------------------------------------------

  private card(): HTMLElement {
    const { strings, sketch } = this;
    const [card, body] = [makeElement('div', 'flint-card'), makeElement('div')];
    const say = makeElement('div', 'flint-draw-say');
    this.said.setAttribute('role', 'status');
    const row = makeElement('div', 'flint-bar-row');
    row.setAttribute('role', 'toolbar');
    row.setAttribute('aria-label', strings.bar);
    const group = (...made: HTMLButtonElement[]) => {
      const box = makeElement('div');
      box.append(...made);
      row.append(box);
    };
    const add = (name: string, label: string, press: () => void) => {
      // One that does nothing at present keeps the focus, which would fall to the page otherwise.
      const button: HTMLButtonElement = this.button(label, barIcons[name], () => {
        if (button.getAttribute('aria-disabled') !== 'true') press();
      });
      this.buttons.set(name, button);
      return button;
    };
    const tools = this.tools.map((tool) => add(tool, strings.tools[tool], () => this.use(tool)));
    const making = ['point', 'line', 'area', 'rectangle', 'circle', 'offset'];
    const isMaking = (button: HTMLButtonElement) => making.some((name) => this.buttons.get(name) === button);
    const cutting = tools.filter((button) => button === this.buttons.get('cut') || button === this.buttons.get('hole'));
    const choosing = tools.filter((button) => !isMaking(button) && !cutting.includes(button));
    group(...choosing);
    group(...tools.filter(isMaking));
    group(
      ...cutting,
      add('join', strings.join, () => void sketch.join()),
      add('delete', strings.delete, () => sketch.delete()),
    );
    group(
      add('undo', '', () => this.undo()),
      add('redo', '', () => this.redo()),
    );
    const snap = add('snap', strings.snap, () => {
      sketch.choices.snap = !sketch.choices.snap;
      this.follow();
    });
    snap.classList.add('flint-switch');
    group(snap);
    say.append(this.said, this.measured, this.placeForm());
    body.append(say, row);
    card.append(body);
    return card;
  }

  private placeForm(): HTMLElement {
    const { strings, typed } = this;
    const [input, button] = [makeElement('input'), makeElement('button', 'flint-enter', strings.enter)];
    Object.assign(input, { placeholder: '44.62, -31.18', title: strings.placeHint, autocomplete: 'off' });
    input.setAttribute('aria-label', strings.place);
    button.type = 'submit';
    typed.append(input, button);
    this.on(typed, 'submit', (event: Event) => {
      event.preventDefault();
      if (!input.value.trim()) void this.sketch.finish();
      else
        this.enter(input.value).then(
          () => (input.value = ''),
          (error: unknown) => this.sketch.fail(error),
        );
    });
    return typed;
  }

  private listen(): void {
    const { map, sketch, handles } = this;
    this.on<CustomEvent<PressDetail>>(map, 'press', (event) => {
      const { point, place, original, marker } = event.detail;
      if (this.presses.isElsewhere || (marker && sketch.tool === 'select')) return;
      const adding = original instanceof MouseEvent && (original.shiftKey || original.ctrlKey || original.metaKey);
      if (sketch.tool === 'select') {
        if (!this.selects) return;
        const key = this.layer.keyAt(point);
        if (key !== undefined || sketch.selected.size) sketch.select(key, adding);
        if (key !== undefined) event.preventDefault();
        return;
      }
      event.preventDefault();
      if (place) void sketch.set(place, handles.reach());
    });
    this.on<CustomEvent<PressDetail>>(map, 'dblpress', (event) => {
      if (sketch.tool === 'select' || this.presses.isElsewhere) return;
      event.preventDefault();
      void sketch.finish();
    });
    this.listenToBoxes();
    this.on<PointerEvent>(map.host, 'pointermove', (event) => {
      this.keys = false;
      if (sketch.tool === 'select' || (event.target as Element).closest('.flint-control')) return;
      sketch.point(map.toPlace(handles.pixelOf(event)), handles.reach());
    });
    const key = (event: KeyboardEvent) => this.key(event);
    // Before the map, for which Enter is a press in its middle.
    map.host.addEventListener('keydown', key, { capture: true });
    this.end(() => map.host.removeEventListener('keydown', key, { capture: true }));
  }

  /** A box that is dragged over the map, which stays where it is meanwhile. */
  private listenToBoxes(): void {
    const { map, sketch, handles } = this;
    let from: readonly [number, number] | undefined;
    const at = (event: PointerEvent) => map.toPlace(handles.pixelOf(event));
    map.host.addEventListener('pointerdown', begin, { capture: true });
    this.end(() => map.host.removeEventListener('pointerdown', begin, { capture: true }));
    function begin(event: PointerEvent): void {
      const onMap = (event.target as Element).classList.contains('flint-canvas');
      if (sketch.tool !== 'box' || !onMap || event.button || !event.isPrimary) return;
      event.stopPropagation();
      from = handles.pixelOf(event);
      const place = at(event);
      if (place && !sketch.drawing) void sketch.set(place, 0);
      map.host.setPointerCapture(event.pointerId);
    }
    this.on<PointerEvent>(map.host, 'pointerup', (event) => {
      if (!from) return;
      const [pixel, place] = [handles.pixelOf(event), at(event)];
      const moved = Math.hypot(pixel[0] - from[0], pixel[1] - from[1]) > 4;
      from = undefined;
      // A press sets one corner, and the next press the other.
      if (sketch.tool === 'box' && place && (moved || sketch.places.length > 0))
        void sketch.set(place, handles.reach());
    });
  }

  private key(event: KeyboardEvent): void {
    const { sketch, map } = this;
    const { target } = event;
    if (target instanceof HTMLInputElement || target instanceof HTMLSelectElement) {
      if (event.key === 'Escape' && this.typed.contains(target)) sketch.cancel();
      return;
    }
    const command = event.ctrlKey || event.metaKey;
    const act = this.presses.isElsewhere && !command ? undefined : this.acts(event, command);
    this.keys = true;
    if (act) {
      event.preventDefault();
      event.stopPropagation();
      act();
    } else if (sketch.tool !== 'select' && /^Arrow/.test(event.key)) {
      // The cross in the middle is the pointer of those who draw by keyboard.
      sketch.point(map.destination.center, this.handles.reach());
    }
    this.follow();
  }

  private acts(event: KeyboardEvent, command: boolean): (() => void) | undefined {
    const { sketch } = this;
    const key = event.key.toLowerCase();
    if (command && key === 'z') return () => (event.shiftKey ? this.redo() : this.undo());
    if (command && key === 'y') return () => this.redo();
    if (command || event.altKey) return undefined;
    if (key === 'escape' && sketch.drawing) return () => sketch.cancel();
    if (key === 'escape' && sketch.tool !== 'select') return () => sketch.use('select');
    if (key === 'escape' && sketch.selected.size) return () => sketch.select(undefined);
    if (key === 'backspace' && sketch.drawing) return () => sketch.back();
    const onMap = (event.target as Element).classList.contains('flint-canvas');
    // Drawn with a pointer, Enter ends it; drawn by keyboard, Enter sets the next place in the middle of the map.
    if (key === 'enter' && onMap && sketch.drawing && !this.keys) return () => void sketch.finish();
    if ((key === 'delete' || key === 'backspace') && onMap && this.selects && sketch.selected.size)
      return () => sketch.delete();
    return undefined;
  }

  /** Brings bar, handles and form to what is the case now. */
  private follow(): void {
    const { sketch, document, strings, handles, buttons } = this;
    if (!handles) return;
    handles.crosshair = this.keys;
    this.conflicts.follow();
    handles.other = this.conflicts.conflict?.theirs?.geometry;
    handles.later();
    for (const tool of allTools) buttons.get(tool)?.setAttribute('aria-pressed', String(tool === sketch.tool));
    buttons.get('snap')!.setAttribute('aria-pressed', String(sketch.choices.snap));
    const name = (button: string, label: string) => {
      const element = buttons.get(button)!;
      element.title = label;
      element.setAttribute('aria-label', label);
    };
    name('undo', strings.undo(document.undoName ?? ''));
    name('redo', strings.redo(document.redoName ?? ''));
    const disable = (button: string, isIdle: boolean) =>
      buttons.get(button)!.setAttribute('aria-disabled', String(isIdle));
    disable('undo', document.undoName === undefined);
    disable('redo', document.redoName === undefined);
    disable('delete', sketch.selected.size === 0);
    disable('join', sketch.selected.size < 2);
    this.typed.hidden = sketch.tool === 'select';
    const { trouble } = sketch;
    const [one] = sketch.selected.size === 1 ? [...sketch.selected] : [];
    const chosen = one === undefined ? undefined : document.features.get(one);
    const isDraft = chosen !== undefined && !isComplete(chosen, this.options.fields);
    const byTouch = this.coarse.matches && !this.keys;
    const hint = sketch.drawing
      ? this.keys
        ? strings.goOnByKeys
        : byTouch
          ? strings.byTouch.goOn
          : strings.goOn
      : isDraft
        ? strings.incomplete
        : sketch.selected.size && sketch.tool === 'select'
          ? strings.selected(sketch.selected.size)
          : ((byTouch ? strings.byTouch.hints[sketch.tool] : undefined) ?? strings.hints[sketch.tool]);
    const says = trouble?.message ?? (handles.tooMany ? strings.tooMany : hint);
    if (this.said.textContent !== says) this.said.textContent = says;
    this.said.classList.toggle('flint-wrong', trouble !== undefined);
    const shown = one === undefined ? sketch.shape() : sketch.geometryOf(one);
    this.measured.textContent = shown ? this.measure(shown) : '';
    this.panel?.show([...sketch.selected]);
  }

  private measure(geometry: EditGeometry): string {
    return measureText(geometry, this.sketch.space, this.options.units);
  }

  // --- steps --------------------------------------------------------------------------------------

  private onStep(step: EditStep, cause: StepCause): void {
    if (cause !== 'edit' && step.changes.some(({ key }) => this.sketch.selected.has(key))) this.panel?.outdate();
    this.layer.show(step).catch((error: unknown) => this.map.report(asFault(error, 'draw.show', 'Reload the page.')));
    if (cause !== 'restore') void this.putBy();
    if (cause === 'edit' && step.name === this.strings.steps.draw) this.showForm();
    const { onStep, fields } = this.options;
    if (!onStep) return;
    const given = (feature: EditFeature | undefined) => feature && this.withinWorld(feature);
    const changes = step.changes.map((change) => ({
      ...change,
      before: given(change.before),
      after: given(change.after),
      valid: change.after === undefined || isComplete(change.after, fields),
    }));
    onStep({ ...step, changes, valid: changes.every(({ valid }) => valid) }, cause);
  }

  /** Brings what was drawn and its form into view; those who drew it by keyboard go on in the form. */
  private showForm(): void {
    const { panel, map, sketch } = this;
    if (!panel) return;
    const byKeys = this.keys;
    const [key] = sketch.selected;
    // After the key that ended it, which would press a button of the form otherwise.
    setTimeout(() => {
      const feature = key === undefined ? undefined : this.document.features.get(key);
      if (!this.element.isConnected || !feature) return;
      if (byKeys) panel.focus();
      if (map.host.classList.contains('flint-narrow'))
        void map.frame(
          [...pathsOf(feature.geometry)].flatMap(({ spots }) => spots.map(([x, y]): [number, number] => [x, y])),
          { zoom: map.view.zoom, duration: 300 },
        );
    });
  }

  private async putBy(): Promise<void> {
    try {
      await this.store?.write(this.document.draft());
    } catch (error) {
      this.draftFailed(error);
    }
  }

  /** Restores a draft; one that does not fit is reported and stays as it is. */
  private restored(draft: EditDraft): boolean {
    try {
      this.document.restore(draft);
      return true;
    } catch (error) {
      this.store!.useCopy();
      this.draftFailed(error);
      return false;
    }
  }

  /** Goes on with a copy, because another tab has taken the draft over. */
  private loseDraft(): void {
    void this.putBy();
    this.choices.show(...this.strings.draftTaken, [[this.strings.keepCopy, () => {}]]);
  }

  /** Takes the draft over from another tab, which goes on with a copy. */
  private async takeOver(): Promise<void> {
    const store = this.store!;
    await store.claim({ steal: true });
    await store.read();
    await this.putBy();
  }

  /** Offers a copy that another tab has left. */
  private async offerCopy(): Promise<void> {
    const { strings, document, choices } = this;
    const store = this.store!;
    const [key] = await store.copies();
    const copy = key === undefined ? undefined : await store.read(key);
    if (key === undefined || !copy) return;
    const open = async () => {
      const mine = document.draft();
      while (document.undo());
      document.restore(copy);
      // What was open here takes the place of the copy, so that it can be opened again.
      await (mine.steps.length ? store.swap(key, mine) : store.discard(key));
      await this.putBy();
    };
    choices.show(...strings.draftCopy(copy.done), [
      [strings.openCopy, () => void open().catch((error: unknown) => this.draftFailed(error))],
      [strings.discardCopy, () => void store.discard(key).catch((error: unknown) => this.draftFailed(error))],
    ]);
  }

  private draftFailed(error: unknown): void {
    this.map.report(asFault(error, 'draw.draft', 'Save the work before you leave the page.'));
  }

  private async takeUp(): Promise<void> {
    const { strings, choices } = this;
    const store = this.store!;
    try {
      await store.claim();
      const draft = await store.read();
      if (draft?.steps?.length) {
        // What cannot be restored is kept.
        if (!this.restored(draft)) return;
        this.said.textContent = strings.draftKept;
      }
      if (store.isCopy)
        choices.show(...strings.draftElsewhere, [
          [strings.takeOver, () => void this.takeOver().catch((error: unknown) => this.draftFailed(error))],
          [strings.keepCopy, () => {}],
        ]);
      else await this.offerCopy();
    } catch (error) {
      this.draftFailed(error);
    }
  }
}

/** Tools and geometry types of the options. @throws Fault `draw.tool` or `draw.geometry` */
function checkedTools({ tools, geometries }: DrawBarOptions): {
  readonly tools: readonly DrawTool[];
  readonly geometries: readonly DrawGeometry[];
} {
  for (const tool of tools ?? [])
    if (!allTools.includes(tool))
      throw new Fault('draw.tool', `there is no tool "${String(tool)}"`, `Tools: ${allTools.join(', ')}.`);
  for (const type of geometries ?? [])
    if (!allGeometries.includes(type))
      throw new Fault(
        'draw.geometry',
        `expected geometry types for "geometries", got "${String(type)}"`,
        `Types: ${allGeometries.join(', ')}.`,
      );
  const drawn = allGeometries.filter((type) => tools?.some((tool) => drawnBy[tool] === type));
  const allowed = geometries ?? (drawn.length ? drawn : allGeometries);
  const fits = (tool: DrawTool) => drawnBy[tool] === undefined || allowed.includes(drawnBy[tool]);
  return { tools: (tools ?? allTools).filter(fits), geometries: allowed };
}

/** Features as the application gives them. @throws Fault `draw.features` */
function readFeatures(given: DrawBarOptions['features']): EditFeature[] {
  if (given === undefined) return [];
  if (!Array.isArray(given.features))
    throw new Fault('draw.features', 'features is not a FeatureCollection', 'Give GeoJSON with a list of features.');
  return (given.features as EditFeature[]).map((feature, i) => {
    if (!feature?.geometry)
      throw new Fault('draw.features', `feature ${i + 1} has no geometry`, 'Remove it; it cannot be drawn.');
    pathsOf(feature.geometry);
    return { ...feature, properties: feature.properties ?? {} };
  });
}
