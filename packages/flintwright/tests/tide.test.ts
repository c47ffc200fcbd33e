// The chart of one tide, as its visitors use it: by mouse, keyboard and touch, by day and night, and published as one page.
import { afterAll, describe, expect, test } from '@jest/globals';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { main } from '@flintwright/cli';
import { build } from 'esbuild';
import type { Page } from 'playwright-core';
import { faultsOf, pixels, settled, useStage } from './harness.ts';

const stage = useStage();
const folder = mkdtempSync(join(tmpdir(), 'flintwright-'));
afterAll(() => rmSync(folder, { recursive: true }));
const root = fileURLToPath(new URL('../../..', import.meta.url));
const quiet = { say: () => {}, warn: () => {}, progress: () => {} };

async function open(address: string): Promise<void> {
  await stage.page.goto(address);
  await stage.page.waitForSelector('.tide-clock');
  await settled(stage);
}
const told = (page: Page) => page.locator('.tide-clock output').innerText();
/** The color of ground in view that lies about a meter above low water, where nothing stands on it. */
async function flat(): Promise<[number, number, number]> {
  await settled(stage);
  const at = await stage.page.evaluate(() => {
    const isFlat = (height: number) => height >= 0.75 && height <= 1.5;
    const above = ([x, y]: readonly number[]) => {
      const found = window.map.pick([x, y], { within: 0 });
      return found[0]?.layer === 'drying' ? Number(found[0].properties['above']) : NaN;
    };
    for (let y = 120; y < window.innerHeight - 160; y += 4)
      for (let x = 60; x < window.innerWidth - 90; x += 4)
        if ([-2, 0, 2].every((d) => isFlat(above([x + d, y])) && isFlat(above([x, y + d]))))
          return [x, y] as [number, number];
    return undefined;
  });
  return (await pixels(stage, at!))[0];
}

describe('one tide', () => {
  test('falls dry and floods by mouse and keyboard, and turns to night', async () => {
    const { page } = stage;
    await open(`${stage.base}/tide/?minute=0`);
    const high = await flat();
    // Water is blue, mud is not.
    expect(high[2]).toBeGreaterThan(high[0]);
    const slider = page.getByRole('slider', { name: 'Time of the tide' });
    await slider.focus();
    const before = await told(page);
    await page.keyboard.press('ArrowRight');
    expect(await told(page)).not.toBe(before);
    expect(await slider.getAttribute('aria-valuetext')).toMatch(/^14:11, 2\.\d m, /);
    const track = (await slider.boundingBox())!;
    await page.mouse.click(track.x + track.width * 0.47, track.y + track.height / 2);
    expect(await told(page)).toMatch(/^(19|20):\d\d\s+0\.\d m · (slack|ebb|flood)/);
    const low = await flat();
    expect(low[0]).toBeGreaterThan(low[2]);
    expect(await page.evaluate(() => window.map.colorScheme)).toBe('light');
    await slider.focus();
    await page.keyboard.press('End');
    expect(await told(page)).toMatch(/^02:35/);
    expect(await page.evaluate(() => window.map.colorScheme)).toBe('dark');
    expect((await flat()).reduce((a, b) => a + b)).toBeLessThan(250);
    const play = page.getByRole('button', { name: 'Play' });
    await play.click();
    await page.waitForFunction(() => !document.querySelector('output')!.innerText.startsWith('02:35'));
    await page.getByRole('button', { name: 'Pause' }).click();
    expect(await faultsOf(stage).catch(() => [])).toEqual([]);
    expect(await page.locator('.flint-notice').count()).toBe(0);
  });

  test('is moved by touch on a phone, and in steps for people who want no motion', async () => {
    const context = await stage.browser.newContext({
      viewport: { width: 390, height: 844 },
      hasTouch: true,
      isMobile: true,
      reducedMotion: 'reduce',
    });
    const page = ((stage as { page: Page }).page = await context.newPage());
    await open(`${stage.base}/tide/?minute=0`);
    const box = (await page.getByRole('slider', { name: 'Time of the tide' }).boundingBox())!;
    await page.touchscreen.tap(box.x + box.width * 0.5, box.y + box.height / 2);
    expect(await told(page)).toMatch(/^20:\d\d/);
    const button = (await page.getByRole('button', { name: 'Play' }).boundingBox())!;
    expect(Math.min(button.width, button.height)).toBeGreaterThanOrEqual(44);
    // The slider hears of a tap a moment later.
    await page.waitForTimeout(400);
    const before = await told(page);
    await page.touchscreen.tap(button.x + 22, button.y + 22);
    await page.waitForFunction((text) => document.querySelector('output')!.innerText !== text, before);
    // A step of 25 minutes, and nothing in between.
    const minutes = (text: string) => Number(text.slice(0, 2)) * 60 + Number(text.slice(3, 5));
    expect(((minutes(await told(page)) - minutes(before) + 1440) % 1440) % 25).toBe(0);
    await context.close();
  });

  test('is published as one page that opens from a disk', async () => {
    const script = join(folder, 'one-tide.js');
    await build({
      entryPoints: [join(root, 'examples/tide/published.ts')],
      bundle: true,
      format: 'iife',
      outfile: script,
    });
    const out = join(folder, 'one-tide.html');
    const sheet = join(root, 'demo/data/one-tide.sheet.json');
    expect(await main(['publish', sheet, '--script', script, '--attributes', 'all', '-o', out], quiet)).toBe(0);
    await open(pathToFileURL(out).href);
    const first = await told(stage.page);
    await stage.page.getByRole('slider', { name: 'Time of the tide' }).focus();
    await stage.page.keyboard.press('End');
    expect(await told(stage.page)).not.toBe(first);
    expect((await flat()).reduce((a, b) => a + b)).toBeLessThan(250);
    expect(await stage.page.locator('.flint-rail').count()).toBe(1);
    expect(await stage.page.locator('.flint-notice').count()).toBe(0);
    const refused = join(folder, 'module.js');
    await build({ entryPoints: [join(root, 'examples/tide/time.ts')], format: 'esm', outfile: refused });
    const seen: string[] = [];
    const listening = { ...quiet, warn: (text: string) => seen.push(text) };
    expect(await main(['publish', sheet, '--script', refused, '--replace', '-o', out], listening)).not.toBe(0);
    expect(seen.join('\n')).toContain('has imports or exports');
  });
});
