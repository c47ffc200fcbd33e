// Frames in the browser: the map's own work against a bare draw of buffers of the same size.
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { serveFolder } from '@flintwright/cli';
import { chromium } from 'playwright-core';
import { build } from 'vite';
import { chromiumOptions } from '../scripts/browser.mjs';

export async function frameFigures(root) {
  const served = join(root, 'examples/dist');
  if (!existsSync(join(served, 'harbour/index.html')))
    await build({
      logLevel: 'warn',
      root: join(root, 'examples'),
      configFile: join(root, 'examples/vite.config.ts'),
      build: { copyPublicDir: true },
    });
  const server = await serveFolder(served);
  const base = (await server.listen({ port: 0, host: 'localhost' }))
    .replace('127.0.0.1', 'localhost')
    .replace('[::1]', 'localhost');
  const browser = await chromium.launch(chromiumOptions);
  try {
    const page = await browser.newPage({ viewport: { width: 2560, height: 1700 } });
    await page.goto(`${base}/harbour/?zoom=14.02&bare`);
    await page.waitForFunction(() => window.map?.settled);
    await page.evaluate(() => window.map.settled());
    const figures = await page.evaluate(async () => {
      const { map } = window;
      const frame = () => new Promise((resolve) => requestAnimationFrame(resolve));
      const gl = document.querySelector('canvas').getContext('webgl2');
      const middle = (list) => list.sort((a, b) => a - b)[Math.floor(list.length / 2)];
      const finished = () => gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, new Uint8Array(4));
      const { center } = map.view;
      // Time of the CPU: every call is made as ever, but draws are cut down to no vertices, so that software WebGL keeps up
      // as a GPU would. A small pan every time, so that nothing can be kept from the last; the first frames warm up.
      const draws = ['drawElements', 'drawArrays', 'drawArraysInstanced'];
      const idle = async (work) => {
        const [elements, arrays, instanced] = draws.map((name) => gl[name].bind(gl));
        gl.drawElements = (mode, _count, type, offset) => elements(mode, 0, type, offset);
        gl.drawArrays = (mode, first) => arrays(mode, first, 0);
        gl.drawArraysInstanced = (mode, first, _count, instances) => instanced(mode, first, 0, instances);
        const spent = [];
        for (let i = 0; i < 160; i++) {
          const start = performance.now();
          work(i);
          const own = performance.now() - start;
          await frame();
          finished();
          spent.push(own + map.lastFrame.cpu);
        }
        for (const name of draws) delete gl[name];
        return middle(spent.slice(60));
      };
      const pan = () => {
        const from = map.view.center;
        return idle((i) => map.move({ center: [from[0] - i * 1e-6, from[1]] }));
      };
      const cpu = await pan();
      const whole = [];
      // Records every draw of one frame, for the bare draw below.
      const calls = [];
      const real = {};
      for (const name of [
        'drawElements',
        'drawArraysInstanced',
        'useProgram',
        'bindVertexArray',
        'bindTexture',
        'uniformMatrix4fv',
        'uniform1i',
        'uniform1f',
        'uniform2f',
        'stencilFunc',
        'enable',
        'disable',
        'drawArrays',
        'colorMask',
        'stencilMask',
        'stencilOp',
        'activeTexture',
        'clear',
        'clearColor',
        'viewport',
        'bindBuffer',
        'bufferSubData',
      ])
        real[name] = gl[name].bind(gl);
      for (let i = 0; i < 6; i++) {
        if (i === 5)
          for (const name of Object.keys(real))
            gl[name] = (...args) => (
              calls.push([name, args.map((a) => (a instanceof Float32Array && a.length === 16 ? a.slice() : a))]),
              real[name](...args)
            );
        finished();
        const start = performance.now();
        map.move({ center: [center[0] + i * 1e-6, center[1]] });
        await frame();
        finished();
        whole.push(performance.now() - start);
      }
      for (const name of Object.keys(real)) delete gl[name];
      // The floor: the same buffers with the same programs, replayed without any of the map's thinking.
      const bare = [];
      for (let i = 0; i < 5; i++) {
        finished();
        const start = performance.now();
        await frame();
        for (const [name, args] of calls) real[name](...args);
        finished();
        bare.push(performance.now() - start);
      }
      const tiles = [
        ...new Set(calls.filter(([name]) => name === 'uniformMatrix4fv').map(([, args]) => args[2].join())),
      ].length;
      // Ten thousand markers, all of them moved before every frame.
      const markers = Array.from({ length: 10000 }, (_, i) =>
        map.markers.add({
          at: [center[0] + ((i % 100) - 50) * 0.0008, center[1] + (Math.floor(i / 100) - 50) * 0.0004],
          size: 10,
        }),
      );
      const moved = await idle(() => {
        for (const marker of markers) marker.change({ at: [marker.at[0] + 1e-6, marker.at[1]] });
      });
      map.markers.clear();
      // The same view on the globe, between two on the plane, and how long a change of surface takes until all is there.
      const before = await pan();
      const began = performance.now();
      await map.setSurface('globe', { duration: 0 });
      await map.settled();
      const changed = performance.now() - began;
      const ball = await pan();
      await map.setSurface('EPSG:3857', { duration: 0 });
      await map.settled();
      const plane = (before + (await pan())) / 2;
      return {
        moved,
        plane,
        ball,
        changed,
        cpu,
        whole: middle(whole.slice(1, 5)),
        bare: middle(bare.slice(1)),
        draws: map.lastFrame.calls,
        tiles,
      };
    });
    return [
      [
        'frame, time of the CPU',
        `${figures.cpu.toFixed(2)} ms`,
        '≤ 2 ms',
        `${figures.tiles} tiles in view, ${figures.draws} draw calls`,
      ],
      [
        '10,000 markers moved',
        `${figures.moved.toFixed(2)} ms`,
        '≤ 8 ms',
        'CPU a frame, moving and drawing, over the same map',
      ],
      [
        'frame on the globe',
        figures.ball / figures.plane,
        '≤ 1.5',
        `CPU of the same view: ${figures.ball.toFixed(2)} ms against ${figures.plane.toFixed(2)} ms on the plane before and after`,
      ],
      [
        'surface changed',
        `${(figures.changed / 1000).toFixed(1)} s`,
        '–',
        'the harbour from web Mercator to the globe, until all is drawn (2560 × 1700 pixels, software WebGL)',
      ],
      [
        'whole frame',
        figures.whole / figures.bare,
        '≤ 1.3',
        `${figures.whole.toFixed(0)} ms against ${figures.bare.toFixed(0)} ms for a bare draw of the same buffers (software WebGL)`,
      ],
    ];
  } finally {
    await browser.close();
    await server.close();
  }
}
