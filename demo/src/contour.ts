import { doubleArea, insideRings } from '@flintwright/core';
import type { Line, Metres } from './frame.js';

export interface Field {
  readonly west: number;
  readonly south: number;
  readonly step: number;
  readonly columns: number;
  readonly rows: number;
  readonly values: Float32Array;
}

export function sampleField(
  box: readonly [number, number, number, number],
  step: number,
  value: (x: number, y: number) => number,
): Field {
  const [west, south, east, north] = box;
  const columns = Math.round((east - west) / step) + 1;
  const rows = Math.round((north - south) / step) + 1;
  const values = new Float32Array(columns * rows);
  for (let r = 0; r < rows; r++)
    for (let c = 0; c < columns; c++) values[r * columns + c] = value(west + c * step, south + r * step);
  return { west, south, step, columns, rows, values };
}

export const mapField = (field: Field, value: (v: number, index: number) => number): Field => ({
  ...field,
  values: field.values.map(value),
});

/**
 * The areas where a field is above `level`, as polygons (outer ring, then holes), by marching squares. The rim of
 * the field counts as below. Rings smaller than `least` square meters are left out.
 */
export function areasAbove(field: Field, level: number, least: number): Line[][] {
  const { columns, rows, step, west, south } = field;
  const { values } = field;
  const at = (c: number, r: number) =>
    c <= 0 || r <= 0 || c >= columns - 1 || r >= rows - 1 ? -1e3 : values[r * columns + c] - level;
  // Edge 2i runs east from node i, edge 2i + 1 north; `next` leads along the contour with the area on the left.
  const next = new Int32Array(2 * columns * rows).fill(-1);
  const starts: number[] = [];
  for (let r = 0; r < rows - 1; r++) {
    for (let c = 0; c < columns - 1; c++) {
      const i = r * columns + c;
      const any =
        values[i] > level || values[i + 1] > level || values[i + columns] > level || values[i + columns + 1] > level;
      if (!any) continue;
      const sw = at(c, r);
      const se = at(c + 1, r);
      const ne = at(c + 1, r + 1);
      const nw = at(c, r + 1);
      const code = (sw > 0 ? 1 : 0) | (se > 0 ? 2 : 0) | (ne > 0 ? 4 : 0) | (nw > 0 ? 8 : 0);
      if (code === 0 || code === 15) continue;
      const node = i;
      const [s, e, n, w] = [2 * node, 2 * (node + 1) + 1, 2 * (node + columns), 2 * node + 1];
      const join = (from: number, to: number) => {
        next[from] = to;
        starts.push(from);
      };
      const middle = sw + se + ne + nw > 0;
      switch (code) {
        case 1:
          join(s, w);
          break;
        case 2:
          join(e, s);
          break;
        case 3:
          join(e, w);
          break;
        case 4:
          join(n, e);
          break;
        case 5:
          if (middle) {
            join(s, e);
            join(n, w);
          } else {
            join(s, w);
            join(n, e);
          }
          break;
        case 6:
          join(n, s);
          break;
        case 7:
          join(n, w);
          break;
        case 8:
          join(w, n);
          break;
        case 9:
          join(s, n);
          break;
        case 10:
          if (middle) {
            join(w, s);
            join(e, n);
          } else {
            join(e, s);
            join(w, n);
          }
          break;
        case 11:
          join(e, n);
          break;
        case 12:
          join(w, e);
          break;
        case 13:
          join(s, e);
          break;
        case 14:
          join(w, s);
          break;
      }
    }
  }
  const place = (edge: number): Metres => {
    const node = edge >> 1;
    const c = node % columns;
    const r = (node - c) / columns;
    const [dc, dr] = edge & 1 ? [0, 1] : [1, 0];
    const a = at(c, r);
    const t = Math.max(0.02, Math.min(0.98, a / (a - at(c + dc, r + dr))));
    return [west + (c + dc * t) * step, south + (r + dr * t) * step];
  };
  const outers: { ring: Line; flat: number[]; area: number; box: number[]; holes: Line[] }[] = [];
  const holes: Line[] = [];
  for (const start of starts) {
    if (next[start] < 0) continue;
    const ring: Metres[] = [];
    for (let edge = start; next[edge] >= 0;) {
      ring.push(place(edge));
      const to = next[edge];
      next[edge] = -1;
      edge = to;
    }
    const flat = ring.flat();
    const area = doubleArea(flat, 0, ring.length) / 2;
    if (Math.abs(area) < least || ring.length < 5) continue;
    if (area > 0) {
      const xs = ring.map((p) => p[0]);
      const ys = ring.map((p) => p[1]);
      const span = (v: number[], pick: (a: number, b: number) => number) => v.reduce((a, b) => pick(a, b));
      outers.push({
        ring,
        flat,
        area,
        box: [span(xs, Math.min), span(ys, Math.min), span(xs, Math.max), span(ys, Math.max)],
        holes: [],
      });
    } else holes.push(ring);
  }
  outers.sort((a, b) => a.area - b.area);
  for (const hole of holes) {
    const [x, y] = hole[0];
    outers
      .find(
        ({ ring, flat, box }) =>
          x > box[0] && x < box[2] && y > box[1] && y < box[3] && insideRings(flat, [0, ring.length], 0, 1, x, y),
      )
      ?.holes.push(hole);
  }
  return outers.reverse().map(({ ring, holes: inner }) => [smooth(ring), ...inner.map(smooth)]);
}

/** One round of corner cutting (Chaikin 1974) and the removal of vertices that say nothing. */
export function smooth(ring: Line): Line {
  const cut: Metres[] = [];
  for (let i = 0; i < ring.length; i++) {
    const [ax, ay] = ring[i];
    const [bx, by] = ring[(i + 1) % ring.length];
    cut.push([ax * 0.75 + bx * 0.25, ay * 0.75 + by * 0.25], [ax * 0.25 + bx * 0.75, ay * 0.25 + by * 0.75]);
  }
  const kept: Metres[] = [];
  for (let i = 0; i < cut.length; i++) {
    const [px, py] = kept[kept.length - 1] ?? cut[cut.length - 1];
    const [x, y] = cut[i];
    const [nx, ny] = cut[(i + 1) % cut.length];
    const away = Math.abs((x - px) * (ny - py) - (y - py) * (nx - px)) / (Math.hypot(nx - px, ny - py) || 1);
    if (away > 0.25) kept.push(cut[i]);
  }
  return kept.length > 3 ? kept : cut;
}
