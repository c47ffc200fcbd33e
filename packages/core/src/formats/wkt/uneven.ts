import type { FileFeature, FileGeometry } from '../files/feature-file.js';
import type { WarningList } from '../files/warnings.js';
import { hasEveryHeight, hasHeight } from './geometry-text.js';

/** Tells of geometries whose positions have heights in part. */
export function tellUneven(features: readonly FileFeature[], warnings: WarningList): void {
  features.forEach(({ geometry }, i) => {
    const parts = geometry ? leavesOf(geometry) : [];
    if (parts.some((part) => hasHeight(part) && !hasEveryHeight(part)))
      warnings.add(
        'skipped.height',
        'some positions of a geometry have a height and others do not, which well-known text cannot say',
        'The heights of these geometries were left out.',
        `feature ${i + 1}`,
      );
  });
}

const leavesOf = (geometry: FileGeometry): readonly FileGeometry[] =>
  geometry.type === 'GeometryCollection' ? geometry.geometries.flatMap(leavesOf) : [geometry];
