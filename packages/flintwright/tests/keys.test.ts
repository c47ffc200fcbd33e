import { describe, expect, test } from '@jest/globals';
import type { Sheet } from 'flintwright';
import { faultsOf, openMap, settled, useStage } from './harness.ts';

const stage = useStage();

const empty: Sheet = { sheet: 1, background: '#ffffff', layers: [] };

describe('keys', () => {
  test('a hook of one host opens the tiles; without it the map says so plainly', async () => {
    const { page } = stage;
    await page.goto(`${stage.base}/key/`);
    await page.waitForFunction(() => window.map?.settled);
    await settled(stage);
    expect(await page.evaluate(() => window.map.labelTexts.length)).toBeGreaterThan(3);
    expect(await page.locator('.flint-notice').count()).toBe(0);

    const sheet: Sheet = {
      ...empty,
      data: { reach: { tiles: `${stage.base}/tiles/reach.json` } },
      layers: [{ id: 'land', of: 'reach/land', fill: '#888888' }],
    };
    await openMap(stage, sheet, { center: [-31.15, 44.618], zoom: 13 });
    await settled(stage);
    expect(await faultsOf(stage)).toEqual([
      { code: 'request.refused', hint: 'Add a valid key or header in the map\'s "request" hook.' },
    ]);
    expect(await page.locator('.flint-notice').textContent()).toContain('was refused (401)');
    const wrong = await fetch(`${stage.base}/tiles/reach.json?key=guess`);
    expect([wrong.status, await wrong.json()]).toEqual([403, { message: 'this key opens nothing here' }]);
  });
});
