import { randomFrom } from './random.js';

/** Smooth gradient noise on the plane, about −1 to 1, with features one unit across (Perlin 2002 fade curve). */
export function noiseFrom(seed: number): (x: number, y: number) => number {
  const random = randomFrom(seed);
  const order = Uint8Array.from({ length: 512 }, (_, i) => i & 255);
  for (let i = 255; i > 0; i--) {
    const j = Math.floor(random() * (i + 1));
    [order[i], order[j]] = [order[j], order[i]];
  }
  order.copyWithin(256, 0, 256);
  const gx = Float64Array.from({ length: 256 }, (_, i) => Math.cos((i / 256) * 2 * Math.PI));
  const gy = Float64Array.from({ length: 256 }, (_, i) => Math.sin((i / 256) * 2 * Math.PI));
  return (x, y) => {
    const cx = Math.floor(x);
    const cy = Math.floor(y);
    const fx = x - cx;
    const fy = y - cy;
    const a = order[cx & 255] + (cy & 255);
    const b = order[(cx + 1) & 255] + (cy & 255);
    const i00 = order[a & 511];
    const i10 = order[b & 511];
    const i01 = order[(a + 1) & 511];
    const i11 = order[(b + 1) & 511];
    const u = fx * fx * fx * (fx * (fx * 6 - 15) + 10);
    const v = fy * fy * fy * (fy * (fy * 6 - 15) + 10);
    const n00 = gx[i00] * fx + gy[i00] * fy;
    const n10 = gx[i10] * (fx - 1) + gy[i10] * fy;
    const n01 = gx[i01] * fx + gy[i01] * (fy - 1);
    const n11 = gx[i11] * (fx - 1) + gy[i11] * (fy - 1);
    const top = n00 + u * (n10 - n00);
    return 1.5 * (top + v * (n01 + u * (n11 - n01) - top));
  };
}

/** Several octaves of noise, each half as wide and `gain` as strong as the last; about −1 to 1. */
export function fractal(
  noise: (x: number, y: number) => number,
  octaves: number,
  gain = 0.5,
): (x: number, y: number) => number {
  let total = 0;
  for (let i = 0; i < octaves; i++) total += gain ** i;
  return (x, y) => {
    let sum = 0;
    let strength = 1;
    let scale = 1;
    for (let i = 0; i < octaves; i++) {
      sum += strength * noise(x * scale + 17.3 * i, y * scale - 9.1 * i);
      strength *= gain;
      scale *= 2.03;
    }
    return sum / total;
  };
}
