// The door for drawing and correcting features: vertices, whole features, cuts, sums, snapping, validity, measures, steps and undo.
export {
  draftVersion,
  type EditChange,
  type EditConflict,
  EditDocument,
  type EditDraft,
  type EditFeature,
  type EditStep,
  type StepCause,
  type StepListener,
} from './edit/document.js';
export {
  boxOfGeometry,
  deleteVertex,
  type EditGeometry,
  type EditPath,
  type EditPosition,
  insertVertex,
  moveVertex,
  pathsOf,
  type VertexName,
} from './edit/shape.js';
export {
  areaText,
  type EditSpace,
  lengthText,
  lineBetween,
  measureOf,
  type MeasureUnits,
  placeFrom,
  planeAt,
  type TangentPlane,
} from './edit/space.js';
export { circleOf, middleOf, moved, besideLine, offsetLine, rectangleOf, turned } from './edit/whole.js';
export { crossingsAt, type EditProblem, problemsOf } from './edit/validity.js';
export { cutGeometry } from './edit/cut.js';
export { cutAtAntimeridian, type LonLatGeometry } from './geometry/antimeridian.js';
export { joinLines } from './edit/join-lines.js';
export { moveShared, type SharedVertex, sharedVertices } from './edit/shared.js';
export { type Snap, type SnapOptions, Snapper } from './edit/snap.js';
import type { EditGeometry } from './edit/shape.js';

/**
 * Returns the union of areas.
 *
 * @param first an area
 * @param others more areas
 * @throws Fault `edit.combine`
 */
export async function joinAreas(first: EditGeometry, ...others: readonly EditGeometry[]): Promise<EditGeometry> {
  return (await import('./edit/combine.js')).joinAreas(first, ...others);
}

/**
 * Returns the difference of areas, for example to cut a hole.
 *
 * @param area the area
 * @param taken the areas to subtract
 * @returns undefined if nothing remains
 * @throws Fault `edit.combine`
 */
export async function withoutArea(
  area: EditGeometry,
  ...taken: readonly EditGeometry[]
): Promise<EditGeometry | undefined> {
  return (await import('./edit/combine.js')).withoutArea(area, ...taken);
}
