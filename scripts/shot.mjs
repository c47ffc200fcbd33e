// Takes a picture of a page: node scripts/shot.mjs ADDRESS OUT.png [WIDTHxHEIGHT]
import { chromium } from 'playwright-core';
import { chromiumOptions } from './browser.mjs';

const [address, out, size = '1280x800'] = process.argv.slice(2);
const [width, height] = size.split('x').map(Number);
const browser = await chromium.launch(chromiumOptions);
const page = await browser.newPage({ viewport: { width, height } });
page.on('console', (message) => console.log(`[${message.type()}]`, message.text()));
page.on('pageerror', (error) => console.log('[error]', error.stack));
await page.goto(address);
await page.waitForFunction(() => window.map?.settled, null, { timeout: 15000 }).catch(() => page.waitForTimeout(6000));
await page.evaluate(
  () => window.map?.settled && Promise.race([window.map.settled(), new Promise((r) => setTimeout(r, 20000))]),
);
await page.waitForTimeout(150);
console.log(
  await page.evaluate(
    () => window.map?.settled && JSON.stringify({ ...window.map.lastFrame, labels: window.map.labelTexts.length }),
  ),
);
await page.screenshot({ path: out });
await browser.close();
