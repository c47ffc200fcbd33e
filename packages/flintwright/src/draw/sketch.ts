import { asFault, Fault } from '@flintwright/core';
import {
  besideLine,
  circleOf,
  crossingsAt,
  cutGeometry,
  joinAreas,
  joinLines,
  lineBetween,
  middleOf,
  moveShared,
  offsetLine,
  pathsOf,
  problemsOf,
  rectangleOf,
  sharedVertices,
  Snapper,
  withoutArea,
  type EditDocument,
  type EditFeature,
  type EditGeometry,
  type EditPosition,
  type EditSpace,
  type SharedVertex,
  type Snap,
  type VertexName,
} from '@flintwright/core/edit';
import type { DrawStrings, DrawTool } from './draw-strings.js';

/** How drawing behaves; all may change while it goes on. */
export interface SketchChoices {
  /** Whether places snap to what is there. */
  snap: boolean;
  /** Spacing of a grid in meters that places snap to; undefined for none. */
  grid: number | undefined;
  /** Whether corners of other features that lie at the same place move along. */
  shared: boolean;
}

/** What is being drawn and corrected: the tool, the places set so far, the selection, and a drag under way. It knows no page. */
export class Sketch {
  tool: DrawTool = 'select';
  /** Places set so far. */
  places: EditPosition[] = [];
  /** Where the pointer is, snapped. */
  pointer: EditPosition | undefined;
  /** What the pointer snapped to. */
  snapped: Snap['to'] = 'none';
  readonly selected = new Set<string>();
  /** Geometries while they are dragged, in place of those of the document. */
  preview: ReadonlyMap<string, EditGeometry> = new Map();
  /** What does not work, and where; cleared by the next that does. */
  trouble: { readonly message: string; readonly at: readonly (readonly [number, number])[] } | undefined;
  /** Whether a line ends at its first place too. */
  closes = false;
  /** Properties of what is drawn next. */
  fresh: Readonly<Record<string, unknown>> = {};
  private readonly snapper: Snapper;
  /** Vertices that move along with the one that is dragged. */
  private along: readonly SharedVertex[] = [];

  constructor(
    readonly document: EditDocument,
    readonly space: EditSpace,
    readonly choices: SketchChoices,
    private readonly strings: DrawStrings,
    private readonly changed: () => void,
  ) {
    this.snapper = new Snapper(space);
    for (const [key, { geometry }] of document.features) this.snapper.set(key, geometry);
    document.listen(({ changes }) => {
      for (const { key, after } of changes) {
        this.snapper.set(key, after?.geometry);
        if (!after) this.selected.delete(key);
      }
      this.changed();
    });
  }

  get drawing(): boolean {
    return this.places.length > 0;
  }

  /** The geometry of a feature as it is shown. */
  geometryOf(key: string): EditGeometry | undefined {
    return this.preview.get(key) ?? this.document.features.get(key)?.geometry;
  }

  use(tool: DrawTool): void {
    this.tool = tool;
    this.places = [];
    this.pointer = this.trouble = undefined;
    if (!['select', 'cut', 'hole', 'offset'].includes(tool)) this.selected.clear();
    this.changed();
  }

  /** A place drawn to what is there. */
  snap(at: EditPosition, reach: number, except?: ReadonlySet<string>): readonly [number, number] {
    const { snap, grid } = this.choices;
    const from = this.places;
    const found = this.snapper.snap(at, {
      reach,
      features: snap,
      ...(snap ? { from, grid } : {}),
      ...(except ? { except } : {}),
    });
    this.snapped = found.to;
    return found.at;
  }

  /** Follows the pointer with what is drawn. */
  point(at: EditPosition | undefined, reach: number): void {
    if (this.tool === 'select') return;
    this.pointer = at && this.snap(at, reach);
    this.changed();
  }

  /**
   * Sets a place, or ends what is drawn where it is the first or the last one again.
   *
   * @param at the place
   * @param reach meters within which it counts as the same
   */
  async set(at: EditPosition, reach: number): Promise<void> {
    const { tool, places } = this;
    const place = this.snap(at, reach);
    this.trouble = undefined;
    if (tool === 'point') return this.add({ type: 'Point', coordinates: place });
    if (tool === 'offset') return this.layBeside(place);
    const near = (other: EditPosition | undefined) =>
      other !== undefined && lineBetween(other, at, this.space).length <= reach;
    const ring = this.closes || tool === 'area' || tool === 'hole' || tool === 'lasso';
    if ((ring && places.length > 2 && near(places[0])) || (places.length > 1 && near(places[places.length - 1])))
      return this.finish();
    if (near(places[places.length - 1])) return;
    places.push(place);
    if ((tool === 'rectangle' || tool === 'circle' || tool === 'box') && places.length === 2) return this.finish();
    this.changed();
  }

  /** Takes the last place back. */
  back(): void {
    this.places.pop();
    this.trouble = undefined;
    this.changed();
  }

  /** Gives up what is drawn. */
  cancel(): void {
    this.places = [];
    this.preview = new Map();
    this.trouble = undefined;
    this.changed();
  }

  /** What the places set so far make, with the pointer as the next; undefined where there are too few. */
  shape(withPointer = true): EditGeometry | undefined {
    const { tool, space, pointer } = this;
    if (tool === 'offset') return withPointer && pointer ? this.beside(pointer)[0]?.geometry : undefined;
    const last = this.places[this.places.length - 1];
    // The pointer rests where the last place was set until it moves.
    const rests = last && pointer && Math.abs(last[0] - pointer[0]) + Math.abs(last[1] - pointer[1]) < 1e-9;
    const places = [...this.places, ...(withPointer && pointer && !rests ? [pointer] : [])];
    if (places.length < 2) return undefined;
    const radius = tool === 'circle' ? lineBetween(places[0], places[1], space).length : 0;
    if (tool === 'circle') return radius > 0 ? circleOf(places[0], radius, space) : undefined;
    if (tool === 'rectangle' || tool === 'box') return rectangleOf(places[0], places[1], space);
    const isRing = tool === 'area' || tool === 'hole' || tool === 'lasso';
    return isRing && places.length > 2
      ? { type: 'Polygon', coordinates: [[...places, places[0]]] }
      : { type: 'LineString', coordinates: places };
  }

  /** Ends what is drawn: it becomes a feature, a cut, a hole or a selection. Where it cannot, it says why, and stays. */
  async finish(): Promise<void> {
    const { tool } = this;
    const shape = this.shape(false);
    const wantsArea = tool === 'area' || tool === 'hole' || tool === 'lasso' || tool === 'box';
    if (!shape || (wantsArea && shape.type !== 'Polygon')) return;
    try {
      const [problem, ...more] = problemsOf(shape);
      if (problem)
        throw new Fault('edit.invalid', problem.message, this.strings.crosses, undefined, [problem, ...more]);
      if (tool === 'cut') this.cut(pathsOf(shape)[0].spots);
      else if (tool === 'hole') await this.cutHole(shape);
      else if (tool === 'lasso' || tool === 'box') this.selectWithin(shape);
      else return this.add(shape);
      this.places = [];
      this.changed();
    } catch (error) {
      this.fail(error);
    }
  }

  /** Says what did not work. */
  fail(error: unknown): void {
    const fault = asFault(error, 'edit.failed', 'Undo the last step.');
    const problems = (fault.cause as { at: readonly [number, number] }[] | undefined) ?? [];
    const at = Array.isArray(problems) ? problems.map((problem) => problem.at) : [];
    this.trouble = { message: at.length ? fault.hint : fault.toString(), at };
    this.changed();
  }

  private add(geometry: EditGeometry): void {
    const key = this.document.newKey();
    this.places = [];
    this.pointer = undefined;
    this.selected.clear();
    this.selected.add(key);
    this.document.apply(this.strings.steps.draw, new Map([[key, this.made(key, geometry, this.fresh)]]));
  }

  /** Lines beside those that are selected, or beside the nearest, through a place. */
  private beside(at: EditPosition): { readonly feature: EditFeature; readonly geometry: EditGeometry }[] {
    const { space } = this;
    const lines = [...this.document.features].filter(([, { geometry }]) => geometry.type === 'LineString');
    const chosen = lines.filter(([key]) => this.selected.has(key));
    const near = (chosen.length ? chosen : lines)
      .map(([, feature]) => {
        const [{ spots }] = pathsOf(feature.geometry);
        return { feature, spots, meters: besideLine(spots, at, space) };
      })
      .toSorted((a, b) => Math.abs(a.meters) - Math.abs(b.meters));
    const meters = near[0]?.meters ?? 0;
    // Several lines go as far as the nearest of them.
    return (chosen.length ? near : near.slice(0, 1)).flatMap(({ feature, spots }) =>
      meters ? [{ feature, geometry: offsetLine(spots, meters, space) }] : [],
    );
  }

  private layBeside(at: EditPosition): void {
    try {
      const after = new Map<string, EditFeature>();
      for (const { feature, geometry } of this.beside(at)) {
        const key = this.document.newKey();
        after.set(key, this.made(key, geometry, feature.properties));
      }
      if (!after.size)
        throw new Fault('edit.offset', 'there is no line to draw a parallel to', 'Draw a line first, or select one.');
      this.pointer = undefined;
      this.document.apply(this.strings.steps.offset, after);
    } catch (error) {
      this.fail(error);
    }
  }

  private made(key: string, geometry: EditGeometry, properties: EditFeature['properties']): EditFeature {
    const { idName } = this.document;
    return idName === undefined
      ? { type: 'Feature', id: key, geometry, properties }
      : { type: 'Feature', geometry, properties: { ...properties, [idName]: key } };
  }

  private cut(along: readonly EditPosition[]): void {
    const after = new Map<string, EditFeature | undefined>();
    const chosen = this.selected.size ? [...this.selected] : [...this.document.features.keys()];
    let refused: Fault | undefined;
    for (const key of chosen) {
      const feature = this.document.require(key);
      if (feature.geometry.type.endsWith('Point')) continue;
      try {
        const [first, ...others] = cutGeometry(feature.geometry, along);
        after.set(key, { ...feature, geometry: first });
        for (const geometry of others) {
          const made = this.document.newKey();
          after.set(made, this.made(made, geometry, feature.properties));
        }
      } catch (error) {
        if (!(error instanceof Fault)) throw error;
        refused = error;
      }
    }
    if (!after.size)
      throw refused ?? new Fault('edit.cut', 'there is nothing to cut', 'Draw the cut across a line or an area.');
    this.document.apply(this.strings.steps.cut, after);
  }

  private async cutHole(hole: EditGeometry): Promise<void> {
    const [x, y] = pathsOf(hole)[0].spots[0];
    const holding = [...this.document.features].filter(([key, { geometry }]) => {
      if (!geometry.type.endsWith('Polygon')) return false;
      return this.selected.size ? this.selected.has(key) : within(geometry, x, y);
    });
    if (!holding.length)
      throw new Fault('edit.hole', 'there is no area to cut a hole in', 'Draw the hole within an area.');
    const after = new Map<string, EditFeature | undefined>();
    for (const [key, feature] of holding) {
      const geometry = await withoutArea(feature.geometry, hole);
      after.set(key, geometry && { ...feature, geometry });
    }
    this.document.apply(this.strings.steps.hole, after);
  }

  private selectWithin(outline: EditGeometry): void {
    this.selected.clear();
    for (const [key, { geometry }] of this.document.features)
      if (within(outline, ...middleOf(geometry))) this.selected.add(key);
    this.tool = 'select';
  }

  /** Selects one feature, or adds it to the selection or takes it out; none clears the selection. */
  select(key: string | undefined, adding = false): void {
    if (!adding) this.selected.clear();
    if (key !== undefined) {
      if (adding && this.selected.has(key)) this.selected.delete(key);
      else this.selected.add(key);
    }
    this.trouble = undefined;
    this.changed();
  }

  /** Deletes what is selected, in one step. */
  delete(): void {
    this.document.apply(this.strings.steps.delete, new Map([...this.selected].map((key) => [key, undefined])));
  }

  /** Joins what is selected: areas in one, lines end to end. The first one's attributes stay. */
  async join(): Promise<void> {
    const keys = [...this.selected];
    try {
      if (keys.length < 2)
        throw new Fault(
          'edit.join',
          'fewer than two features are selected',
          'Select at least two, with Shift or within a box.',
        );
      const [first, ...others] = keys.map((key) => this.document.require(key));
      const geometry = first.geometry.type.endsWith('Polygon')
        ? await joinAreas(first.geometry, ...others.map((other) => other.geometry))
        : joinLines([first, ...others].map((feature) => feature.geometry));
      const after = new Map<string, EditFeature | undefined>(keys.slice(1).map((key) => [key, undefined]));
      after.set(keys[0], { ...first, geometry });
      this.document.apply(this.strings.steps.join, after);
    } catch (error) {
      this.fail(error);
    }
  }

  /** Begins to drag a vertex: corners of other features at the same place may move along. */
  grab(key: string, vertex: VertexName): void {
    const geometry = this.document.require(key).geometry;
    const at = pathsOf(geometry)[vertex.path].spots[vertex.index];
    this.along = this.choices.shared ? sharedVertices(this.geometries(), at, key) : [];
  }

  private *geometries(): Generator<[string, EditGeometry]> {
    for (const [key, { geometry }] of this.document.features) yield [key, geometry];
  }

  /**
   * Shows a feature changed, with what moves along, without a step yet.
   *
   * @param key of the feature
   * @param geometry as it is by now
   * @param vertex the vertex that is dragged, and where it is; default none
   */
  show(key: string, geometry: EditGeometry, vertex?: VertexName & { readonly at: EditPosition }): void {
    const before = new Map(this.along.map(({ key: other }) => [other, this.document.require(other).geometry]));
    const others = vertex ? moveShared(before, this.along, vertex.at) : new Map<string, EditGeometry>();
    this.preview = new Map([...this.preview, [key, geometry], ...others]);
    const crossings = vertex ? crossingsAt(geometry, vertex) : [];
    this.trouble = crossings.length ? { message: this.strings.crosses, at: crossings } : undefined;
    this.changed();
  }

  /** Makes a step of what is shown. Where a border would cross itself, everything goes back to where it was. */
  keep(name: string): void {
    const shown = this.preview;
    this.preview = new Map();
    this.along = [];
    for (const geometry of shown.values()) {
      const problems = problemsOf(geometry, 3);
      if (!problems.length) continue;
      this.trouble = { message: this.strings.crosses, at: problems.map(({ at }) => at) };
      this.changed();
      return;
    }
    this.trouble = undefined;
    const after = new Map([...shown].map(([key, geometry]) => [key, { ...this.document.require(key), geometry }]));
    if (!this.document.apply(name, after)) this.changed();
  }
}

/** Whether an area holds a place. */
export function within(area: EditGeometry, x: number, y: number): boolean {
  let inside = false;
  for (const { spots, closed } of pathsOf(area))
    if (closed)
      spots.forEach(([xi, yi], i) => {
        const [xj, yj] = spots[(i || spots.length) - 1];
        if (yi > y !== yj > y && x < ((xj - xi) * (y - yi)) / (yj - yi) + xi) inside = !inside;
      });
  return inside;
}
