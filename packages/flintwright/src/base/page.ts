import { Fault } from '@flintwright/core';

/** Whether there is a page that a map can be drawn on: not on a server, and not in a page that is only imitated, for tests. */
export const hasPage = (): boolean =>
  typeof document !== 'undefined' &&
  typeof ResizeObserver === 'function' &&
  typeof WebGL2RenderingContext === 'function';

/** @throws Fault `host.page` where there is no page */
export function assertPage(): void {
  if (!hasPage())
    throw new Fault(
      'host.page',
      'createMap needs a page with WebGL2',
      'Call it in a browser, for example after the page has loaded; leave the map out on a server and in tests without a browser.',
    );
}
