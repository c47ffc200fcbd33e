// Icons are drawn when they are needed; once the map is at rest, every one that is shown is there.
import { describe, expect, test } from '@jest/globals';
import type { Sheet } from 'flintwright';
import { collection, openMap, point, useStage } from './harness.ts';
import { view } from './sheets.ts';

const stage = useStage();
const empty = { sheet: 1, background: '#ffffff', layers: [] } as unknown as Sheet;

/** Places in a grid, one an icon, in the middle of cells of 60 pixels. */
const cell = 60;
const places = (count: number) =>
  Array.from({ length: count }, (_, i) => [40 + (i % 12) * cell, 50 + Math.floor(i / 12) * cell] as const);

/** How many pixels of each place's cell are of a color, to within some steps. */
async function inkAt(spots: readonly (readonly [number, number])[], color: readonly [number, number, number]) {
  const shot = (await stage.page.screenshot()).toString('base64');
  return stage.page.evaluate(
    async ([shot, spots, color, half]) => {
      const bytes = Uint8Array.from(atob(shot), (letter) => letter.charCodeAt(0));
      const image = await createImageBitmap(new Blob([bytes], { type: 'image/png' }));
      const context = new OffscreenCanvas(image.width, image.height).getContext('2d')!;
      context.drawImage(image, 0, 0);
      return spots.map(([x, y]) => {
        const { data } = context.getImageData(x - half, y - half, 2 * half, 2 * half);
        let count = 0;
        for (let i = 0; i < data.length; i += 4) if (color.every((v, k) => Math.abs(data[i + k] - v) < 30)) count++;
        return count;
      });
    },
    [shot, spots, color, cell / 2 - 4] as const,
  );
}

describe('icons', () => {
  test('that no sheet names stand on markers as soon as the map is at rest', async () => {
    await openMap(stage, empty, view);
    const names = await stage.page.evaluate(() => window.map.icons.names);
    expect(names.length).toBeGreaterThan(30);
    const spots = places(names.length);
    await stage.page.evaluate(
      ([names, spots]) => {
        names.forEach((icon, i) =>
          window.map.markers.add({
            at: window.map.toPlace([...spots[i]])!,
            icon,
            size: 44,
            anchor: 'center',
            color: '#000000',
          }),
        );
        return window.map.settled();
      },
      [names, spots] as const,
    );
    const ink = await inkAt(spots, [247, 245, 239]);
    // The page is white as well: a shard without an icon leaves the least of it.
    await stage.page.evaluate(() => window.map.markers.clear());
    await stage.page.evaluate((spots) => {
      for (const spot of spots)
        window.map.markers.add({
          at: window.map.toPlace([...spot])!,
          size: 44,
          anchor: 'center',
          color: '#000000',
        });
      return window.map.settled();
    }, spots);
    const bare = await inkAt(spots, [247, 245, 239]);
    expect(names.filter((_, i) => ink[i] <= bare[i])).toEqual([]);
  });

  test('that a sheet takes up later, one after the other, are there each time the map is at rest', async () => {
    await openMap(stage, empty, view);
    const names = await stage.page.evaluate(() => window.map.icons.names.slice(0, 24));
    const spots = places(names.length);
    const lonLats = await stage.page.evaluate((spots) => spots.map((spot) => window.map.toPlace([...spot])!), spots);
    const features = collection(...lonLats.map(([lon, lat], i) => point(lon, lat, { name: names[i] })));
    // Half of them at once, the others by a change of the layer.
    for (const half of [names.slice(0, 12), names]) {
      await stage.page.evaluate(
        ([features, half]) => {
          const { map } = window;
          const categories = Object.fromEntries(half.map((name) => [name, name]));
          const mark = { icon: { by: 'name', categories }, size: 36, color: '#c5523a' };
          if (map.layers.find('l')) map.layers.change('l', { mark } as never);
          else map.layers.add({ id: 'l', of: { features }, mark } as never);
          return map.settled();
        },
        [features, half] as const,
      );
      const ink = await inkAt(spots, [197, 82, 58]);
      expect(half.filter((name) => ink[names.indexOf(name)] < 20)).toEqual([]);
    }
  });

  test.each([
    ['marks', { mark: { icon: { is: 'name' }, size: 36, color: '#c5523a' } }],
    ['labels', { label: { text: "'.'", icon: { color: { is: 'ink' }, size: 36, name: { is: 'name' } } } }],
  ])('that data alone name, on %s, are there when the map is first at rest', async (_, symbols) => {
    await openMap(stage, empty, view);
    const names = await stage.page.evaluate(() => window.map.icons.names);
    const spots = places(names.length);
    const lonLats = await stage.page.evaluate((spots) => spots.map((spot) => window.map.toPlace([...spot])!), spots);
    const features = collection(...lonLats.map(([lon, lat], i) => point(lon, lat, { name: names[i], ink: '#c5523a' })));
    await openMap(
      stage,
      { ...empty, data: { d: { features } }, layers: [{ id: 'l', of: 'd', ...symbols }] } as unknown as Sheet,
      view,
    );
    await stage.page.evaluate(() => window.map.settled());
    const ink = await inkAt(spots, [197, 82, 58]);
    expect(names.filter((_, i) => ink[i] < 20)).toEqual([]);
  });
});
