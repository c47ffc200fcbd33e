import type { Camera } from '@flintwright/core/internal';

/** Far off in a tilted view nodes come nearer than their reach: a lesser one that a greater one would cover is left out. */
export function uncrowded<T extends { readonly x: number; readonly y: number; readonly size: number }>(
  placed: readonly T[],
): T[] {
  const kept: T[] = [];
  for (const one of [...placed].reverse()) {
    const covered = kept.some(({ x, y, size }) => Math.hypot(x - one.x, y - one.y) < (size + one.size) * 0.4);
    if (!covered) kept.push(one);
  }
  return kept.reverse();
}

/** Where the i-th of some members of one place stands, in pixels off it: rings, six times as many in each as the ring's number. */
export function fanOffset(i: number, of: number): [number, number] {
  let ring = 1;
  let first = 0;
  while (i >= first + ring * 6) {
    first += ring * 6;
    ring++;
  }
  const inRing = Math.min(ring * 6, of - first);
  const angle = ((i - first) / inRing) * 2 * Math.PI - Math.PI / 2;
  return [Math.cos(angle) * 26 * ring, Math.sin(angle) * 26 * ring];
}

/** A box in degrees that holds the view, with a rim to spare. */
export function viewBox(camera: Camera): [number, number, number, number] {
  const { width, height } = camera.size;
  const [lon, lat] = camera.view.center;
  let [west, south, east, north] = [0, lat, 0, lat];
  for (const [x, y] of [
    [0, 0],
    [0.5, 0],
    [1, 0],
    [0, 0.5],
    [1, 0.5],
    [0, 1],
    [0.5, 1],
    [1, 1],
  ]) {
    const place = camera.unproject(x * width, y * height);
    if (!place) return [-180, -85, 180, 85];
    const off = place[0] - lon;
    [west, east] = [Math.min(west, off), Math.max(east, off)];
    [south, north] = [Math.min(south, place[1]), Math.max(north, place[1])];
  }
  const [rimX, rimY] = [(east - west) * 0.12, (north - south) * 0.12];
  if (east - west + 2 * rimX >= 360) return [-180, Math.max(-85, south - rimY), 180, Math.min(85, north + rimY)];
  const turn = (v: number) => ((((v + 180) % 360) + 360) % 360) - 180;
  return [turn(lon + west - rimX), Math.max(-85, south - rimY), turn(lon + east + rimX), Math.min(85, north + rimY)];
}
