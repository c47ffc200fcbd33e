import { findScheme, type ClusterNode, type CompiledLayer, type SheetScale } from '@flintwright/core';
import { findColour, type Rgba } from '@flintwright/core/internal';
import { boldLettering, spriteBox, textFieldPerPixel, type TextAtlas } from '../gl/atlas.js';
import { BoxList } from '../gl/boxes.js';
import type { ClusterLook } from './cluster-look.js';

const ink = findColour('#f7f5ef')!;
const slate = findColour('#22303a')!;
const clear: Rgba = [0, 0, 0, 0];
const spare = ['#d98a2b', '#3d7a6c', '#c5523a', '#4a7d94', '#8a7f70', '#6a5a8c'];
/** Height of a cluster's symbol in CSS pixels for a count of members. */
export const sizeOf = (count: number) => 34 + Math.min(26, 9 * Math.log10(count));

const countText = (count: number) =>
  count < 1000
    ? String(count)
    : new Intl.NumberFormat('en', { notation: 'compact', maximumFractionDigits: 1 }).format(count).toLowerCase();

/** A cluster or a single point to be drawn at a pixel. */
export interface ClusterSymbol {
  readonly node: ClusterNode;
  readonly layer: CompiledLayer;
  /** Categories in the order of the shares. */
  readonly categories: readonly string[];
  readonly x: number;
  readonly y: number;
  readonly size: number;
  readonly opacity: number;
  /** Appearance row of a single point; undefined for clusters. */
  readonly row: Float32Array | undefined;
  /** How the sheet has the cluster look; undefined for the hexagon. */
  readonly look?: { readonly layer: CompiledLayer; readonly shown: ClusterLook } | undefined;
  /** Whether the cluster is an element of the page, and nothing is to be drawn. */
  readonly isElement?: boolean;
}

/** The buffers that symbols are written into. */
export interface SymbolTarget {
  /** Boxes of the sprite atlas. */
  readonly shapes: Float32Array;
  /** Boxes of the text atlas. */
  readonly texts: Float32Array;
  readonly atlas: TextAtlas;
  /** Device pixels in a CSS pixel. */
  readonly ratio: number;
  sprite(name: string): number;
}

/** One box of the sprite atlas: its middle and sides in pixels, colours multiplied by alpha, degrees clockwise. */
interface Shape {
  readonly sprite: number;
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
  readonly color: readonly number[];
  readonly rim?: readonly number[];
  readonly rimWidth?: number;
  readonly rotation?: number;
  readonly opacity: number;
}

/** Writes the boxes of some symbols; returns how many of each kind. */
export function writeSymbols(
  symbols: readonly ClusterSymbol[],
  { shapes, texts, atlas, ratio, sprite }: SymbolTarget,
): { shapes: number; texts: number } {
  const drawn = new BoxList(shapes);
  const counts = new BoxList(texts);
  const [hexagon, square] = [sprite('hexagon'), sprite('square')];
  const draw = ({ x, y, width, height, color, rim = clear, rimWidth = 0, rotation = 0, opacity, ...shape }: Shape) => {
    const { uv, cellPerSize, fieldPerPixel } = spriteBox(shape.sprite);
    const field = fieldPerPixel / Math.min(width, height);
    drawn.put(
      [x, y, (width * cellPerSize) / 2, (height * cellPerSize) / 2],
      uv,
      color.map((v) => v * opacity),
      rim.map((v) => v * opacity),
      [rimWidth * field, field / ratio, rotation],
    );
  };
  for (const symbol of symbols) {
    const { node, layer: own, x, y, size, opacity, look, isElement } = symbol;
    if (isElement) continue;
    const row = look?.shown.row ?? symbol.row;
    const layer = look?.layer ?? own;
    if (row) {
      const o = layer.parts.mark * 4;
      const rest = { rimWidth: row[o + 16], rotation: row[o + 10], opacity };
      const [color, rim] = [[...row.subarray(o, o + 4)], [...row.subarray(o + 12, o + 16)]];
      draw({ sprite: row[o + 11], x, y, width: size, height: size, color, rim, ...rest });
      if (look) writeLabel(counts, look.shown, { x, y, opacity, atlas, ratio });
      continue;
    }
    draw({ sprite: hexagon, x, y, width: size, height: size, color: ink, opacity });
    for (const piece of rimPieces(symbol)) draw({ sprite: square, height: (4.4 * 24) / 18, opacity, ...piece });
    const inner = size * 0.72;
    draw({ sprite: hexagon, x, y, width: inner, height: inner, color: slate, rim: ink, rimWidth: 1.2, opacity });
    const run = atlas.run(countText(node.count), boldLettering);
    const { box, uv } = atlas.draw(run, boldLettering);
    const height = Math.min(14, (size * 0.5) / Math.max(1.3, run.width));
    counts.put(
      [x, y, (box[0] * height) / 2, (box[1] * height) / 2],
      uv,
      ink.map((v) => v * opacity),
      clear,
      [0, textFieldPerPixel(height) / ratio, 0],
    );
  }
  return { shapes: drawn.count, texts: counts.count };
}

/** The text in the middle of a cluster that the sheet has look so. */
function writeLabel(
  texts: BoxList,
  { label, text }: ClusterLook,
  { x, y, opacity, atlas, ratio }: Pick<ClusterSymbol, 'x' | 'y' | 'opacity'> & Pick<SymbolTarget, 'atlas' | 'ratio'>,
): void {
  if (!label || text === undefined) return;
  const { font, weight, style, spacing, wrap, haloWidth } = label.label;
  const lettering = { font, weight, style, spacing, wrap, align: 'center' as const };
  const run = atlas.run(text, lettering);
  const { box, uv } = atlas.draw(run, lettering);
  const [size] = label.size;
  const field = textFieldPerPixel(size);
  texts.put(
    [x, y, (box[0] * size) / 2, (box[1] * size) / 2],
    uv,
    label.color[0].map((v) => v * opacity),
    label.halo.map((v) => v * opacity),
    [Math.min(0.46, haloWidth * field), field / ratio, 0],
  );
}

/** The rim of a cluster: pieces of its six sides, coloured by the shares of the categories, clockwise from the top. */
function rimPieces({ node: { shares }, categories, layer, size, x, y }: ClusterSymbol) {
  const total = shares?.reduce((a, b) => a + b, 0) ?? 0;
  const colours = categoryColours(categories, layer);
  const sides = 6;
  const per = 5;
  const radius = size * 0.4;
  // The drawing of the hexagon is 19 units wide and 22 high.
  const corner = (i: number): [number, number] => {
    const angle = (Math.PI / 3) * i - Math.PI / 2;
    return [Math.cos(angle) * radius, Math.sin(angle) * radius];
  };
  return Array.from({ length: sides * per }, (_, k) => {
    const share = (k + 0.5) / (sides * per);
    let sum = 0;
    let category = 0;
    while (shares && total && category < shares.length - 1 && (sum += shares[category] / total) <= share) category++;
    const [[ax, ay], [bx, by]] = [corner(Math.floor(k / per)), corner(Math.floor(k / per) + 1)];
    const t = ((k % per) + 0.5) / per;
    return {
      x: x + ax + (bx - ax) * t,
      y: y + ay + (by - ay) * t,
      rotation: Math.atan2(by - ay, bx - ax),
      width: (Math.hypot(bx - ax, by - ay) / per + 0.7) * (24 / 18),
      color: total ? (colours[category] ?? colours[colours.length - 1]) : findColour(spare[0])!,
    };
  });
}

/** The colours that a layer gives the categories through its own scale, and that of what is in none. */
function categoryColours(categories: readonly string[], { source, rules }: CompiledLayer): Rgba[] {
  const scale = source.mark?.color as SheetScale<string> | undefined;
  const compiled = rules[0]?.symbols.mark?.color;
  const named = categories.map((category, i) => {
    const raw = Array.isArray(scale?.categories)
      ? findScheme(scale.scheme ?? '', categories.length)?.[i]
      : (scale?.categories as Record<string, string> | undefined)?.[category];
    return (raw !== undefined && findColour(raw)) || findColour(spare[i % spare.length])!;
  });
  return [...named, compiled?.constant ?? findColour('#98a1a5')!];
}
