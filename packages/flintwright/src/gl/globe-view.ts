import type { Camera, LocalFrame } from '@flintwright/core/internal';

/** The eye along the axes of a tile's frame, in radii from the center of the sphere. */
export function eyeIn({ eye }: Camera, { east, north, up }: LocalFrame): [number, number, number] {
  const [x, y, z] = eye!;
  const along = (axis: readonly number[] | undefined) => (axis ? axis[0] * x + axis[1] * y + axis[2] * z : 0);
  return [along(east), along(north), along(up)];
}

/** Zoom from which no horizon can be in view, so that the ground fills the screen. */
const closeBy = 12;

/** Whether a view is so far out that the sphere has a rim and a far side. */
export const isRound = ({ surface, view }: Camera): boolean => surface.radius > 0 && view.zoom < closeBy;
