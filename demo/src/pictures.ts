import { deflateSync, crc32 } from 'node:zlib';
import type { Field } from './contour.js';
import { origin } from './frame.js';
import { smoothField } from './waterways.js';

/** A PNG of 8-bit gray and alpha pixels (W3C PNG 3, color type 4). */
function png(size: number, pixels: Uint8Array): Buffer {
  const chunk = (type: string, data: Uint8Array) => {
    const body = Buffer.concat([Buffer.from(type, 'latin1'), data]);
    const out = Buffer.alloc(body.length + 8);
    out.writeUInt32BE(data.length, 0);
    body.copy(out, 4);
    out.writeUInt32BE(crc32(body), body.length + 4);
    return out;
  };
  const head = Buffer.alloc(13);
  head.writeUInt32BE(size, 0);
  head.writeUInt32BE(size, 4);
  head.set([8, 4, 0, 0, 0], 8);
  const lines = Buffer.alloc(size * (2 * size + 1));
  for (let y = 0; y < size; y++) lines.set(pixels.subarray(2 * y * size, 2 * (y + 1) * size), y * (2 * size + 1) + 1);
  return Buffer.concat([
    Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]),
    chunk('IHDR', head),
    chunk('IDAT', deflateSync(lines)),
    chunk('IEND', new Uint8Array()),
  ]);
}

const metersPerDegree = (Math.PI / 180) * 6371008.8;
const narrowing = Math.cos((origin[1] * Math.PI) / 180);
const size = 256;

/** Shaded relief of the land, clear over the water, as picture tiles of WebMercatorQuad, lit from the north-west. */
export function* reliefTiles(
  terrain: Field,
  zooms: readonly [number, number],
): Generator<{ z: number; x: number; y: number; bytes: Buffer }> {
  const heights = smoothField(terrain, 9);
  const east = heights.west + (heights.columns - 1) * heights.step;
  const north = heights.south + (heights.rows - 1) * heights.step;
  const lonOf = (x: number) => origin[0] + x / (metersPerDegree * narrowing);
  const latOf = (y: number) => origin[1] + y / metersPerDegree;
  const column = (lon: number) => (lon + 180) / 360;
  const row = (lat: number) => 0.5 - Math.log(Math.tan(Math.PI / 4 + (lat * Math.PI) / 360)) / (2 * Math.PI);
  const { values, columns, rows } = heights;
  const at = (px: number, py: number) => {
    const i = Math.floor(px);
    const j = Math.floor(py);
    if (i < 0 || j < 0 || i >= columns - 1 || j >= rows - 1) return NaN;
    const [u, v, k] = [px - i, py - j, j * columns + i];
    const [above, below] = [k + columns, k];
    return (
      (values[below] * (1 - u) + values[below + 1] * u) * (1 - v) +
      (values[above] * (1 - u) + values[above + 1] * u) * v
    );
  };
  for (let z = zooms[0]; z <= zooms[1]; z++) {
    const across = 2 ** z;
    const [x0, x1] = [column(lonOf(heights.west)), column(lonOf(east))].map((t) => Math.floor(t * across));
    const [y0, y1] = [row(latOf(north)), row(latOf(heights.south))].map((t) => Math.floor(t * across));
    for (let x = x0; x <= x1; x++)
      for (let y = y0; y <= y1; y++)
        yield { z, x, y, bytes: png(size, shade(x / across, y / across, 1 / across / size)) };
  }

  function shade(left: number, top: number, pixel: number): Uint8Array {
    const out = new Uint8Array(2 * size * size);
    for (let j = 0; j < size; j++) {
      const lat = (Math.atan(Math.sinh(Math.PI * (1 - 2 * (top + (j + 0.5) * pixel)))) * 180) / Math.PI;
      const py = ((lat - origin[1]) * metersPerDegree - heights.south) / heights.step;
      for (let i = 0; i < size; i++) {
        const lon = (left + (i + 0.5) * pixel) * 360 - 180;
        const px = ((lon - origin[0]) * metersPerDegree * narrowing - heights.west) / heights.step;
        const dx = (at(px + 0.7, py) - at(px - 0.7, py)) / (1.4 * heights.step);
        const dy = (at(px, py + 0.7) - at(px, py - 0.7)) / (1.4 * heights.step);
        const o = 2 * (j * size + i);
        if (Number.isNaN(dx + dy)) continue;
        // Slopes drawn eight times as steep, lit from the north-west at half height.
        const [nx, ny, nz] = [-dx * 8, -dy * 8, 1];
        const light = (-0.5 * nx + 0.5 * ny + 0.7071 * nz) / Math.hypot(nx, ny, nz);
        out[o] = Math.max(0, Math.min(255, Math.round(255 * (0.16 + 0.86 * light))));
        out[o + 1] = Math.max(0, Math.min(255, Math.round((at(px, py) - 1) * 64)));
      }
    }
    return out;
  }
}
