// Pages with strict policies, and workers that do not start or do not answer: the map works, or says at once why not.
import { expect, test } from '@jest/globals';
import type { Sheet } from 'flintwright';
import { box, collection, countPixels, faultsOf, openMap, settled, useStage } from './harness.ts';

const stage = useStage();
const sheet = {
  sheet: 1,
  background: '#ffffff',
  data: { land: { features: collection(box(-40, -40, 80)) } },
  layers: [{ id: 'land', of: 'land', fill: '#5fa8a0' }],
} as unknown as Sheet;

/** Has the test page come under a policy more. */
const under = (policy: string) =>
  stage.page.route('**/test/', async (route) => {
    const response = await route.fetch();
    await route.fulfill({ response, headers: { ...response.headers(), 'content-security-policy': policy } });
  });

test('a policy that forbids workers is a fault at once, which names worker-src; nothing waits for ever', async () => {
  stage.expected = /worker-src|Refused to create a worker|violates the following/;
  await under("worker-src 'none'");
  await openMap(stage, sheet, { center: [0, 0], zoom: 1 });
  await stage.page.waitForFunction(() => window.faults.length > 0);
  await settled(stage);
  const faults = await faultsOf(stage);
  expect(faults[0]).toMatchObject({ code: 'worker.start', hint: expect.stringContaining('worker-src blob:') });
  expect(await stage.page.evaluate(() => window.map.dataState('land'))).toBe('failed');
});

test('under require-trusted-types-for the map draws, and HTML of a popup is shown', async () => {
  await under("require-trusted-types-for 'script'; trusted-types flintwright dompurify");
  await openMap(stage, sheet, { center: [0, 0], zoom: 1 });
  await settled(stage);
  expect((await countPixels(stage, [95, 168, 160]))[0]).toBeGreaterThan(1000);
  const text = await stage.page.evaluate(async () => {
    const popup = window.map.popup({ at: [0, 0], html: '<b>Bold</b><script>document.title = "run"</script>' });
    // A second map on the page takes the same policy.
    const other = document.createElement('div');
    other.style.cssText = 'width:200px;height:200px';
    document.body.append(other);
    const second = window.flintwright.createMap(other, { sheet: window.map.sheet });
    await second.settled();
    second.remove();
    await popup.ready;
    return document.querySelector('.flint-popup')!.textContent;
  });
  expect(text).toContain('Bold');
  expect(await stage.page.title()).not.toBe('run');
  expect(await faultsOf(stage)).toEqual([]);
});

test('a worker that gives no answer for a minute is stopped, and told', async () => {
  const { page } = stage;
  await openMap(stage, { sheet: 1, layers: [] } as Sheet, { center: [0, 0], zoom: 1 });
  await page.evaluate((given: unknown) => {
    window.map.remove();
    // A minute passes in a blink.
    const plain = window.setTimeout.bind(window);
    window.setTimeout = ((work: () => void, ms?: number) => plain(work, (ms ?? 0) >= 60_000 ? 200 : ms)) as never;
    const mute = URL.createObjectURL(new Blob(['onmessage = () => { for (;;); };']));
    window.map = window.flintwright.createMap('#map', { sheet: given as Sheet, worker: mute });
    window.map.addEventListener('fault', (event) => {
      event.preventDefault();
      window.faults.push(event.detail);
    });
  }, sheet as unknown);
  await page.waitForFunction(() => window.faults.some(({ code }) => code === 'worker.slow'));
  await page.evaluate(() => window.map.remove());
  expect(await page.evaluate(() => window.flintwright.liveCounts().workers)).toBe(0);
});
