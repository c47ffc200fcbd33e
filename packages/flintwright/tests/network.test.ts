// A network that fails: tiles that could not be had, or were damaged, come by themselves once the server is mended.
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { describe, expect, test } from '@jest/globals';
import { gzip, readGeoJson, TileCutter, writeTile } from '@flintwright/core';
import type { Sheet } from 'flintwright';
import { box, collection, countPixels, faultsOf, openMap, useStage } from './harness.ts';

const stage = useStage();
const block = readGeoJson(collection(box(-40, -40, 80)), { name: 'land' });
const plain = writeTile([new TileCutter(block, 2).tile({ z: 0, x: 0, y: 0 })!]);
const bytes = Buffer.from(gzip(plain));
const sheet = {
  sheet: 1,
  background: '#ffffff',
  data: { land: { tiles: '/made-up/{z}/{x}/{y}', zooms: [0, 0] } },
  layers: [{ id: 'land', of: 'land/land', fill: '#5fa8a0' }],
} as unknown as Sheet;
const green: [number, number, number] = [95, 168, 160];

describe('an idle map', () => {
  test.each<[string, object, boolean]>([
    ['that had it no more', { status: 410 }, false],
    ['that sent damaged bytes', { body: bytes.subarray(0, 40) }, false],
    ['that was out of reach, as soon as the browser is online again', { status: 410 }, true],
  ])('has the tiles of a server %s', async (_, answer, online) => {
    const { page } = stage;
    let mended = false;
    let asked = 0;
    await page.route('**/made-up/**', (route) => {
      asked++;
      return mended ? route.fulfill({ body: bytes }) : route.fulfill(answer);
    });
    await openMap(stage, sheet, { center: [0, 0], zoom: 1 });
    await page.waitForFunction(() => window.faults.length > 0);
    expect((await faultsOf(stage)).length).toBe(1);
    expect(await page.evaluate(() => window.map.dataState('land'))).toBe('failed');
    expect((await countPixels(stage, green))[0]).toBe(0);
    mended = true;
    const before = asked;
    if (online) await page.evaluate(() => window.dispatchEvent(new Event('online')));
    const began = Date.now();
    await page.waitForFunction(() => window.map.dataState('land') === 'ready');
    await page.evaluate(() => window.map.settled());
    expect((await countPixels(stage, green))[0]).toBeGreaterThan(1000);
    expect(asked).toBe(before + 1);
    if (online) expect(Date.now() - began).toBeLessThan(2500);
    await page.evaluate(() => window.map.remove());
    expect(await page.evaluate(() => window.flintwright.liveCounts().listeners)).toBe(0);
  });
});

describe('packed tiles', () => {
  test.each<[string, Buffer, string | undefined]>([
    ['in one part', bytes, undefined],
    ['in two parts (RFC 1952, section 2.2)', Buffer.concat([gzip(plain.slice(0, 9)), gzip(plain.slice(9))]), undefined],
    ['not at all', Buffer.from(plain), undefined],
    [
      'with a wrong checksum',
      Buffer.concat([bytes.subarray(0, -8), Buffer.alloc(4), bytes.subarray(-4)]),
      'gzip.corrupt',
    ],
  ])('%s', async (_, body, fault) => {
    await stage.page.route('**/made-up/**', (route) => route.fulfill({ body }));
    await openMap(stage, sheet, { center: [0, 0], zoom: 1 });
    await stage.page.evaluate(() => window.map.settled());
    expect((await faultsOf(stage)).map(({ code }) => code)).toEqual(fault ? [fault] : []);
    expect((await countPixels(stage, green))[0] > 1000).toBe(!fault);
  });
});

describe('a server that never ends', () => {
  test.each([
    ['says nothing', 0],
    ['sends half a tile', 40],
  ])('%s: it is given up, tried again, and told; once it answers, the tiles come', async (_, sent) => {
    const { page } = stage;
    let silent = true;
    let asked = 0;
    const server = createServer((_request, response) => {
      asked++;
      response.setHeader('Access-Control-Allow-Origin', '*');
      if (!silent) response.end(bytes);
      else if (sent) response.write(bytes.subarray(0, sent));
    });
    await new Promise<void>((ready) => server.listen(0, 'localhost', ready));
    try {
      const { port } = server.address() as AddressInfo;
      const tiles = `http://localhost:${port}/{z}/{x}/{y}`;
      const slow = { ...sheet, data: { land: { tiles, zooms: [0, 0] } } } as unknown as Sheet;
      await openMap(stage, { sheet: 1, layers: [] }, { center: [0, 0], zoom: 1 });
      await page.evaluate((given: unknown) => {
        window.map.remove();
        window.faults = [];
        window.map = window.flintwright.createMap('#map', {
          sheet: given as Sheet,
          view: { center: [0, 0], zoom: 1 },
          request: (plan) => void (plan.patience = 1000),
        });
        window.map.addEventListener('fault', (event) => {
          event.preventDefault();
          window.faults.push(event.detail);
        });
      }, slow as unknown);
      await page.waitForFunction(() => window.faults.length > 0);
      expect(await faultsOf(stage)).toMatchObject([{ code: 'request.slow' }]);
      expect(asked).toBe(3);
      silent = false;
      await page.waitForFunction(() => window.map.dataState('land') === 'ready');
      await page.evaluate(() => window.map.settled());
      expect((await countPixels(stage, green))[0]).toBeGreaterThan(1000);
    } finally {
      server.closeAllConnections();
      await new Promise((closed) => server.close(closed));
    }
  });
});
