// What noise cannot touch: calls of WebGL in a frame of the harbour on the plane and on the globe.
import { inBrowser, openHarbour } from '../measure.mjs';

export function figures() {
  return inBrowser(async (browser, base) => {
    const { page } = await openHarbour(browser, base, { counting: true });
    const found = await page.evaluate(async () => {
      const { map, gpu } = window;
      const frame = () => new Promise((resolve) => requestAnimationFrame(resolve));
      /** Calls of a steady pan, once labels stand. */
      const calls = async () => {
        const seen = [];
        const [x, y] = map.view.center;
        for (let i = 1; i <= 30; i++) {
          [gpu.calls, gpu.draws] = [0, 0];
          void map.move({ center: [x - i * 1e-6, y] });
          await frame();
          if (!gpu.draws) throw new Error('a frame drew nothing');
          seen.push(gpu.calls);
        }
        return seen.toSorted((a, b) => a - b)[15];
      };
      const plane = await calls();
      await map.setSurface('globe', { duration: 0 });
      await map.settled();
      return { plane, globe: await calls() };
    });
    return [
      {
        name: 'calls of WebGL a frame',
        value: found.plane,
        unit: '',
        limit: 1200,
        detail: 'the harbour, panned, 2560 × 1700 pixels',
      },
      {
        name: 'calls of WebGL a frame on the globe',
        value: found.globe,
        unit: '',
        limit: 1400,
        detail: 'the same view',
      },
    ];
  });
}
