import type { SurfaceSpec } from '@flintwright/core';

/** Surfaces of every family, each with a place that it shows well: name, surface, `[lon, lat]` in degrees. */
export const surfaces: [string, SurfaceSpec, [number, number]][] = [
  ['web Mercator', 'EPSG:3857', [-31.2, 44.6]],
  ['UTM', 'EPSG:32625', [-31.2, 44.6]],
  ['degrees in equal steps', 'EPSG:4326', [-31.2, 44.6]],
  ['polar equal-area', 'EPSG:3575', [20, 80]],
  ['polar stereographic, south', 'EPSG:3031', [70, -75]],
  ['Robinson round 150°', { method: 'robinson', lon0: 150 }, [-175, 10]],
  [
    'Lambert conformal conic',
    { method: 'lambert-conformal-conic', lon0: -31, lat0: 45, lat1: 40, lat2: 50 },
    [-31, 45],
  ],
  ['orthographic', { method: 'orthographic', lon0: -31, lat0: 45 }, [-31, 45]],
  ['the globe', 'globe', [-31.2, 44.6]],
  ['the globe at a pole', 'globe', [10, 88]],
];
