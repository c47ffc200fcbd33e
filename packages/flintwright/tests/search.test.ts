// Searching: the box by keyboard, pointer and touch; gazetteers and services, also those that are slow, busy, broken or gone.
import { describe, expect, test } from '@jest/globals';
import type { Page, Route } from 'playwright-core';
import type { Sheet } from 'flintwright';
import { faultsOf, openMap, useStage } from './harness.ts';

const stage = useStage();
const empty = { sheet: 1, layers: [] } as Sheet;
const view = { center: [-31.18, 44.62], zoom: 12 };

/** A map with a search box over the gazetteer of the demo. */
async function openSearch(more: object = {}): Promise<Page> {
  await openMap(stage, empty, view);
  await stage.page.evaluate((options) => {
    const { SearchBox, gazetteerFinder } = window.searching;
    new SearchBox(window.map, { finders: [gazetteerFinder('/reach.gazetteer')], duration: 0, ...(options as object) });
  }, more);
  return stage.page;
}

const box = (page: Page) => page.getByRole('combobox', { name: 'Search for a place or an address' });
const options = (page: Page) => page.getByRole('option');
const lines = async (page: Page) => (await options(page).allInnerTexts()).map((text) => text.split('\n').join(' | '));

describe('the box', () => {
  test('by keyboard: suggestions, choice, marker and popup on arrival; Escape closes, then clears; what was found is offered again', async () => {
    const page = await openSearch();
    await box(page).focus();
    await page.keyboard.type('12 hawsr str');
    await options(page).first().waitFor();
    expect((await lines(page))[0]).toBe('12 Hawser Street | address · Sallowmere');
    expect(await box(page).getAttribute('aria-expanded')).toBe('true');
    // A row for each place, of one height, with a drawing of its kind.
    const rows = await options(page).evaluateAll((all) =>
      all.map((row) => [row.clientHeight, row.querySelector('svg path')!.getAttribute('d')!.length > 20]),
    );
    expect(rows).toEqual(rows.map(() => [46, true]));
    await page.keyboard.press('ArrowDown');
    const chosen = page.locator('[aria-selected="true"]');
    expect(await box(page).getAttribute('aria-activedescendant')).toBe(await chosen.getAttribute('id'));
    await page.keyboard.press('ArrowUp');
    expect(await chosen.innerText()).toBe(await options(page).last().innerText());
    await page.keyboard.press('ArrowDown');
    await page.keyboard.press('Enter');
    const popup = page.locator('.flint-popup');
    await popup.waitFor();
    expect(await popup.innerText()).toMatch(/12 Hawser Street[\s\S]*address · Sallowmere[\s\S]*44° 36′/);
    expect(await page.evaluate(() => [window.map.view.zoom, ...window.map.view.center])).toEqual([
      18,
      expect.closeTo(-31.22244, 4),
      expect.closeTo(44.60705, 4),
    ]);
    expect(await page.evaluate(() => window.map.markers.size)).toBe(1);
    // The box keeps the focus, and Escape takes off what was found.
    expect(await box(page).inputValue()).toBe('12 Hawser Street, Sallowmere');
    await page.keyboard.press('Escape');
    expect([await box(page).inputValue(), await popup.count()]).toEqual(['', 0]);
    expect(await page.evaluate(() => window.map.markers.size)).toBe(0);
    await page.keyboard.press('ArrowDown');
    expect(await lines(page)).toEqual(['12 Hawser Street | recent · Sallowmere']);
  });

  test('what is marked stays marked where a slower finder adds to the list; Enter waits for the text as it is now', async () => {
    await openMap(stage, empty, view);
    const { page } = stage;
    await page.evaluate(() => {
      const finder = (names: (text: string) => string[], late: number) => ({
        find: async ({ text }: { text: string }) => {
          await new Promise((done) => setTimeout(done, text.length > 3 ? late : 0));
          return names(text).map((name) => ({ name, kind: 'buoy', at: [-31.2, 44.6] as const }));
        },
      });
      const stale = (text: string) => (text === 'buoy' ? ['Buoy 2'] : ['Buoy 1']);
      new window.searching.SearchBox(window.map, {
        finders: [finder(() => [], 1200), finder(stale, 600), finder((text) => [`${text} south`], 0)],
        duration: 0,
      });
    });
    const marked = page.locator('[aria-selected="true"]');
    await box(page).focus();
    // The list of the shorter text is still there when Enter is pressed.
    await page.keyboard.type('buo');
    await options(page).nth(1).waitFor();
    await page.keyboard.type('y');
    await page.keyboard.press('Enter');
    await page.locator('.flint-popup').waitFor();
    expect(await box(page).inputValue()).toMatch(/^(buoy south|Buoy 2)$/);
    await box(page).fill('buoys');
    await options(page).filter({ hasText: 'buoys south' }).waitFor();
    await page.keyboard.press('ArrowDown');
    expect(await marked.innerText()).toMatch(/^buoys south/);
    await options(page).nth(1).waitFor();
    expect(await marked.innerText()).toMatch(/^buoys south/);
    await page.keyboard.press('Enter');
    expect(await box(page).inputValue()).toBe('buoys south');
  });

  test('by pointer: coordinates are understood; an interrupted movement opens nothing; nothing found is said', async () => {
    const page = await openSearch({ duration: 4000 });
    await box(page).click();
    await page.keyboard.type('44°37\'12"N 31°11\'24"W');
    await options(page).first().click();
    await page.waitForTimeout(200);
    await page.mouse.move(400, 400);
    await page.mouse.wheel(0, -100);
    await page.evaluate(() => window.map.settled());
    expect(await page.locator('.flint-popup').count()).toBe(0);
    expect(await page.evaluate(() => window.map.markers.size)).toBe(1);
    await box(page).fill('zzqqxx');
    await page.getByText('No results for “zzqqxx”').waitFor();
    await page.getByRole('button', { name: 'Clear search' }).click();
    expect(await page.evaluate(() => window.map.markers.size)).toBe(0);
  });

  test('coordinates in any common form; kinds as words; names apart for those who listen; no results once typing rests', async () => {
    const page = await openSearch({ strings: { kinds: { town: 'Town of the Reach' } } });
    for (const [text, places] of [
      ['44,62 -31,18', ['44.62000° N, 31.18000° W', '31.18000° S, 44.62000° E']],
      ['25T 641000 4942000', ['44.61753° N, 31.22280° W']],
      ['EPSG:32625 641000 4942000', ['44.61753° N, 31.22280° W']],
      ['25TFK 41000 42000', ['44.61753° N, 31.22279° W']],
    ] as const) {
      await box(page).fill(text);
      await options(page).first().waitFor();
      expect([text, ...(await lines(page)).map((line) => line.split(' | ')[0])]).toEqual([text, ...places]);
      await page.keyboard.press('Escape');
    }
    await box(page).fill('hallow quay');
    await page.getByRole('option', { name: 'Hallow Quay, Town of the Reach', exact: true }).first().waitFor();
    // While keys come, nothing is said of what there is not.
    await page.evaluate(() => {
      const said: string[] = [];
      Object.assign(window, { said });
      new MutationObserver(() => said.push(document.querySelector('.flint-say')!.textContent ?? '')).observe(
        document.querySelector('.flint-search')!,
        { subtree: true, childList: true, characterData: true },
      );
    });
    await box(page).fill('');
    await page.keyboard.type('zzqqxxyyvv', { delay: 60 });
    await page.getByText('No results for “zzqqxxyyvv”').waitFor();
    const said = await page.evaluate(() =>
      (window as unknown as { said: string[] }).said.filter((text) => /No results/.test(text)),
    );
    expect(new Set(said).size).toBe(1);
  });

  test('what lies at a place is told; with the map all of it goes', async () => {
    const page = await openSearch();
    const before = await page.evaluate(() => window.flintwright.liveCounts());
    await page.evaluate(() => window.map.move({ center: [-31.18316, 44.62683], zoom: 17 }));
    await page.mouse.click(400, 300, { button: 'right' });
    await page.locator('.flint-popup').waitFor();
    expect(await page.locator('.flint-popup').innerText()).toMatch(/Hallow Quay[\s\S]*town[\s\S]*44\.6268/);
    await page.evaluate(() => window.map.remove());
    const after = await page.evaluate(() => window.flintwright.liveCounts());
    expect(after.elements).toBe(0);
    expect(before.requests).toBe(after.requests);
  });

  test('options are checked, and a gazetteer that is none or is not there is told in the box', async () => {
    const page = await openSearch();
    const refused = await page.evaluate(() => {
      try {
        new window.searching.SearchBox(window.map, { findrs: [] } as never);
        return '';
      } catch (error) {
        return (error as { hint: string }).hint;
      }
    });
    expect(refused).toBe('Did you mean "finders"?');
    for (const [address, says] of [
      ['/chalk.sheet.json', 'the bytes are not a gazetteer'],
      ['/nowhere.gazetteer', '404'],
    ] as const) {
      await page.evaluate((from) => {
        document.querySelector('.flint-search')?.remove();
        const { SearchBox, gazetteerFinder } = window.searching;
        new SearchBox(window.map, { finders: [gazetteerFinder(from)] });
      }, address);
      await box(page).fill('quay');
      await page.getByRole('status').filter({ hasText: says }).waitFor();
    }
  });
});

describe('services', () => {
  const never = (): Promise<void> => new Promise(() => {});
  const service = async (options: object = {}) => {
    await openMap(stage, empty, view);
    await stage.page.evaluate(
      ([base, more]) => {
        const { SearchBox, geocodeJsonFinder } = window.searching;
        const address = `${base as string}/places/reach?q={text}&near={lon},{lat}&limit={most}`;
        const finder = geocodeJsonFinder({ address, ...(more as object) });
        new SearchBox(window.map, { finders: [finder], duration: 0 });
      },
      [stage.base, options] as const,
    );
    return stage.page;
  };

  test('GeocodeJSON: the demo’s own service wants its key, and with it finds', async () => {
    const page = await service();
    await box(page).fill('hallow');
    await page.getByRole('status').filter({ hasText: 'refused the key (401)' }).waitFor();
    expect(await page.getByRole('status').innerText()).toContain('request');
    await page.evaluate((key) => {
      document.querySelector('.flint-search')!.remove();
      const { SearchBox, geocodeJsonFinder } = window.searching;
      const request = window.flintwright.forHost(location.host, { query: { key } });
      const finder = geocodeJsonFinder({ address: `${location.origin}/places/reach?q={text}`, request });
      new SearchBox(window.map, { finders: [finder], duration: 0 });
    }, process.env['VITE_REACH_KEY']!);
    await box(page).fill('kiln yard and rope row');
    await options(page).first().waitFor();
    expect((await lines(page))[0]).toBe('Kiln Yard & Rope Row | street · Hallow Quay');
  });

  test.each<[string, (route: Route) => Promise<void>, RegExp]>([
    [
      'busy',
      (route) => route.fulfill({ status: 429, headers: { 'Retry-After': '7' } }),
      /limits the number of requests[\s\S]*7 s/,
    ],
    ['a web page', (route) => route.fulfill({ contentType: 'text/html', body: '<html>' }), /returned a web page/],
    ['another form', (route) => route.fulfill({ body: '{"results":[]}' }), /not a FeatureCollection/],
    ['gone', (route) => route.abort('connectionrefused'), /cannot be reached/],
    ['broken', (route) => route.fulfill({ status: 500 }), /responded with 500/],
    ['slow', never, /did not respond within 3 s/],
  ])('%s: the box says so, and the next search works', async (_, answer, says) => {
    // Only the answer that never comes is to run out of patience: a loaded machine is slow by itself.
    const page = await service({ patience: answer === never ? 3000 : 30_000 });
    await page.route('**/places/**', answer);
    await box(page).fill('hallow');
    await page.getByRole('status').filter({ hasText: says }).waitFor();
    await page.unroute('**/places/**');
    const place = {
      type: 'Feature',
      geometry: { type: 'Point', coordinates: [-31, 44] },
      properties: { label: 'There' },
    };
    await page.route('**/places/**', (route) =>
      route.fulfill({ json: { type: 'FeatureCollection', features: [place] } }),
    );
    await box(page).fill('there');
    await options(page).first().waitFor();
    expect(await lines(page)).toEqual(['There']);
    expect(await faultsOf(stage)).toEqual([]);
  });

  test('OGC API Features: text by q, what lies at a place by bbox; places without coordinates are passed over', async () => {
    await openMap(stage, empty, view);
    const { page } = stage;
    const asked: string[] = [];
    await page.route('**/collections/**', (route) => {
      asked.push(new URL(route.request().url()).search);
      const coordinates = [
        [
          [-31.2, 44.6],
          [-31.1, 44.6],
          [-31.1, 44.7],
          [-31.2, 44.6],
        ],
      ];
      const features = [
        { type: 'Feature', geometry: null, properties: { title: 'Nowhere' } },
        {
          type: 'Feature',
          geometry: { type: 'Polygon', coordinates },
          properties: { title: 'Osier Fen', kind: 'reserve' },
        },
      ];
      return route.fulfill({ json: { type: 'FeatureCollection', features } });
    });
    const found = await page.evaluate(async () => {
      const finder = window.searching.collectionFinder({ address: '/collections/zones/', name: 'title', kind: 'kind' });
      const { signal } = new AbortController();
      const request = { most: 5, language: 'en', signal };
      return [
        await finder.find({ text: 'fen & co', near: [0, 0], ...request }),
        await finder.reverse!([-31, 44], request),
      ];
    });
    expect(found[0]).toEqual([
      {
        name: 'Osier Fen',
        kind: 'reserve',
        at: [expect.closeTo(-31.15), expect.closeTo(44.65)],
        bounds: [-31.2, 44.6, -31.1, 44.7],
      },
    ]);
    expect(asked).toEqual(['?f=json&q=fen+%26+co&limit=5', '?f=json&bbox=-31.001%2C43.999%2C-30.999%2C44.001&limit=5']);
  });

  test('an address without a place for the text, or with one that is not understood, is refused', async () => {
    await openMap(stage, empty, view);
    const said = await stage.page.evaluate(async () => {
      const { geocodeJsonFinder } = window.searching;
      const { signal } = new AbortController();
      const tell = async (work: () => unknown) => {
        try {
          await work();
          return '';
        } catch (error) {
          return (error as Error).message;
        }
      };
      const request = { text: 'x', near: [0, 0] as const, most: 1, language: 'en', signal };
      return [
        await tell(() => geocodeJsonFinder({ address: '/search?q=' })),
        await tell(() => geocodeJsonFinder({ address: '/search?q={text}&x={place}' }).find(request)),
      ];
    });
    expect(said[0]).toMatch(/lacks \{text\}/);
    expect(said[1]).toMatch(/\{place\} in the address/);
  });
});
