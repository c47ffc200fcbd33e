/** How the project starts Debian's Chromium: headless, with WebGL2 in software. */
export const chromiumOptions = {
  executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
  args: [
    '--no-sandbox',
    '--disable-gpu',
    '--disable-quic',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
    '--use-angle=swiftshader',
    '--enable-unsafe-swiftshader',
    '--ignore-gpu-blocklist',
    '--enable-precise-memory-info',
  ],
};

/** Run in a page ahead of its own scripts: maps draw without smoothed edges, which cost as much in software as all the rest of a frame. */
export function drawUnsmoothed() {
  const { getContext } = HTMLCanvasElement.prototype;
  HTMLCanvasElement.prototype.getContext = function (kind, options) {
    return getContext.call(this, kind, kind === 'webgl2' ? { ...options, antialias: false } : options);
  };
}
