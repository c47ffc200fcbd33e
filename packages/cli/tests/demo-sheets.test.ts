// The base sheets of the demo: differences between neighboring colors, and contrast of labels and icons with the ground.
import { describe, expect, test } from '@jest/globals';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { gunzipSync } from 'node:zlib';
import { Archive, bufferSource, readTile, type Sheet } from '@flintwright/core';
import { demo } from './command.ts';

const themes = ['chalk', 'slate', 'tide'] as const;
const sheets = Object.fromEntries(
  themes.map((theme) => [theme, JSON.parse(readFileSync(join(demo, `${theme}.sheet.json`), 'utf8')) as Sheet]),
);
const colorsOf = (theme: string) => sheets[theme].palette as Record<string, string>;

const linear = (hex: string) =>
  [1, 3, 5].map((i) => {
    const c = Number.parseInt(hex.slice(i, i + 2), 16) / 255;
    return c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4;
  });
/** Relative luminance and contrast (WCAG 2.2). */
const luminance = (hex: string) => linear(hex).reduce((sum, c, i) => sum + c * [0.2126, 0.7152, 0.0722][i], 0);
const contrast = (a: string, b: string) => {
  const [low, high] = [luminance(a), luminance(b)].sort((x, y) => x - y);
  return (high + 0.05) / (low + 0.05);
};
/** L*, a* and b* (CIE 15, D65) of an sRGB color (IEC 61966-2-1). */
const lab = (hex: string) => {
  const [r, g, b] = linear(hex);
  const f = (t: number) => (t > (6 / 29) ** 3 ? Math.cbrt(t) : t / (3 * (6 / 29) ** 2) + 4 / 29);
  const [x, y, z] = [
    (0.4124564 * r + 0.3575761 * g + 0.1804375 * b) / 0.95047,
    0.2126729 * r + 0.7151522 * g + 0.072175 * b,
    (0.0193339 * r + 0.119192 * g + 0.9503041 * b) / 1.08883,
  ].map(f);
  return [116 * y - 16, 500 * (x - y), 200 * (y - z)];
};
const difference = (a: string, b: string) => Math.hypot(...lab(a).map((v, i) => v - lab(b)[i]));

const waters = ['d2', 'd5', 'd10', 'd20', 'd50', 'd100', 'd200', 'deep'];
/** Buoys, lights and stops lie in the Reach and around its islands, names reach out a little farther. */
const [inshore, offshore] = [waters.slice(0, 4), waters.slice(0, 5)];
const covers = ['land', 'grass', 'wood', 'heath', 'dune', 'park', 'marsh', 'flat', 'built'];
const land = ['land', 'grass', 'wood', 'heath', 'dune', 'built'];

/** What small labels and icons lie on. A label of a town or village stands on land, and on the flats beside it. */
const under: Record<string, readonly string[]> = {
  'street-names': ['halo', 'lane', 'main', 'road'],
  numbers: ['building'],
  islands: [...land, 'halo'],
  villages: [...land, 'halo'],
  lights: [...inshore, ...land, 'halo', 'flat'],
  stops: [...inshore, 'halo', 'flat'],
  waters: [...offshore, 'waterHalo'],
  creeks: [...inshore, 'flat', 'waterHalo'],
  'soundings-0': offshore,
  'soundings-2': offshore,
};
const marks: Record<string, readonly string[]> = {
  seamarks: inshore,
  gauges: [...inshore, 'flat'],
  lights: [...inshore, 'land', 'heath', 'dune'],
  stops: [...inshore, 'flat'],
};

/** The colors that a value may take. */
function colorsIn(value: unknown, palette: Record<string, string>): string[] {
  if (typeof value === 'string')
    return value.startsWith('@') ? [palette[value.slice(1)]] : /^#/.test(value) ? [value] : [];
  return value && typeof value === 'object' ? Object.values(value).flatMap((v) => colorsIn(v, palette)) : [];
}

describe.each(themes)('%s', (theme) => {
  const palette = colorsOf(theme);
  const { layers } = sheets[theme];

  test('covers can be told apart (ΔE 7), and so can the five upper steps of the water (ΔE 3)', () => {
    const close = covers.flatMap((a, i) =>
      covers.slice(0, i).flatMap((b) => (difference(palette[a], palette[b]) < 7 ? [`${a} and ${b}`] : [])),
    );
    expect(close).toEqual([]);
    for (let i = 1; i < 5; i++)
      expect(difference(palette[waters[i]], palette[waters[i - 1]])).toBeGreaterThanOrEqual(3);
  });

  test('small labels have 4.5:1, icons 3:1 against what lies under them', () => {
    const faint: string[] = [];
    for (const { id, label, mark } of layers) {
      const names = under[id] ?? [];
      for (const color of colorsIn(label?.color, palette))
        for (const name of names)
          if (contrast(color, palette[name]) < 4.5)
            faint.push(`label ${id} on ${name}: ${contrast(color, palette[name]).toFixed(2)}`);
      if (!mark) continue;
      for (const color of colorsIn(mark.color, palette))
        for (const name of marks[id] ?? [])
          if (contrast(color, palette[name]) < 3)
            faint.push(`icon ${id} on ${name}: ${contrast(color, palette[name]).toFixed(2)}`);
    }
    expect(faint).toEqual([]);
  });

  test('what the table above names is in the sheet', () => {
    const ids = layers.map(({ id }) => id);
    const known = Object.keys({ ...under, ...marks }).filter((id) => theme === 'tide' || !id.startsWith('soundings'));
    expect(ids).toEqual(expect.arrayContaining(known));
  });
});

test('by night water is darker than all land, between 1.2 and 1.5 to 1 against open land', () => {
  const palette = colorsOf('slate');
  for (const water of waters) {
    for (const cover of covers) expect(luminance(palette[water])).toBeLessThan(luminance(palette[cover]));
    expect(contrast(palette[water], palette['land'])).toBeGreaterThanOrEqual(1.2);
    expect(contrast(palette[water], palette['land'])).toBeLessThanOrEqual(1.5);
  }
});

test('Chalk has no icons before zoom 14 and fewer names than Tide at every level', () => {
  const iconsFrom = sheets['chalk'].layers
    .filter(({ mark }) => mark?.icon !== undefined)
    .map(({ zoom }) => zoom?.[0] ?? 0);
  expect(Math.min(...iconsFrom)).toBeGreaterThanOrEqual(14);
  const named = (theme: string, zoom: number) =>
    sheets[theme].layers.filter(({ label, zoom: [from, to] = [0, 25] }) => label && zoom >= from && zoom < to).length;
  for (let zoom = 7; zoom < 18; zoom += 0.5) expect(named('chalk', zoom)).toBeLessThanOrEqual(named('tide', zoom));
});

describe('the data of the base sheets', () => {
  type Place = readonly [number, number];
  type Road = { properties: { class: string; name?: string }; geometry: { coordinates: Place[] } };
  // Meters east and north on a sphere of 6,371,008.8 m, as the Reach is small.
  const meters = ([lon, lat]: Place): Place => {
    const degree = (Math.PI / 180) * 6371008.8;
    return [lon * degree * Math.cos((44.62 * Math.PI) / 180), lat * degree];
  };
  const awayFrom = (at: Place, [a, b]: readonly Place[]) => {
    const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
    const t = Math.max(0, Math.min(1, ((at[0] - a[0]) * dx + (at[1] - a[1]) * dy) / (dx * dx + dy * dy || 1)));
    return Math.hypot(at[0] - a[0] - t * dx, at[1] - a[1] - t * dy);
  };

  test('no road runs within 25 m of a trunk road for longer than a crossing takes', () => {
    const { features } = JSON.parse(readFileSync(join(demo, 'reach/roads.geojson'), 'utf8')) as { features: Road[] };
    const pieces = features.flatMap(({ properties, geometry: { coordinates } }) =>
      properties.class === 'trunk'
        ? coordinates.slice(1).map((at, i) => [meters(coordinates[i]), meters(at)] as const)
        : [],
    );
    expect(pieces.length).toBeGreaterThan(200);
    const beside: string[] = [];
    for (const { properties, geometry } of features) {
      if (properties.class === 'trunk') continue;
      const path = geometry.coordinates.map(meters);
      let run = 0;
      for (const [i, at] of path.slice(1).entries()) {
        const length = Math.hypot(at[0] - path[i][0], at[1] - path[i][1]);
        for (let k = 0, count = Math.ceil(length / 10); k < count; k++) {
          const t = k / count;
          const spot: Place = [path[i][0] + (at[0] - path[i][0]) * t, path[i][1] + (at[1] - path[i][1]) * t];
          run = pieces.some((piece) => awayFrom(spot, piece) < 25) ? run + length / count : 0;
          if (run > 120) {
            beside.push(`${properties.class} ${properties.name ?? ''}: ${Math.round(run)} m`);
            run = 0;
          }
        }
      }
    }
    expect(beside).toEqual([]);
  });

  test('no area of the ground covers less than 25 square pixels, at any zoom below 13', async () => {
    const archive = await Archive.open(bufferSource(readFileSync(join(demo, 'reach.pmtiles'))));
    /** Square pixels of 512 by 512 a tile, by zoom, layer and feature; the margins of tiles count twice. */
    const sizes = new Map<string, number>();
    for await (const { tile } of archive.entries()) {
      if (tile.z < 7 || tile.z > 12) continue;
      for (const block of readTile(gunzipSync((await archive.tile(tile))!))) {
        const { name, extent, ids, coords, ringStarts, featureParts, partRings } = block;
        if (!['cover', 'shore', 'relief', 'built'].includes(name)) continue;
        const perPixel = extent / 512;
        ids.forEach((id, f) => {
          let sum = 0;
          for (let part = featureParts[f]; part < featureParts[f + 1]; part++)
            for (let ring = partRings[part]; ring < partRings[part + 1]; ring++) {
              const [from, to] = [ringStarts[ring], ringStarts[ring + 1]];
              for (let i = from; i < to; i++) {
                const j = i + 1 < to ? i + 1 : from;
                sum += coords[2 * i] * coords[2 * j + 1] - coords[2 * j] * coords[2 * i + 1];
              }
            }
          const key = `${tile.z} ${name} ${id}`;
          sizes.set(key, (sizes.get(key) ?? 0) + Math.abs(sum) / 2 / perPixel ** 2);
        });
      }
    }
    expect(sizes.size).toBeGreaterThan(500);
    // Simplified, an area may lose a little.
    expect([...sizes].filter(([, size]) => size < 20)).toEqual([]);
  });
});
