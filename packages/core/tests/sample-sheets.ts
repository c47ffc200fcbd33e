// A small sheet that several tests fill with layers of their own.
import type { Sheet } from '@flintwright/core';

/** A sheet with a palette, features `a` and tiles `t`, and some layers, which draw `a` unless they say otherwise. */
export const sheet = (layers: object[], more: object = {}) =>
  ({
    sheet: 1,
    palette: { sea: '#b7d3d6', ink: '#22303a' },
    data: { a: { features: 'a.geojson' }, t: { tiles: 't.pmtiles' } },
    background: '#f7f5ef',
    layers: layers.map((layer, i) => ({ id: `l${i}`, of: 'a', ...layer })),
    ...more,
  }) as unknown as Sheet;
