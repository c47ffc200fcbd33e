import { describe, expect, test } from '@jest/globals';
import { pixels, settled, useStage } from './harness.ts';

const stage = useStage();

const isNear = (seen: readonly number[], wanted: readonly number[], within = 12) =>
  seen.every((v, i) => Math.abs(v - wanted[i]) <= within);

describe('the oyster beds', () => {
  test('colored by table, kind and given color, with legend, hover, selection and themes, as a user would', async () => {
    const { page, base } = stage;
    await page.setViewportSize({ width: 1280, height: 800 });
    await page.goto(`${base}/beds/`);
    await page.waitForFunction(() => window.map?.settled);
    await settled(stage);
    const key = page.locator('.key');
    await expect(key.getByRole('listitem').allTextContents()).resolves.toEqual(['', '5', '20', '60', 'no value']);
    expect(await key.locator('ol li').first().getAttribute('aria-label')).toBe('under 5 t');
    expect(await page.locator('.join').textContent()).toContain(
      'OB-14, OB-28, OB-42 have no row, row OB-77 has no bed',
    );
    const counted = () =>
      page.evaluate(
        () => (window as unknown as { liveCounts: () => { geometryUploads: number } }).liveCounts().geometryUploads,
      );
    const before = await counted();
    await page.getByLabel('kind').check();
    await settled(stage);
    expect(await key.getByRole('listitem').allTextContents()).toEqual([
      'native oyster',
      'rock oyster',
      'seed, not yet for sale',
    ]);
    await page.getByLabel('density').check();
    await settled(stage);
    expect(await key.getByRole('listitem').allTextContents()).toEqual(['thin', 'fair', 'dense', 'other']);
    await page.getByLabel('the tenant’s flag').check();
    await settled(stage);
    expect(await counted()).toBe(before);

    const [first, second] = await page.evaluate(() =>
      (
        [
          [1111, 606],
          [1055, 606],
        ] as [number, number][]
      ).map((at) => {
        const { properties } = window.map.pick(at, { layers: ['beds'] })[0];
        return { at, tonnes: Number(properties['tonnes']), flag: String(properties['flag']) };
      }),
    );
    await page.mouse.click(...first.at);
    await page.mouse.click(...second.at);
    await settled(stage);
    expect(await page.locator('.chosen p').textContent()).toBe(
      `2 of 42 beds, ${(first.tonnes + second.tonnes).toFixed(1)} t`,
    );
    await page.mouse.move(900, 100);
    await settled(stage);
    const rgb = [1, 3, 5].map((i) => Number.parseInt(first.flag.slice(i, i + 2), 16));
    expect(isNear((await pixels(stage, first.at))[0], rgb)).toBe(true);
    await page.getByLabel('Slate').check();
    await page.waitForFunction(() => document.querySelector<HTMLElement>('#map')?.dataset['colorScheme'] === 'dark');
    await settled(stage);
    // The beds, their color and the selection have outlived the theme.
    expect(isNear((await pixels(stage, first.at))[0], rgb)).toBe(true);
    expect(await page.evaluate(() => window.map.selection.length)).toBe(2);
  });
});
