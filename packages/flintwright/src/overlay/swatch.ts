import type { Swatch } from '@flintwright/core';
import type { Icons } from '../base/icons.js';

const ns = 'http://www.w3.org/2000/svg';
export const swatchSize = [26, 18] as const;

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
    const { icon: name, color, size, outline } = swatch.mark;
    const shown = Math.max(6, Math.min(16, size));
    const rim = outline
      ? { stroke: outline, 'stroke-width': (3 * 24) / shown, 'paint-order': 'stroke', 'stroke-linejoin': 'round' }
      : {};
    parts.push(icon(name, shown, { fill: color, ...rim, ...clear }));
  } else if (swatch.kind === 'line') {
    for (const { color, width: thick, dash, gradient, icon: name, opacity: clearness = 1 } of swatch.strokes) {
      const see = clearness === 1 ? {} : { opacity: clearness };
      if (name) {
        parts.push(icon(name, Math.min(14, thick), { fill: color, transform: turned(Math.min(14, thick)), ...see }));
        continue;
      }
      const line = {
        x1: 1,
        x2: width - 1,
        y1: height / 2,
        y2: height / 2,
        'stroke-width': Math.min(8, Math.max(1, thick)),
        ...see,
      };
      if (gradient) {
        gradient.slice(1).forEach((stop, i, all) => {
          const at = (k: number) => 1 + ((width - 2) * k) / all.length;
          parts.push(svg('line', { ...line, x1: at(i), x2: at(i + 1) + 0.3, stroke: stop }));
        });
      } else
        parts.push(
          svg('line', { ...line, stroke: color, 'stroke-dasharray': dash.map((d) => Math.min(d, 8)).join(' ') }),
        );
    }
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

const turned = (size: number) =>
  `translate(${swatchSize[0] / 2 + size / 2} ${swatchSize[1] / 2 - size / 2}) scale(${size / 24}) rotate(90)`;

function area({ fill, opacity = 1, pattern, strokes }: Swatch, icons: Icons): Element[] {
  const [width, height] = swatchSize;
  const box = { x: 1, y: 1, width: width - 2, height: height - 2 };
  const out: Element[] = [svg('rect', { ...box, fill: fill ?? 'none', 'fill-opacity': opacity })];
  if (pattern?.kind === 'icon') {
    const { icon = 'square', color } = pattern;
    const picture = icons.addressOf(icon, color);
    const d = icons.paths[icon] ?? icons.paths['square'];
    for (const [x, y] of [
      [3, 3],
      [12, 7],
      [19, 3],
    ])
      out.push(
        picture === undefined
          ? svg('path', { d, fill: color, 'fill-rule': 'evenodd', transform: `translate(${x} ${y}) scale(0.32)` })
          : svg('image', { href: picture, x, y, width: 7.7, height: 7.7 }),
      );
  } else if (pattern) {
    const angles = pattern.kind === 'cross' ? [pattern.angle, pattern.angle + 90] : [pattern.angle];
    for (const angle of angles) out.push(...hatchLines(angle, pattern.color));
  }
  const top = strokes[strokes.length - 1];
  if (top)
    out.push(
      svg('rect', {
        ...box,
        fill: 'none',
        stroke: top.color,
        'stroke-width': Math.min(2, Math.max(0.8, top.width)),
        ...(top.opacity === undefined ? {} : { 'stroke-opacity': top.opacity }),
      }),
    );
  return out;
}

/** Parallel lines within the swatch, by clipping each to its box. */
function hatchLines(angle: number, color: string): Element[] {
  const [width, height] = swatchSize;
  const [dx, dy] = [Math.cos((angle * Math.PI) / 180), Math.sin((angle * Math.PI) / 180)];
  const out: Element[] = [];
  for (let offset = -20; offset <= 20; offset += 5) {
    const [px, py] = [width / 2 - dy * offset, height / 2 + dx * offset];
    let [from, to] = [-40, 40];
    for (const [p, d, low, high] of [
      [px, dx, 1, width - 1],
      [py, dy, 1, height - 1],
    ]) {
      if (Math.abs(d) < 1e-6) {
        if (p < low || p > high) to = from;
        continue;
      }
      const [a, b] = [(low - p) / d, (high - p) / d];
      from = Math.max(from, Math.min(a, b));
      to = Math.min(to, Math.max(a, b));
    }
    if (from < to)
      out.push(
        svg('line', {
          x1: px + dx * from,
          y1: py + dy * from,
          x2: px + dx * to,
          y2: py + dy * to,
          stroke: color,
          'stroke-width': 1.3,
        }),
      );
  }
  return out;
}

let gradients = 0;

/** A bar of colours from left to right, side by side or running into one another. */
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
    );
  }
  const share = width / colors.length;
  return svg(
    'svg',
    attributes,
    ...colors.map((fill, i) => svg('rect', { x: i * share, y: 0, width: share, height, fill })),
  );
}
