// npm run engines [-- --all]: opens every example in Chromium, Firefox and WebKit, drives wheel, drag, press and keys, and compares the
// pictures with Chromium's. It says which engine is missing on the machine; with --all a missing one is a failure. Names of engines limit it
// to those and Chromium.
import { spawn } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { serveFolder } from '@flintwright/cli';
import pixelmatch from 'pixelmatch';
import { chromium } from 'playwright-core';
import { PNG } from 'pngjs';
import puppeteer from 'puppeteer-core';
import WebDriver from 'webdriver';
import { chromiumOptions, drawUnsmoothed } from './browser.mjs';
import setUp from './test-setup.mjs';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const size = { width: 840, height: 540 };
/** Share of pixels that may differ from Chromium's: engines smooth edges and letters each in their own way. */
const tolerance = 0.05;

const pages = [
  '/harbour/?zoom=14',
  '/harbour/?theme=tide&zoom=15.4&bearing=30&tilt=55&lat=44.615',
  '/beds/',
  '/workbench/',
  '/moorings/',
  '/birds/',
  '/ferries/',
  '/plain/',
  '/key/',
  '/projections/?surface=Globe',
  '/projections/?surface=Robinson',
  '/symbols/?symbol=fill',
  '/symbols/?symbol=label',
  '/symbols/?symbol=extrusion',
  '/terminal/',
  '/tide/?minute=300',
];

/** Questions to a page in every engine; texts of functions, since each driver hands them over in its own way. */
const asked = {
  ready: `Boolean((window.map && window.map.settled ? window.map : (document.querySelector('flint-map') || {}).map || {}).settled)`,
  settled: `(window.map && window.map.settled ? window.map : document.querySelector('flint-map').map).settled().then(() => true)`,
  view: `({ ...window.map.view })`,
  still: `document.getAnimations().forEach((one) => one.finish()), true`,
};

const wait = (ms) => new Promise((resolve) => setTimeout(resolve, ms));

const engines = {
  async Chromium() {
    if (!existsSync(chromiumOptions.executablePath)) return undefined;
    const browser = await chromium.launch(chromiumOptions);
    const page = await browser.newPage({ viewport: size });
    return {
      version: browser.version(),
      open: (url) => page.goto(url),
      ask: (text) => page.evaluate(text),
      shot: () => page.screenshot(),
      wheel: async (x, y, by) => {
        await page.mouse.move(x, y);
        await page.mouse.wheel(0, by);
      },
      drag: async ([ax, ay], [bx, by]) => {
        await page.mouse.move(ax, ay);
        await page.mouse.down();
        await page.mouse.move((ax + bx) / 2, (ay + by) / 2);
        await page.mouse.move(bx, by);
        await page.mouse.up();
      },
      press: (x, y) => page.mouse.click(x, y),
      key: (name) => page.keyboard.press(name),
      close: () => browser.close(),
    };
  },

  async Firefox() {
    const executablePath = process.env.FIREFOX ?? '/usr/bin/firefox-esr';
    if (!existsSync(executablePath)) return undefined;
    const browser = await puppeteer.launch({
      browser: 'firefox',
      executablePath,
      headless: !process.env.DISPLAY,
      extraPrefsFirefox: {
        'webgl.force-enabled': true,
        'app.update.enabled': false,
        'network.captive-portal-service.enabled': false,
      },
    });
    const page = await browser.newPage();
    await page.setViewport(size);
    return {
      version: (await browser.version()).replace(/^firefox\//i, ''),
      open: (url) => page.goto(url),
      ask: (text) => page.evaluate(text),
      shot: async () => Buffer.from(await page.screenshot()),
      wheel: async (x, y, by) => {
        await page.mouse.move(x, y);
        await page.mouse.wheel({ deltaY: by });
      },
      drag: async ([ax, ay], [bx, by]) => {
        await page.mouse.move(ax, ay);
        await page.mouse.down();
        await page.mouse.move((ax + bx) / 2, (ay + by) / 2);
        await page.mouse.move(bx, by);
        await page.mouse.up();
      },
      press: (x, y) => page.mouse.click(x, y),
      key: (name) => page.keyboard.press(name),
      close: () => browser.close(),
    };
  },

  async WebKit() {
    const driver = process.env.WEBKIT_DRIVER ?? '/usr/bin/WebKitWebDriver';
    if (!existsSync(driver) || !process.env.DISPLAY) return undefined;
    const port = 4700 + (process.pid % 200);
    const server = spawn(driver, [`--port=${port}`], { stdio: 'ignore' });
    await wait(700);
    const session = await WebDriver.newSession({
      hostname: '127.0.0.1',
      port,
      path: '/',
      logLevel: 'error',
      connectionRetryCount: 2,
      capabilities: {
        alwaysMatch: { browserName: 'MiniBrowser', 'wdio:enforceWebDriverClassic': true },
      },
    });
    await session.setWindowRect(0, 0, size.width, size.height);
    const inner = await session.executeScript('return [window.innerWidth, window.innerHeight]', []);
    await session.setWindowRect(0, 0, 2 * size.width - inner[0], 2 * size.height - inner[1]);
    const pointer = (actions) =>
      session.performActions([{ type: 'pointer', id: 'mouse', parameters: { pointerType: 'mouse' }, actions }]);
    const move = (x, y, duration = 0) => ({
      type: 'pointerMove',
      x: Math.round(x),
      y: Math.round(y),
      duration,
      origin: 'viewport',
    });
    const [down, up] = [
      { type: 'pointerDown', button: 0 },
      { type: 'pointerUp', button: 0 },
    ];
    return {
      version: session.capabilities.browserVersion,
      open: (url) => session.navigateTo(url),
      ask: (text) =>
        session.executeAsyncScript(
          `const done = arguments[arguments.length - 1]; Promise.resolve(eval(arguments[0])).then(done, (error) => done(String(error)))`,
          [text],
        ),
      shot: async () => Buffer.from(await session.takeScreenshot(), 'base64'),
      // This driver knows no wheel: the page is handed the event that one makes.
      wheel: (x, y, by) =>
        session.executeScript(
          `document.elementFromPoint(arguments[0], arguments[1]).dispatchEvent(new WheelEvent('wheel', { deltaY: arguments[2], clientX: arguments[0], clientY: arguments[1], bubbles: true, cancelable: true }))`,
          [x, y, by],
        ),
      drag: ([ax, ay], [bx, by]) =>
        pointer([move(ax, ay), down, move((ax + bx) / 2, (ay + by) / 2, 40), move(bx, by, 40), up]),
      press: (x, y) => pointer([move(x, y), down, up]),
      key: (name) =>
        session.performActions([
          {
            type: 'key',
            id: 'keys',
            actions: [
              { type: 'keyDown', value: keyValues[name] },
              { type: 'keyUp', value: keyValues[name] },
            ],
          },
        ]),
      close: async () => {
        await session.deleteSession();
        server.kill();
      },
    };
  },
};
const keyValues = { ArrowRight: '\uE014', Home: '\uE011', Tab: '\uE004' };

const missingHint = {
  Chromium: 'apt-get install chromium, or name it in CHROMIUM',
  Firefox: 'apt-get install firefox-esr, or name it in FIREFOX',
  WebKit: 'apt-get install webkit2gtk-driver, and run under a display (xvfb-run -a)',
};

const faults = [];
const check = (engine, what, holds) => {
  if (!holds) faults.push(`${engine}: ${what}`);
};

async function until(engine, text, holds, ms = 30000) {
  const end = Date.now() + ms;
  for (;;) {
    const value = await engine.ask(text);
    if (holds(value)) return value;
    if (Date.now() > end)
      throw new Error(
        `${text} did not come to hold on ${await engine.ask('location.href')} (${JSON.stringify(value)})`,
      );
    await wait(100);
  }
}

/** A screenshot equal to the one before it: on a busy machine an engine may composite a frame long after the page has drawn it. */
async function shotAtRest(engine, ms = 10000) {
  const end = Date.now() + ms;
  let before;
  for (;;) {
    await wait(250);
    const png = await engine.shot();
    const picture = PNG.sync.read(png);
    if (before?.equals(picture.data) || Date.now() > end) return { png, picture };
    before = picture.data;
  }
}

/** Wheel, drag, keys and a press on the harbour map. */
async function drive(name, engine, base) {
  await engine.open(`${base}/harbour/?zoom=14&driven`);
  await until(engine, asked.ready, Boolean);
  await engine.ask(asked.settled);
  const before = await engine.ask(asked.view);
  const [x, y] = [size.width / 2, size.height / 2 - 60];
  await engine.wheel(x, y, -300);
  const zoomed = await until(engine, asked.view, (view) => view.zoom > before.zoom + 0.5).catch(() => undefined);
  check(name, 'the wheel zooms in', zoomed);
  await engine.ask(asked.settled);
  const still = await engine.ask(asked.view);
  await engine.drag([x, y], [x - 160, y + 90]);
  const dragged = await until(
    engine,
    asked.view,
    (view) => view.center[0] > still.center[0] && view.center[1] > still.center[1],
  ).catch(() => undefined);
  check(name, 'a drag moves the ground along', dragged);
  await engine.ask(asked.settled);
  await engine.ask(`document.querySelector('.flint-canvas').focus(), true`);
  await engine.key('Home');
  const home = await until(
    engine,
    asked.view,
    (view) => Math.abs(view.zoom - before.zoom) < 1e-6 && Math.abs(view.center[0] - before.center[0]) < 1e-9,
  ).catch(() => undefined);
  check(name, 'Home leads back to the first view', home);
  await engine.key('ArrowRight');
  check(
    name,
    'an arrow key moves the map',
    await until(engine, asked.view, (view) => view.center[0] > before.center[0]).catch(() => undefined),
  );
  await engine.ask(asked.settled);
  await engine.ask(`window.map.move(${JSON.stringify(before)}).then(() => window.map.settled()).then(() => true)`);
  const at = await engine.ask(
    `window.map.markers.all.map(({ at }) => window.map.toPixel(at)).find(([x, y]) => x > 300 && x < ${size.width - 80} && y > 80 && y < ${size.height - 40})`,
  );
  await engine.press(at[0], at[1] - 18);
  const popup = await until(engine, `document.querySelector('.flint-popup h2')?.textContent ?? ''`, Boolean).catch(
    () => '',
  );
  check(name, 'a press on a marker opens its popup', popup);
}

await setUp();
const server = await serveFolder(join(root, 'examples/dist'), { key: process.env.VITE_REACH_KEY, openFiles: true });
// Only the first page shows smoothed edges; it is driven without them.
server.addHook('onRequest', async ({ url }, reply) => {
  const [path] = url.split('?');
  if (!path.endsWith('/') || url === pages[0]) return undefined;
  const html = readFileSync(join(root, 'examples/dist', path, 'index.html'), 'utf8');
  return reply.type('text/html').send(html.replace('<head>', `<head><script>(${drawUnsmoothed})()</script>`));
});
const base = (await server.listen({ port: 0, host: 'localhost' }))
  .replace('127.0.0.1', 'localhost')
  .replace('[::1]', 'localhost');
const out = join(root, 'coverage/engines');
mkdirSync(out, { recursive: true });

const wanted = new Map();
const named = process.argv.slice(2).filter((name) => engines[name]);
/** Opens all pages in an engine and drives it. */
async function lookThrough(name) {
  const engine = await engines[name]();
  if (!engine) {
    console.log(`${name}: missing (${missingHint[name]})`);
    if (process.argv.includes('--all')) faults.push(`${name}: missing`);
    return;
  }
  const differing = [];
  try {
    await drive(name, engine, base);
    for (const path of pages) {
      await engine.open(`${base}${path}`);
      await until(engine, asked.ready, Boolean);
      await engine.ask(asked.settled);
      await engine.ask(asked.still);
      const { png, picture } = await shotAtRest(engine);
      const title = path.replace(/\W+/g, '-').replace(/^-|-$/g, '');
      const reference = wanted.get(path);
      if (!reference) {
        wanted.set(path, picture);
        continue;
      }
      if (picture.width !== reference.width || picture.height !== reference.height) {
        faults.push(`${name}: ${path} is ${picture.width} × ${picture.height} pixels`);
        continue;
      }
      const { width, height } = reference;
      const difference = new PNG({ width, height });
      const pixels = pixelmatch(reference.data, picture.data, difference.data, width, height, { threshold: 0.2 });
      const share = pixels / (width * height);
      differing.push(share);
      if (share > tolerance) {
        writeFileSync(join(out, `${title}-${name}.png`), png);
        writeFileSync(join(out, `${title}-${name}-difference.png`), PNG.sync.write(difference));
        faults.push(`${name}: ${path} differs in ${(share * 100).toFixed(1)} % of its pixels (coverage/engines)`);
      }
    }
  } finally {
    await engine.close();
  }
  const most = differing.length
    ? `; pictures differ in at most ${(Math.max(...differing) * 100).toFixed(1)} % of their pixels`
    : '';
  console.log(`${name} ${engine.version}: ${pages.length} pages, wheel, drag, keys and a press${most}`);
}
// The others are held against Chromium's pictures, and wait for pages most of the time: they are looked through side by side.
await lookThrough('Chromium');
await Promise.all(
  Object.keys(engines)
    .filter((name) => name !== 'Chromium' && (!named.length || named.includes(name)))
    .map(lookThrough),
);
await server.close();
for (const fault of faults) console.error(`✗ ${fault}`);
process.exit(faults.length ? 1 : 0);
