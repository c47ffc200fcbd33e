/** The place a share of the way along a line. */
export function along(path: readonly [number, number][], share: number): [number, number] {
  const lengths = path.slice(1).map(([x, y], i) => Math.hypot((x - path[i][0]) * 0.71, y - path[i][1]));
  let rest = share * lengths.reduce((a, b) => a + b, 0);
  let i = 0;
  while (i < lengths.length - 1 && rest > lengths[i]) rest -= lengths[i++];
  const t = Math.min(1, rest / lengths[i]);
  return [path[i][0] + (path[i + 1][0] - path[i][0]) * t, path[i][1] + (path[i + 1][1] - path[i][1]) * t];
}
