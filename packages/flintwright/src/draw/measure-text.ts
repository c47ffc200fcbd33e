import {
  areaText,
  lengthText,
  lineBetween,
  measureOf,
  pathsOf,
  type EditGeometry,
  type EditSpace,
  type MeasureUnits,
} from '@flintwright/core/edit';

/** How large an area is and how long its rim; or how long a line, its last edge and that edge's bearing. Empty for points. */
export function measureText(geometry: EditGeometry, space: EditSpace, units: MeasureUnits = 'metric'): string {
  if (geometry.type.endsWith('Point')) return '';
  const paths = pathsOf(geometry);
  const { length, area } = measureOf(geometry, space);
  if (paths[0].closed) return `${areaText(area, units)} · ${lengthText(length, units)}`;
  const { spots } = paths[paths.length - 1];
  const { bearing, length: last } = lineBetween(spots[spots.length - 2], spots[spots.length - 1], space);
  const whole = spots.length > 2 ? `${lengthText(length, units)} · ` : '';
  return `${whole}${lengthText(last, units)}, ${Math.round(bearing) % 360}°`;
}
