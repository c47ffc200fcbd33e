// Colors of sheets against those of the browser: what Chromium paints is what the library reads, in a page and without one.
import { describe, expect, test } from '@jest/globals';
import { findColor } from '@flintwright/core/internal';
import { useStage } from './harness.ts';

const stage = useStage();

const colors = [
  'red',
  'RebeccaPurple',
  'transparent',
  '#abc',
  '#AABBCC80',
  'rgb(1 2 3)',
  'rgb(10% 20% 30%)',
  'rgb(10% 20 30)',
  'rgb(1, 2, 3)',
  'rgba(1, 2, 3, 50%)',
  'rgb(1 2 3 / .25)',
  'rgb(300 -20 50)',
  'rgb(none 20 30)',
  'rgb(calc(10 * 4 + 2) 0 0)',
  'rgb(1, 2, 3',
  'hsl(120 100% 50%)',
  'hsl(0.5turn 50 50)',
  'hsl(200grad, 40%, 60%)',
  'hsl(2rad 50% 50% / 20%)',
  'color-mix(teal, white 25%)',
  'hwb(120deg 10% 20%)',
  'hwb(40 80% 60%)',
  'lab(50% 40 -20)',
  'lab(120 0 0)',
  'lab(50 none 20%)',
  'lch(52.2345% 72.2 56.2)',
  'oklab(40.101% 0.1147 0.0453)',
  'oklch(40.1% 0.123 21.57)',
  'oklch(0.7 25% 0.25turn)',
  'color(srgb 0.2 0.4 0.6)',
  'color(srgb 20% 40% 60% / 50%)',
  'color(srgb-linear 0.2 0.4 0.6)',
  'color(display-p3 0.4 0.5 0.3)',
  'color(a98-rgb 0.4 0.5 0.3)',
  'color(prophoto-rgb 0.4 0.5 0.3)',
  'color(rec2020 0.4 0.5 0.3)',
  'color(xyz 0.2 0.3 0.1)',
  'color(xyz-d50 0.2 0.3 0.1)',
  'color-mix(in srgb, red, blue)',
  'color-mix(in oklab, red 30%, blue)',
  'color-mix(in hsl, white, blue)',
  'color-mix(in hwb longer hue, teal, olive 20%)',
  'color-mix(in lch, teal, rgb(0 0 0 / 50%))',
  'color-mix(in srgb, red 20%, blue 30%)',
  'color-mix(in lab, lab(50 none 20), lab(30 40 none))',
  'rgb(from teal r calc(g * 0.5) b / 50%)',
  'hsl(from #369 h s 50%)',
  'oklch(from teal calc(l + 0.1) c h)',
  'hwb(from color-mix(in srgb, teal, white) h 20% b)',
  'color(from teal srgb r g calc(b / 2))',
];
const none = [
  'rgb(1 2)',
  'rgb(1, 2 3)',
  'rgb(100%, 0, 0)',
  'rgb(none, 0, 0)',
  '#12345',
  'hsl(1, 2, 3)',
  'lab(1, 2, 3)',
  'teall',
  'rgb(1 2 3) 4',
  'color(hsl 1 1 1)',
  'color-mix(in teal, blue)',
  'lch(50 20 30%)',
  '',
];

describe('colors', () => {
  test('are what Chromium paints, to one step of 255', async () => {
    const painted = await stage.page.evaluate((list) => {
      const context = new OffscreenCanvas(1, 1).getContext('2d', { willReadFrequently: true })!;
      return list.map((color) => {
        context.clearRect(0, 0, 1, 1);
        context.fillStyle = '#123456';
        context.fillStyle = color;
        context.fillRect(0, 0, 1, 1);
        return CSS.supports('color', color) ? [...context.getImageData(0, 0, 1, 1).data] : undefined;
      });
    }, colors);
    const off = colors.flatMap((color, i) => {
      const own = findColor(color);
      const wanted = painted[i];
      if (!own || !wanted) return own === undefined && wanted === undefined ? [] : [[color, own, wanted]];
      const [r, g, b, alpha] = own;
      const bytes = [r, g, b].map((v) => (alpha ? (255 * v) / alpha : 0));
      // A clear pixel keeps less of its color.
      const within = 1 + (alpha < 1 ? 1 / Math.max(alpha, 0.1) : 0);
      const differs = bytes.some((v, k) => Math.abs(v - wanted[k]) > within) || Math.abs(255 * alpha - wanted[3]) > 1;
      return differs ? [[color, [...bytes, 255 * alpha], wanted]] : [];
    });
    expect(off).toEqual([]);
  });

  test('what is none for Chromium is none here', async () => {
    const known = await stage.page.evaluate((list) => list.filter((color) => CSS.supports('color', color)), none);
    expect(known).toEqual([]);
    expect(none.filter((color) => findColor(color))).toEqual([]);
  });
});
