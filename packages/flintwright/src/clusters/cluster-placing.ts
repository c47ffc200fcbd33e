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

/** A box in degrees, or in meters of a plan, that holds the view, with a rim to spare. */
export function viewBox(camera: Camera): [number, number, number, number] {
  const { surface } = camera;
  const everything: [number, number, number, number] = [-180, -90, 180, 90];
  // Round a pole all longitudes may be in view.
  if (surface.space !== 'plane' && [90, -90].some((lat) => isInView(camera, lat))) return everything;
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
    if (!place) return everything;
    const off = surface.space === 'plane' || surface.wrap ? place[0] - lon : turn(place[0] - lon);
    [west, east] = [Math.min(west, off), Math.max(east, off)];
    [south, north] = [Math.min(south, place[1]), Math.max(north, place[1])];
  }
  const [rimX, rimY] = [(east - west) * 0.12, (north - south) * 0.12];
  if (surface.space === 'plane') return [lon + west - rimX, south - rimY, lon + east + rimX, north + rimY];
  const [bottom, top] = [Math.max(-90, south - rimY), Math.min(90, north + rimY)];
  if (east - west + 2 * rimX >= 360) return [-180, bottom, 180, top];
  return [turn(lon + west - rimX), bottom, turn(lon + east + rimX), top];
}

const turn = (v: number) => ((((v + 180) % 360) + 360) % 360) - 180;

/** Whether a pole is on the screen. */
function isInView(camera: Camera, lat: number): boolean {
  const at: [number, number, number] = [0, 0, 0];
  if (camera.surface.wrap || !camera.surface.forward(0, lat, at) || !camera.faces(...at)) return false;
  const [x, y] = camera.project(0, lat);
  return x >= 0 && y >= 0 && x <= camera.size.width && y <= camera.size.height;
}
