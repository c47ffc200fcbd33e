// Where the tests run: Node, and for all the files that a worker runs one Chromium, one server and one page, which is made as new for each test.
// Driver and server are loaded and warmed once, out of Jest's modules.
import { fileURLToPath } from 'node:url';
import { chromiumOptions, drawUnsmoothed } from './browser.mjs';
import CoreEnvironment from './core-environment.mjs';

let browser;
let server;
/** The page that the last test had, and whether something was done to it that cannot be taken back. */
let kept;

export default class BrowserEnvironment extends CoreEnvironment {
  async setup() {
    await super.setup();
    this.global.openBrowser = () => (browser ??= launch());
    this.global.serveExamples = async () => (server ??= await serveExamples());
    this.global.takePage = async () => {
      if (kept && !(await renewed(kept, server))) {
        await kept.page.context().close();
        kept = undefined;
      }
      return (kept ??= await openPage(await (browser ??= launch()))).page;
    };
  }
}

/** Serves the built examples; its sockets do not keep a worker alive. */
async function serveExamples() {
  const { serveFolder } = await import('@flintwright/cli');
  const folder = fileURLToPath(new URL('../examples/dist', import.meta.url));
  const app = await serveFolder(folder, { key: process.env.VITE_REACH_KEY, openFiles: true });
  const before = new Set(process._getActiveHandles());
  const address = await app.listen({ port: 0, host: 'localhost' });
  // It listens at each address of this name.
  for (const handle of process._getActiveHandles())
    if (!before.has(handle)) handle.unref().on('connection', (socket) => socket.unref());
  return address.replace('127.0.0.1', 'localhost').replace('[::1]', 'localhost');
}

/** A Chromium whose pages draw without smoothed edges. */
async function launch() {
  const { chromium } = await import('playwright-core');
  const before = new Set(process._getActiveHandles());
  const opened = await chromium.launch(chromiumOptions);
  opened.on('disconnected', () => (browser = undefined));
  // The browser goes when the worker does, and does not keep it.
  for (const handle of process._getActiveHandles()) if (!before.has(handle)) handle.unref();
  const newContext = opened.newContext.bind(opened);
  opened.newContext = async (options) => {
    const context = await newContext(options);
    await context.addInitScript(drawUnsmoothed);
    const newPage = context.newPage.bind(context);
    context.newPage = async () => waitingLightly(handingTexts(await newPage()));
    return context;
  };
  return opened;
}

/** A page that is handed much as one text: the driver checks each value of an object by itself, ten thousand features for a second. */
function handingTexts(page) {
  const evaluate = page.evaluate.bind(page);
  // What JSON does not hold goes as the driver has it.
  const asText = (given) => {
    const text = isJson(given) ? JSON.stringify(given) : '';
    return text.length > 1000 ? text : undefined;
  };
  page.evaluate = (task, given) => {
    const text = typeof task === 'function' ? asText(given) : undefined;
    return text ? evaluate(`(${task})(JSON.parse(${JSON.stringify(text)}))`) : evaluate(task, given);
  };
  return page;
}

/** A page that is asked until something holds by a plain call: the driver would put a script of a third of a megabyte into each new document. */
function waitingLightly(page) {
  page.waitForFunction = async (task, given, { timeout = 30_000 } = {}) => {
    const text = `(async () => {
      const end = performance.now() + ${timeout};
      while (performance.now() < end) {
        if (await (${task})(${JSON.stringify(given)})) return true;
        await new Promise((resolve) => setTimeout(resolve, 10));
      }
      return false;
    })()`;
    for (;;)
      try {
        if (await page.evaluate(text)) return;
        throw new Error(`this did not come to hold: ${task}`);
      } catch (error) {
        // Another document has come; it is asked as well.
        if (!/context was destroyed|because of a navigation/.test(String(error))) throw error;
      }
  };
  return page;
}

/** Whether a value comes out of JSON as it went in. */
function isJson(value) {
  if (Array.isArray(value)) return value.every(isJson);
  if (value === null || typeof value === 'string' || typeof value === 'boolean') return true;
  if (typeof value === 'number') return Number.isFinite(value) && !Object.is(value, -0);
  // The tests have an Object of their own.
  return typeof value === 'object' && value.constructor?.name === 'Object' && Object.values(value).every(isJson);
}

const size = { width: 800, height: 600 };

/** Opens a page, and watches for what cannot be taken back from it. */
async function openPage(browser) {
  const page = await browser.newPage({ viewport: size, bypassCSP: false });
  let spoilt = false;
  const context = page.context();
  // Another page in front of it, which a link opened, would make its frames and timers few.
  context.on('page', () => (spoilt = true));
  const watch = (target, ...names) => {
    for (const name of names) {
      const own = target[name].bind(target);
      target[name] = (...given) => {
        spoilt = true;
        return own(...given);
      };
    }
  };
  watch(page, 'addInitScript', 'exposeFunction', 'exposeBinding', 'setExtraHTTPHeaders', 'emulateMedia', 'close');
  watch(context, 'addInitScript', 'exposeFunction', 'exposeBinding', 'setExtraHTTPHeaders', 'route', 'addCookies');
  watch(context, 'newCDPSession', 'grantPermissions', 'setGeolocation', 'setOffline', 'close');
  watch(page.clock, 'install', 'setFixedTime', 'setSystemTime');
  return { page, isSpoilt: () => spoilt || page.isClosed() };
}

/** Makes a page as new: nothing on it, nothing stored, nothing listened to. False where that cannot be. */
async function renewed({ page, isSpoilt }, base) {
  if (isSpoilt()) return false;
  try {
    page.removeAllListeners();
    await page.unrouteAll({ behavior: 'ignoreErrors' });
    for (const key of ['Shift', 'Control', 'Alt', 'Meta']) await page.keyboard.up(key);
    await page.mouse.up();
    await page.mouse.move(-100, -100);
    await page.goto(`${base}/test/blank.html`);
    await page.evaluate(async () => {
      localStorage.clear();
      sessionStorage.clear();
      for (const { name } of await indexedDB.databases()) indexedDB.deleteDatabase(name);
    });
    await page.goto('about:blank');
    const seen = page.viewportSize();
    if (seen?.width !== size.width || seen.height !== size.height) await page.setViewportSize(size);
    return true;
  } catch {
    // A page that does not answer is given up; the next test gets a new one.
    return false;
  }
}
