import type { Camera, LocalFrame } from '@flintwright/core/internal';

/** The eye along the axes of a tile's frame, in radii from the centre of the sphere. */
export function eyeIn({ eye }: Camera, { east, north, up }: LocalFrame): [number, number, number] {
  const [x, y, z] = eye!;
  const along = (axis: readonly number[] | undefined) => (axis ? axis[0] * x + axis[1] * y + axis[2] * z : 0);
  return [along(east), along(north), along(up)];
}
