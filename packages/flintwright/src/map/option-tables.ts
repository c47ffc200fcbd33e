import { Fault, type ViewChange, type ViewLimits } from '@flintwright/core';
import { checkOptions, isOf, valueText, type OptionTable } from '../base/check-options.js';
import type { PickOptions } from '../base/picked-feature.js';
import type { LegendOptions } from '../overlay/legend.js';
import type { LayerPopupOptions } from '../overlay/popups.js';
import type { FeatureEdit } from '../worker/messages.js';
import type { FadeOptions, SheetOptions, FrameOptions, MapOptions } from './options.js';
import type { MoveOptions } from './view-animation.js';

const view: OptionTable<ViewChange> = { center: 'any', zoom: 'any', bearing: 'any', tilt: 'any' };
const move: OptionTable<MoveOptions> = { duration: 'number', easing: 'text|function', signal: 'signal' };
const frame: OptionTable<FrameOptions> = { ...move, padding: 'number|object', zoom: 'number' };
const fade: OptionTable<FadeOptions> = { duration: 'number' };
const sheet: OptionTable<SheetOptions> = { ...fade, whole: 'switch' };
const pick: OptionTable<PickOptions> = { layers: 'list', within: 'number' };
const limits: OptionTable<ViewLimits> = {
  zoom: 'list',
  tilt: 'list',
  bounds: 'list',
  space: 'text',
  latitude: 'number',
};
const map: OptionTable<MapOptions> = {
  sheet: 'object|text',
  view: 'object',
  limits: 'object',
  levels: 'text',
  scroll: 'text',
  request: 'function',
  files: 'object',
  icons: 'object',
  tileMemory: 'number',
  worker: 'any',
  colorScheme: 'text',
  notices: 'switch',
  title: 'text',
  strings: 'object',
  permalink: 'switch',
};

const edit: OptionTable<FeatureEdit> = { put: 'object', move: 'object', remove: 'list' };
const legend: OptionTable<LegendOptions> = { host: 'element', title: 'text', position: 'corner' };
const layerPopup: OptionTable<LayerPopupOptions> = { on: 'text', signal: 'signal' };

const second = (name: string) => `"${name}" belongs into the second argument: map.move({ … }, { ${name}: … }).`;

/** Checks of what calls of a map are given. @throws Fault `option.*` */
export const check = {
  map(options: unknown): void {
    checkOptions('createMap', options, map, "createMap('#map', { sheet })", {
      center: 'Write view: { center: [longitude, latitude], zoom }.',
      zoom: 'Write view: { center: [longitude, latitude], zoom }.',
      style: 'The look of a map is its "sheet".',
    });
    const { view: first, limits: held } = options as MapOptions;
    if (first) checkOptions('the view of createMap', first, view, 'view: { center: [longitude, latitude], zoom }');
    if (held) checkOptions('the limits of createMap', held, limits, 'limits: { zoom: [3, 18] }');
  },
  given(sheet: unknown): void {
    if (typeof sheet === 'string' || isOf('object', sheet)) return;
    throw new Fault(
      'option.form',
      `map.setSheet expected a sheet, got ${valueText(sheet)}`,
      'Give the sheet as an object, or its address as a text.',
    );
  },
  view(call: string, change: unknown): void {
    checkOptions(call, change, view, `${call}({ center: [longitude, latitude], zoom: 12 })`, {
      duration: second('duration'),
      easing: second('easing'),
      signal: second('signal'),
    });
  },
  move: (call: string, options: unknown): void => checkOptions(call, options, move, '{ duration: 600 }'),
  frame: (options: unknown): void => checkOptions('map.frame', options, frame, "map.frame('layer', { padding: 40 })"),
  fade: (call: string, options: unknown): void => checkOptions(call, options, fade, '{ duration: 300 }'),
  sheet: (options: unknown): void => checkOptions('map.setSheet', options, sheet, '{ duration: 300 }'),
  edit: (change: unknown): void => checkOptions('map.edit', change, edit, "map.edit('layer', { put, move, remove })"),
  legend: (options: unknown): void => checkOptions('map.legend', options, legend, "map.legend({ title: 'Legend' })"),
  clustersAs: (make: unknown): void =>
    checkOptions('map.clustersAs', { make }, { make: 'function' }, "map.clustersAs('layer', ({ node }) => element)"),
  popupFor(make: unknown, options: unknown): void {
    const form = "map.popupFor('layer', ({ properties }) => ({ title: String(properties?.name) }))";
    checkOptions('map.popupFor', { make }, { make: 'function' }, form);
    checkOptions('map.popupFor', options, layerPopup, `${form.slice(0, -1)}, { on: 'hover' })`);
  },
  pick: (options: unknown): void => checkOptions('map.pick', options, pick, 'map.pick([x, y], { within: 8 })'),
} as const;
