import { readFileSync } from 'node:fs';
import { describe, expect, test } from '@jest/globals';
import { useStage } from './harness.ts';

const stage = useStage();

describe('the element', () => {
  test('its manifest names what the element has, and properties and attributes are one', async () => {
    const { page } = stage;
    const manifest = JSON.parse(readFileSync(new URL('../custom-elements.json', import.meta.url), 'utf8')) as {
      modules: { declarations: { tagName: string; attributes?: { name: string }[]; members?: { name: string }[] }[] }[];
    };
    await page.goto(`${stage.base}/plain/`);
    await page.waitForFunction(() => document.querySelector('flint-map')?.map);
    const { declarations } = manifest.modules[0];
    const found = await page.evaluate(
      (list) =>
        list.map(([tag, names]) => {
          const kind = customElements.get(tag) as unknown as { prototype: object; observedAttributes?: string[] };
          const observed = kind?.observedAttributes ?? [];
          return [tag, names.filter((name) => !(name in kind.prototype)), observed];
        }),
      declarations.map(({ tagName, members = [] }) => [tagName, members.map(({ name }) => name)] as [string, string[]]),
    );
    for (const [tag, missing, observed] of found as [string, string[], string[]][]) {
      expect([tag, missing]).toEqual([tag, []]);
      const named = declarations.find(({ tagName }) => tagName === tag)!.attributes?.map(({ name }) => name) ?? [];
      expect(observed.filter((name) => !named.includes(name))).toEqual([]);
    }
    await page.evaluate(async () => {
      const map = document.querySelector('flint-map')!;
      map.zoom = 12;
      map.surface = 'EPSG:32625';
      const popup = document.createElement('flint-popup');
      Object.assign(popup, { at: '-31.16, 44.62', title: 'Here', innerHTML: '<i>text</i>' });
      map.append(popup);
      await new Promise((resolve) => setTimeout(resolve, 600));
      await map.map!.settled();
    });
    expect(await page.locator('flint-map').getAttribute('zoom')).toBe('12');
    await page.waitForFunction(() => document.querySelector('flint-map')!.map!.surface === 'EPSG:32625');
    await page.evaluate(() => document.querySelector('flint-map')!.map!.settled());
    // The same scale on the ground as at zoom 12 of web Mercator.
    expect(await page.evaluate(() => document.querySelector('flint-map')!.map!.view.zoom)).toBeCloseTo(12.49, 1);
    const popup = page.locator('flint-map .flint-popup');
    expect(await popup.locator('h2').textContent()).toBe('Here');
    await popup.getByRole('button').click();
    expect(await page.locator('flint-popup').count()).toBe(0);
  });

  test('properties set before the upgrade, a view before the insertion, and controls changed later are applied', async () => {
    const { page } = stage;
    await page.goto(`${stage.base}/plain/`);
    await page.waitForFunction(() => document.querySelector('flint-map')?.map);
    const seen = await page.evaluate(async () => {
      document.querySelector('flint-map')!.remove();
      // Elements of a document without a window are upgraded when they come into one that has one.
      const apart = document.implementation.createHTMLDocument();
      const element = apart.createElement('flint-map');
      const marker = apart.createElement('flint-marker');
      Object.assign(element, { sheet: { sheet: 1, layers: [] }, zoom: 7, controls: 'rail', colorScheme: 'dark' });
      Object.assign(element, { view: { center: [3, 4], bearing: 20 } });
      Object.assign(marker, { at: '3, 4' });
      element.append(marker);
      document.body.append(element);
      const map = element.map!;
      await map.settled();
      const controls = () =>
        [...element.shadowRoot!.querySelectorAll('.flint-rail, .flint-scale, .flint-drawer')].map((one) =>
          one.className.replace(/.*flint-(rail|scale|drawer).*/, '$1'),
        );
      const { center, zoom, bearing } = map.view;
      const first = [center, zoom, Math.round(bearing), map.colorScheme, map.markers.size, controls()];
      element.setAttribute('controls', 'scale:top-left drawer');
      const changed = controls();
      element.controls = null;
      return [first, changed, controls(), element.getAttribute('zoom')];
    });
    expect(seen).toEqual([[[3, 4], 7, 20, 'dark', 1, ['rail']], ['scale', 'drawer'], [], '7']);
  });
});
