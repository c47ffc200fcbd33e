// The first picture of the harbour: a production build, drawing cut to nothing, a browser with nothing kept. When the modules have run, when
// there is a map object, and when all is there.
import { cutDrawing, inBrowser, quantile } from '../measure.mjs';

export function figures() {
  return inBrowser(async (browser, base) => {
    const rounds = [];
    for (let round = 0; round < 7; round++) {
      const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
      await context.addInitScript(cutDrawing);
      await context.addInitScript(() => {
        const times = (window.times = {});
        // The harbour's modules begin with a request for their sheet.
        const { fetch } = window;
        window.fetch = (...args) => {
          times.modules ??= performance.now();
          return fetch(...args);
        };
        let map;
        Object.defineProperty(window, 'map', {
          get: () => map,
          set(made) {
            map = made;
            times.object = performance.now();
            void made.settled().then(() => {
              times.settled = performance.now();
              console.info('settled');
            });
          },
        });
      });
      const page = await context.newPage();
      // To ask the page whether it is ready would put some 300 kB of script into it, and hold its thread up for 50 ms in the middle of it all.
      const settled = page.waitForEvent('console', (message) => message.text() === 'settled');
      await page.goto(`${base}/harbour/?bare`);
      await settled;
      rounds.push(
        await page.evaluate(() => {
          const { layers } = window.map;
          if (!layers) throw new Error('there is no map');
          if (!window.gpu.draws) throw new Error('nothing was drawn');
          return window.times;
        }),
      );
      await context.close();
    }
    // The first round fills the browser's caches of code and shaders.
    const middle = (key) =>
      quantile(
        rounds.slice(1).map((round) => round[key]),
        0.5,
      );
    const detail = 'from the start of navigation, middle of six; production build, drawing cut';
    return [
      { name: 'first picture: modules have run', value: middle('modules'), unit: 'ms', detail },
      { name: 'first picture: map object', value: middle('object'), unit: 'ms', target: 400, detail },
      { name: 'first picture: settled', value: middle('settled'), unit: 'ms', target: 1200, detail },
    ];
  });
}
