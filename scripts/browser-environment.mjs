// Where the tests run: Node, and one Chromium for all the files that a worker runs. Its driver is loaded and warmed once, out of Jest's modules.
import vm from 'node:vm';
import { TestEnvironment } from 'jest-environment-node';
import { chromiumOptions } from './browser.mjs';

let browser;

export default class BrowserEnvironment extends TestEnvironment {
  /** Its globals are those of the engine: each look at one would be a call of a proxy otherwise, and computations look at many. */
  constructor(...given) {
    const { createContext } = vm;
    vm.createContext = () => createContext(vm.constants.DONT_CONTEXTIFY);
    try {
      super(...given);
    } finally {
      vm.createContext = createContext;
    }
  }

  async setup() {
    await super.setup();
    this.global.openBrowser = () => (browser ??= launch());
  }
}

/** A Chromium whose pages draw without smoothed edges: drawn in software, they cost as much as all the rest of a frame. */
async function launch() {
  const { chromium } = await import('playwright-core');
  const before = new Set(process._getActiveHandles());
  const opened = await chromium.launch(chromiumOptions);
  opened.on('disconnected', () => (browser = undefined));
  // The browser goes when the worker does, and does not keep it.
  for (const handle of process._getActiveHandles()) if (!before.has(handle)) handle.unref?.();
  const newContext = opened.newContext.bind(opened);
  opened.newContext = async (options) => {
    const context = await newContext(options);
    await context.addInitScript(() => {
      const { getContext } = HTMLCanvasElement.prototype;
      HTMLCanvasElement.prototype.getContext = function (kind, options) {
        return getContext.call(this, kind, kind === 'webgl2' ? { ...options, antialias: false } : options);
      };
    });
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
