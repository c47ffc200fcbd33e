import { Fault, vertexRange, type View } from '@flintwright/core';
import { changeView, fitView } from '@flintwright/core/internal';
import { placesOf } from './fit.js';
import type { FrameOptions, FrameTarget } from './options.js';
import type { ViewControlTools } from './view-tools.js';

/**
 * The view that shows all of something, as large as fits beside controls and panels.
 *
 * @param target what is to be shown
 * @param options `padding` in CSS pixels, and the greatest `zoom`
 * @param tools of the map
 * @throws Fault `frame.*`, `layer.unknown`, `place.*` or `geojson.*`
 */
export async function viewShowing(
  target: FrameTarget,
  { padding = 40, zoom = 18 }: Pick<FrameOptions, 'padding' | 'zoom'>,
  tools: ViewControlTools,
): Promise<View> {
  const { context, obstacles } = tools;
  const places = await placesOf(target, context.state.surface.space, (layer) => boundsOf(layer, tools));
  if (!places.length) throw new Fault('frame.empty', 'there is nothing to frame', 'Give at least one place.');
  const { view, surface, size, limits } = context.state;
  const room = obstacles.within(padding);
  const next = fitView(view, surface, size, places, room, Math.min(zoom, limits.zoom[1]));
  return changeView(view, next, limits);
}

/** Bounds of what a layer shows, once its data has been opened; of tiles, those of all the data. */
async function boundsOf(
  layer: string,
  { context, layers, sources }: ViewControlTools,
): Promise<readonly [number, number, number, number] | undefined> {
  const data = layers.require(layer).of.split('/')[0];
  await context.loop.until(() => sources.isOpened(data) && !context.state.sheet.needs.has('values'));
  const source = sources.tileStore(data)?.source;
  const where = context.state.sheet.layers.find(({ id }) => id === layer)?.where;
  const filtered = where !== undefined || context.filters.of(layer) !== undefined;
  if (!source?.features || !filtered) return source?.bounds;
  const block = await sources.featuresOf(data);
  const passes = where?.bind({ block, zoom: context.state.view.zoom });
  let [west, south, east, north] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let f = 0; f < block.count; f++) {
    if ((passes && passes(f) !== true) || !context.filters.shows(layer, block, f)) continue;
    const [from, to] = vertexRange(block, f);
    for (let v = from; v < to; v++) {
      const [x, y] = [block.coords[2 * v], block.coords[2 * v + 1]];
      [west, east] = [Math.min(west, x), Math.max(east, x)];
      [south, north] = [Math.min(south, y), Math.max(north, y)];
    }
  }
  if (west <= east) return [west, south, east, north];
  throw new Fault(
    'frame.filtered',
    `layer "${layer}" shows nothing: none of its ${block.count} features passes its filter`,
    'Loosen the filter, or frame its data by their bounds.',
  );
}
