import type { Swatch } from '@flintwright/core';
import type { Icons } from '../base/icons.js';

const ns = 'http://www.w3.org/2000/svg';
export const swatchSize = [26, 18] as const;
/** Number of gradients and clips so far, for ids that are unique in the page. */
let gradients = 0;

type Attributes = Readonly<Record<string, string | number>>;

function svg(tag: string, attributes: Attributes, ...inner: Element[]): SVGElement {
  const element = document.createElementNS(ns, tag);
  for (const [name, value] of Object.entries(attributes)) element.setAttribute(name, String(value));
  element.append(...inner);
  return element;
}

/**
 * A small picture of a symbol, in SVG that needs no inline style.
 *
 * @param icons of the map
 * @param opacity of the whole, 0 to 1
 */
export function drawSwatch(swatch: Swatch, icons: Icons, opacity = 1): SVGElement {
  const { paths } = icons;
  const [width, height] = swatchSize;
  const icon = (name: string, size: number, attributes: Attributes) => {
    const scale = size / 24;
    const picture = icons.addressOf(name, String(attributes['fill'] ?? ''));
    if (picture !== undefined)
      return svg('image', {
        href: picture,
        x: width / 2 - size / 2,
        y: height / 2 - size / 2,
        width: size,
        height: size,
        ...('opacity' in attributes ? { opacity: attributes['opacity'] } : {}),
      });
    const move = `translate(${width / 2 - size / 2} ${height / 2 - size / 2}) scale(${scale})`;
    return svg('path', { d: paths[name] ?? paths['circle'], 'fill-rule': 'evenodd', transform: move, ...attributes });
  };
  const parts: Element[] = [];
  const clear: Attributes = swatch.opacity === undefined ? {} : { opacity: swatch.opacity };
  if (swatch.kind === 'point' && swatch.mark) {
    const { icon: name, color, size, outline, outlineWidth = 1 } = swatch.mark;
    const shown = Math.max(6, Math.min(16, size));
    // Half of it lies below the icon.
    const rim = outline
      ? {
          stroke: outline,
          'stroke-width': (2 * Math.min(2, outlineWidth) * 24) / shown,
          'paint-order': 'stroke',
          'stroke-linejoin': 'round',
        }
      : {};
    parts.push(icon(name, shown, { fill: color, ...rim, ...clear }));
  } else if (swatch.kind === 'line') {
    parts.push(...line(swatch.strokes, icon));
  } else if (swatch.kind === 'extrusion') {
    const side = (d: string, opacity: number) => svg('path', { d, fill: swatch.fill ?? 'none', opacity });
    parts.push(
      svg(
        'g',
        clear,
        side('M4 7L13 3L22 7L13 11Z', 1),
        side('M4 7L13 11V17L4 13Z', 0.72),
        side('M22 7L13 11V17L22 13Z', 0.86),
      ),
    );
  } else if (swatch.kind === 'text') {
    const glyph = svg('text', {
      x: width / 2,
      y: 14,
      'text-anchor': 'middle',
      fill: swatch.fill ?? 'currentColor',
      'font-size': 13,
      'font-weight': 600,
      ...clear,
    });
    glyph.textContent = 'Aa';
    parts.push(glyph);
  } else parts.push(...area(swatch, icons));
  return svg(
    'svg',
    {
      viewBox: `0 0 ${width} ${height}`,
      width,
      height,
      class: 'flint-swatch',
      'aria-hidden': 'true',
      ...(opacity === 1 ? {} : { opacity }),
    },
    ...parts,
  );
}

type DrawIcon = (name: string, size: number, attributes: Attributes) => SVGElement;

/** A line from left to right as it is on the map, made smaller as a whole where it is wider than the swatch is high. */
function line(strokes: Swatch['strokes'], icon: DrawIcon): Element[] {
  const [width, height] = swatchSize;
  const reach = Math.max(...strokes.map(({ offset = 0, width: wide }) => Math.abs(offset) + wide / 2));
  const scale = Math.min(1, (height / 2 - 1) / reach);
  return strokes.map((stroke) => {
    const { color, dash, gradient, icon: name, gap = 0, opacity = 1, offset = 0, cap } = stroke;
    const thick = Math.max(0.75, stroke.width * scale);
    const y = height / 2 + offset * scale;
    const clear = opacity === 1 ? {} : { opacity };
    if (name) {
      // The tops of icons along a line point ahead.
      const pace = Math.max(gap, thick);
      const count = Math.max(1, Math.floor((width - 2) / pace));
      const marks = Array.from({ length: count }, (_, i) => {
        const x = width / 2 + (i - (count - 1) / 2) * pace;
        const mark = icon(name, thick, { fill: color });
        const place = svg('g', {
          transform: `translate(${x} ${y}) rotate(90) translate(${-width / 2} ${-height / 2})`,
        });
        place.append(mark);
        return place;
      });
      return svg('g', clear, ...marks);
    }
    // A round or square end lies within the swatch.
    const inset = cap === 'round' || cap === 'square' ? 1 + thick / 2 : 1;
    const [from, to] = [inset, width - inset];
    // At least one and a half periods of a dash are in view.
    const period = dash.reduce((sum, part) => sum + part, 0);
    const shrink = period ? Math.min(1, (to - from) / (1.5 * period)) : 1;
    const attributes = {
      x1: from,
      x2: to,
      y1: y,
      y2: y,
      'stroke-width': thick,
      ...(cap ? { 'stroke-linecap': cap } : {}),
      ...(period ? { 'stroke-dasharray': dash.map((part) => part * shrink).join(' ') } : {}),
      ...clear,
    };
    if (!gradient) return svg('line', { ...attributes, stroke: color });
    const id = `flint-line-${++gradients}`;
    const shades = svg(
      'linearGradient',
      { id, gradientUnits: 'userSpaceOnUse', x1: from, x2: to, y1: y, y2: y },
      ...gradient.map((shade, i) => svg('stop', { offset: i / (gradient.length - 1), 'stop-color': shade })),
    );
    return svg('g', {}, shades, svg('line', { ...attributes, stroke: `url(#${id})` }));
  });
}

/** A hairline in the color of the text, so that a pale color has an end on a pale card. */
const edge = { fill: 'none', stroke: 'currentColor', 'stroke-opacity': 0.4, 'stroke-width': 1 };

function area({ fill, opacity = 1, pattern, strokes }: Swatch, icons: Icons): Element[] {
  const [width, height] = swatchSize;
  const widest = Math.max(1, ...strokes.map((stroke) => stroke.width));
  const scale = Math.min(1, 3 / widest);
  const inset = 0.5 + Math.max(0.5, (widest * scale) / 2);
  const box = { x: inset, y: inset, width: width - 2 * inset, height: height - 2 * inset };
  const out: Element[] = [svg('rect', { ...box, fill: fill ?? 'none', 'fill-opacity': opacity })];
  if (pattern) {
    const id = `flint-fill-${++gradients}`;
    const inside = svg('g', { 'clip-path': `url(#${id})` });
    inside.append(...(pattern.kind === 'icon' ? iconRows(pattern, icons) : hatchLines(pattern)));
    out.push(svg('clipPath', { id }, svg('rect', box)), inside);
  }
  for (const { color, width: wide, opacity: clear } of strokes)
    out.push(
      svg('rect', {
        ...box,
        fill: 'none',
        stroke: color,
        'stroke-width': Math.max(0.75, wide * scale),
        ...(clear === undefined ? {} : { 'stroke-opacity': clear }),
      }),
    );
  if (!strokes.length) out.push(svg('rect', { ...box, ...edge }));
  return out;
}

type Pattern = NonNullable<Swatch['pattern']>;

/** Rows of icons at the gap of the map, as far as a swatch shows more than one of them. */
function iconRows({ icon: name = 'square', color, gap, size, stagger }: Pattern, icons: Icons): Element[] {
  const [width, height] = swatchSize;
  const scale = Math.min(1, 13 / gap);
  const [pace, shown] = [gap * scale, Math.max(5, size * scale)];
  const picture = icons.addressOf(name, color);
  const d = icons.paths[name] ?? icons.paths['square'];
  const out: Element[] = [];
  for (let row = -1; row <= 1; row++)
    for (let column = -2; column <= 2; column++) {
      const x = width / 2 + (column + (stagger && row ? 0.5 : 0)) * pace - shown / 2;
      const y = height / 2 + row * pace * (stagger ? 0.5 : 1) - shown / 2;
      out.push(
        picture === undefined
          ? svg('path', {
              d,
              fill: color,
              'fill-rule': 'evenodd',
              transform: `translate(${x} ${y}) scale(${shown / 24})`,
            })
          : svg('image', { href: picture, x, y, width: shown, height: shown }),
      );
    }
  return out;
}

/** Parallel lines at the gap of the map, beginning in the middle. */
function hatchLines({ kind, angle, color, gap, size }: Pattern): Element[] {
  const [width, height] = swatchSize;
  const out: Element[] = [];
  for (const turn of kind === 'cross' ? [angle, angle + 90] : [angle])
    for (let offset = -Math.ceil(18 / gap) * gap; offset <= 18; offset += gap)
      out.push(
        svg('line', {
          x1: -20,
          x2: 20,
          y1: offset,
          y2: offset,
          stroke: color,
          'stroke-width': size,
          transform: `translate(${width / 2} ${height / 2}) rotate(${turn})`,
        }),
      );
  return out;
}

/** A bar of colors from left to right, side by side or running into one another. */
export function drawBar(
  colors: readonly string[],
  width: number,
  height: number,
  smooth: boolean,
  opacity = 1,
): SVGElement {
  const attributes = {
    viewBox: `0 0 ${width} ${height}`,
    preserveAspectRatio: 'none',
    class: 'flint-bar',
    'aria-hidden': 'true',
    ...(opacity === 1 ? {} : { opacity }),
  };
  if (smooth) {
    const id = `flint-ramp-${++gradients}`;
    const stops = colors.map((color, i) => svg('stop', { offset: i / (colors.length - 1), 'stop-color': color }));
    return svg(
      'svg',
      attributes,
      svg('linearGradient', { id }, ...stops),
      svg('rect', { width, height, fill: `url(#${id})` }),
      svg('rect', { width, height, ...edge, 'vector-effect': 'non-scaling-stroke', 'stroke-width': 2 }),
    );
  }
  const share = width / colors.length;
  return svg(
    'svg',
    attributes,
    ...colors.map((fill, i) => svg('rect', { x: i * share, y: 0, width: share, height, fill })),
    svg('rect', { width, height, ...edge, 'vector-effect': 'non-scaling-stroke', 'stroke-width': 2 }),
  );
}
