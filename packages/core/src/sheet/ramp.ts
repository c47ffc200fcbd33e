import type { Rgba } from './hex-color.js';
import type { ColourSpace, SheetRamp } from './symbol-types.js';

/** Pixels in a baked ramp. */
export const rampWidth = 256;

/** Colors by name or as written, ready for mixing. */
export interface RampColors {
  read(raw: unknown): Rgba | undefined;
  /** A function that goes over from one color to another. */
  mix(from: unknown, to: unknown, space: ColourSpace): (t: number) => Rgba;
}

/** A ramp as {@link rampWidth} RGBA bytes, colors multiplied by their alpha. Stops that are no colors are left out. */
export function bakeRamp(ramp: SheetRamp, colors: RampColors, space: ColourSpace): Uint8Array {
  const stops = ramp.filter(([, raw]) => colors.read(raw) !== undefined);
  const out = new Uint8Array(rampWidth * 4);
  if (!stops.length) return out;
  const mixes = stops.slice(1).map(([, raw], i) => colors.mix(stops[i][1], raw, space));
  for (let k = 0; k < rampWidth; k++) {
    const at = k / (rampWidth - 1);
    let i = 1;
    while (i < stops.length && at > stops[i][0]) i++;
    const color =
      at <= stops[0][0]
        ? colors.read(stops[0][1])!
        : i >= stops.length
          ? colors.read(stops[stops.length - 1][1])!
          : mixes[i - 1]((at - stops[i - 1][0]) / (stops[i][0] - stops[i - 1][0]));
    for (let c = 0; c < 4; c++) out[4 * k + c] = Math.round(color[c] * 255);
  }
  return out;
}
