import type { Camera, TileFrame } from '@flintwright/core';

/** The eye along the axes of a tile's frame, in radii from the centre of the ball. */
export function eyeIn({ eye }: Camera, { east, north, up }: TileFrame): [number, number, number] {
  const [x, y, z] = eye!;
  const along = (axis: readonly number[] | undefined) => (axis ? axis[0] * x + axis[1] * y + axis[2] * z : 0);
  return [along(east), along(north), along(up)];
}
