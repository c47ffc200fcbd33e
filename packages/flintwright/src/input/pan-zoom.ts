import type { View } from '@flintwright/core';
import { viewHolding, type Camera } from '@flintwright/core/internal';

type Pixel = readonly [number, number];

/** Where an event happened, in CSS pixels from the upper left corner of an element. */
export function pixelOf(event: MouseEvent, element: HTMLElement): [number, number] {
  const box = element.getBoundingClientRect();
  return [event.clientX - box.left, event.clientY - box.top];
}

/** The middle of the map in pixels. */
export const middleOf = ({ size }: Camera): [number, number] => [size.width / 2, size.height / 2];

/** The view with the ground under `from` brought under `to`. */
export function draggedView(camera: Camera, from: Pixel, to: Pixel): View {
  const ground = camera.unproject(from[0], from[1]);
  return ground ? viewHolding(camera.view, camera.surface, camera.size, ground, to) : camera.view;
}

/** The view after a change of zoom or bearing that leaves the ground under a pixel where it is. */
export function viewAround(camera: Camera, pixel: Pixel, change: { zoom?: number; bearing?: number }): View {
  const ground = camera.unproject(pixel[0], pixel[1]);
  const view = { ...camera.view, ...change };
  return ground ? viewHolding(view, camera.surface, camera.size, ground, pixel) : view;
}
