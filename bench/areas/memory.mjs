// What a minute of panning over the harbour leaves in memory: the heap with its buffers, and what lies on the graphics card.
import { countCalls, cutDrawing, inBrowser } from '../measure.mjs';

export function figures() {
  return inBrowser(
    async (browser, base) => {
      const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
      await context.addInitScript(cutDrawing);
      await context.addInitScript(countCalls);
      const page = await context.newPage();
      await page.goto(`${base}/harbour/?zoom=15`);
      await page.waitForFunction(() => window.map?.settled);
      await page.evaluate(() => window.map.settled());
      const session = await context.newCDPSession(page);
      const heap = async () => {
        await session.send('HeapProfiler.collectGarbage');
        const { usedSize, backingStorageSize = 0 } = await session.send('Runtime.getHeapUsage');
        return { heap: usedSize / 1e6, buffers: backingStorageSize / 1e6 };
      };
      const first = await heap();
      const panned = await page.evaluate(async () => {
        const { map, gpu } = window;
        const frame = () => new Promise((resolve) => requestAnimationFrame(resolve));
        const until = performance.now() + 60_000;
        const from = map.view.center;
        let frames = 0;
        for (let i = 0; performance.now() < until; i++) {
          const turn = i / 400;
          void map.move({ center: [from[0] + 0.08 * Math.sin(turn), from[1] + 0.04 * Math.sin(2.3 * turn)] });
          await frame();
          frames++;
        }
        await map.settled();
        return { frames, gpu: gpu.bytes / 1e6 };
      });
      if (panned.frames < 300) throw new Error(`only ${panned.frames} frames in a minute`);
      const last = await heap();
      const detail = `after ${panned.frames} frames of panning in a minute`;
      return [
        {
          name: 'memory: heap',
          value: last.heap,
          unit: 'MB',
          detail: `${detail}; ${first.heap.toFixed(1)} MB before`,
        },
        {
          name: 'memory: buffers of the page',
          value: last.buffers,
          unit: 'MB',
          detail: `${detail}; ${first.buffers.toFixed(1)} MB before`,
        },
        { name: 'memory: graphics card', value: panned.gpu, unit: 'MB', detail: `buffers and textures, ${detail}` },
      ];
    },
    { args: ['--js-flags=--expose-gc'] },
  );
}
