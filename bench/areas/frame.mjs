// Frames of the harbour with drawing cut to nothing: the script's own time a frame and its calls of WebGL, on the plane, on the globe, with
// ten thousand markers, over a million clustered points; and a change of surface.
import { inBrowser, openHarbour } from '../measure.mjs';

/** Pans, moves markers and changes the surface. To be run in the harbour. */
async function frames(amount) {
  const { map, gpu } = window;
  const frame = () => new Promise((resolve) => requestAnimationFrame(resolve));
  const quartile = (list) => list.toSorted((a, b) => a - b)[list.length >> 2];
  // A small pan every time, so that nothing can be kept from the last; the first frames warm up.
  const each = async (work) => {
    const [spent, calls, draws] = [[], [], []];
    for (let i = 0; i < amount; i++) {
      [gpu.calls, gpu.draws] = [0, 0];
      const start = performance.now();
      work(i);
      const own = performance.now() - start;
      await frame();
      spent.push(own + map.lastFrame.cpu);
      calls.push(gpu.calls);
      draws.push(gpu.draws);
    }
    const late = amount * 0.3;
    // The floor: a frame that is counted has drawn.
    if (draws.slice(late).some((n) => !n)) throw new Error('a frame drew nothing');
    return {
      time: quartile(spent.slice(late)),
      calls: quartile(calls.slice(late)),
      draws: quartile(draws.slice(late)),
    };
  };
  const pan = () => {
    const from = map.view.center;
    return each((i) => map.move({ center: [from[0] - i * 1e-6, from[1]] }));
  };
  const plane = await pan();
  // Ten thousand markers, all of them moved before every frame.
  const { center } = map.view;
  const markers = Array.from({ length: 10000 }, (_, i) =>
    map.markers.add({
      at: [center[0] + ((i % 100) - 50) * 0.0008, center[1] + (Math.floor(i / 100) - 50) * 0.0004],
      size: 10,
    }),
  );
  const moved = await each(() => {
    for (const marker of markers) marker.change({ at: [marker.at[0] + 1e-6, marker.at[1]] });
  });
  map.markers.clear();
  // How long a change of surface takes until all is there, and the same view on the globe.
  const began = performance.now();
  await map.setSurface('globe', { duration: 0 });
  await map.settled();
  const changed = performance.now() - began;
  const globe = await pan();
  return { plane, moved, globe, changed };
}

export function figures() {
  return inBrowser(async (browser, base) => {
    // Calls are counted on a page of their own: to count them takes time.
    const counted = await openHarbour(browser, base, { counting: true });
    const counts = await counted.page.evaluate(frames, 20);
    await counted.context.close();
    const { context, page } = await openHarbour(browser, base);
    const found = await page.evaluate(frames, 200);
    await page.close();
    // A million clustered points, panned over.
    const crowd = await context.newPage();
    await crowd.goto(`${base}/test/`);
    await crowd.waitForFunction(() => 'flintwright' in window);
    const clusters = await crowd.evaluate(async () => {
      document.querySelector('#map').style.cssText = 'width:1200px;height:800px';
      let seed = 7;
      const random = () => (seed = (seed * 16807) % 2147483647) / 2147483647;
      const features = Array.from({ length: 1e6 }, () => ({
        type: 'Feature',
        properties: {},
        geometry: { type: 'Point', coordinates: [-31.5 + random(), 44.2 + random() * 0.7] },
      }));
      const map = window.flintwright.createMap('#map', {
        sheet: {
          sheet: 1,
          data: { crowd: { features: { type: 'FeatureCollection', features }, cluster: {} } },
          layers: [{ id: 'crowd', of: 'crowd', mark: { size: 8 } }],
        },
        view: { center: [-31, 44.55], zoom: 11 },
      });
      await map.settled();
      const frame = () => new Promise((resolve) => requestAnimationFrame(resolve));
      const spent = [];
      for (let i = 0; i < 240; i++) {
        const start = performance.now();
        void map.move({ center: [-31 + i * 2e-4, 44.55] });
        const own = performance.now() - start;
        await frame();
        spent.push(own + map.lastFrame.cpu);
      }
      const { calls } = map.lastFrame;
      map.remove();
      const at = (share) => spent.slice(40).toSorted((a, b) => a - b)[Math.floor(200 * share)];
      return { time: at(0.25), late: at(0.95), calls };
    });
    // Two thousand elements of the page as markers, beside the same elements put at the same pixels without a map.
    const put = await (async () => {
      const page = await context.newPage();
      await page.goto(`${base}/test/`);
      await page.waitForFunction(() => 'flintwright' in window);
      return page.evaluate(async () => {
        const host = document.querySelector('#map');
        host.style.cssText = 'width:1200px;height:800px';
        const map = window.flintwright.createMap('#map', {
          sheet: { sheet: 1, layers: [] },
          view: { center: [0, 0], zoom: 3 },
        });
        await map.settled();
        const made = (i) => Object.assign(document.createElement('div'), { textContent: `Mark ${i}` });
        const at = (i) => [(i % 50) - 25, Math.floor(i / 50) - 20];
        const frame = () => new Promise((resolve) => requestAnimationFrame(() => setTimeout(resolve)));
        let began = performance.now();
        for (let i = 0; i < 2000; i++) map.markers.add({ at: at(i), element: made(i) });
        await frame();
        await map.settled();
        const time = performance.now() - began;
        const boxes = () =>
          [...document.querySelectorAll('.flint-marker, .plain')].map((one) => one.getBoundingClientRect());
        const places = boxes().map(({ left, bottom }) => [left, bottom]);
        map.markers.clear();
        const box = host.getBoundingClientRect();
        const pixels = Array.from({ length: 2000 }, (_, i) => map.toPixel(at(i)));
        began = performance.now();
        const plain = pixels.map((_, i) => {
          const one = Object.assign(made(i), { className: 'plain' });
          one.style.cssText = 'position:absolute;left:0;top:0;font:13px/1.4 "Noto Sans"';
          host.append(one);
          return one;
        });
        const sizes = plain.map(({ offsetWidth, offsetHeight }) => [offsetWidth, offsetHeight]);
        plain.forEach(({ style }, i) => {
          const [x, y] = [pixels[i][0] - sizes[i][0] / 2, pixels[i][1] - sizes[i][1]];
          style.transform = `translate(${Math.round(x)}px, ${Math.round(y)}px)`;
        });
        await frame();
        const floor = performance.now() - began;
        // The floor did the same work: every element stands at the same place.
        const apart = boxes().filter(
          ({ left, bottom }, i) => Math.hypot(left - places[i][0], bottom - places[i][1]) > 2,
        );
        map.remove();
        return { time, floor, apart: apart.length, inside: box.width > 0 };
      });
    })();
    if (put.apart) throw new Error(`${put.apart} of 2,000 element markers stand elsewhere than plain elements`);
    // The chart of one tide as it is played: every callback of a frame, that of the page and that of the map.
    const tide = await (async () => {
      const page = await context.newPage();
      await page.setViewportSize({ width: 1280, height: 800 });
      await page.addInitScript(() => {
        const frames = (window.frames_ = []);
        const ask = window.requestAnimationFrame.bind(window);
        let stamp = 0;
        window.requestAnimationFrame = (work) =>
          ask((now) => {
            if (now !== stamp) frames.push(0);
            stamp = now;
            const start = performance.now();
            work(now);
            frames[frames.length - 1] += performance.now() - start;
          });
      });
      await page.goto(`${base}/tide/?minute=120`);
      await page.waitForFunction(() => document.querySelector('.tide-clock button') && window.map);
      await page.evaluate(() => window.map.settled());
      const found = await page.evaluate(async () => {
        const { frames_: frames } = window;
        const clockText = () => document.querySelector('.tide-clock output').textContent;
        const before = clockText();
        document.querySelector('.tide-clock button').click();
        while (frames.length < 60) await new Promise((done) => setTimeout(done, 50));
        frames.length = 0;
        while (frames.length < 200) await new Promise((done) => setTimeout(done, 50));
        const all = frames.toSorted((a, b) => a - b);
        return {
          time: all[50],
          middle: all[100],
          late: all[190],
          moved: clockText() !== before,
          draws: window.map.lastFrame.calls,
        };
      });
      await page.close();
      // The floor: the tide has moved, and its frames were drawn.
      if (!found.moved || !found.draws) throw new Error('the tide stood still');
      return found;
    })();
    const row = (name, key, target, detail) => {
      const { calls, draws } = counts[key];
      // The same frames: as many draws on both pages.
      if (draws !== found[key].draws)
        throw new Error(`${name}: ${draws} draws were counted and ${found[key].draws} timed`);
      return {
        name,
        value: found[key].time,
        unit: 'ms',
        target,
        detail: `${detail}; ${calls} calls of WebGL, ${draws} of them draws`,
      };
    };
    return [
      row('frame on the plane', 'plane', 2, 'script, lower quartile, 2560 × 1700 pixels'),
      row('frame on the globe', 'globe', 3, 'the same view'),
      row('10,000 markers moved', 'moved', 8, 'moved and drawn over the same map'),
      {
        name: '2,000 element markers',
        value: put.time,
        unit: 'ms',
        target: 500,
        detail: `added and settled; ${(put.time / put.floor).toFixed(1)} × plain elements at the same places (${put.floor.toFixed(0)} ms)`,
      },
      {
        name: 'frame over a million clustered points',
        value: clusters.time,
        unit: 'ms',
        target: 3,
        detail: `panning, lower quartile; 95 in 100 within ${clusters.late.toFixed(1)} ms`,
      },
      {
        name: 'a tide played',
        value: tide.time,
        unit: 'ms',
        target: 8,
        detail: `the chart of one tide at 1280 × 800, script of page and map, lower quartile; half within ${tide.middle.toFixed(1)} ms, 95 in 100 within ${tide.late.toFixed(1)} ms`,
      },
      {
        name: 'surface changed',
        value: found.changed / 1000,
        unit: 's',
        target: 3,
        detail: 'the harbour from web Mercator to the globe, until all is there, drawing cut',
      },
    ];
  });
}
