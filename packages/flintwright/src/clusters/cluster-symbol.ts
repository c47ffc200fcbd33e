import type { ClusterNode, CompiledLayer, SheetScale } from '@flintwright/core';
import type { Rgba } from '@flintwright/core/internal';
import { findColour } from '@flintwright/core/internal/values';
import { findScheme } from '../base/late-reading.js';
import { spriteBox } from '../gl/atlas.js';
import { boldLettering, textFieldPerPixel, type TextRun } from '../gl/lettering.js';
import type { TextAtlas } from '../gl/text-atlas.js';
import { BoxList } from '../gl/boxes.js';
import type { ClusterLook } from './cluster-look.js';

const ink = findColour('#f7f5ef')!;
const slate = findColour('#22303a')!;
const clear: Rgba = [0, 0, 0, 0];
const spare = ['#d98a2b', '#3d7a6c', '#c5523a', '#4a7d94', '#8a7f70', '#6a5a8c'];
/** Height of a cluster's symbol in CSS pixels for a count of members. */
export const sizeOf = (count: number) => 34 + Math.min(26, 9 * Math.log10(count));

let compact: Intl.NumberFormat | undefined;

function countText(count: number): string {
  if (count < 1000) return String(count);
  compact ??= new Intl.NumberFormat('en', { notation: 'compact', maximumFractionDigits: 1 });
  return compact.format(count).toLowerCase();
}

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
  readonly shapes: BoxList;
  /** Boxes of the text atlas. */
  readonly texts: BoxList;
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
}

/** Hexagons that are kept; beyond, all are made anew. */
const mostKept = 4096;

/** Writes the boxes of symbols. A hexagon is some thirty boxes: they are worked out once for clusters that look the same. */
export class SymbolWriter {
  private readonly hexagons = new Map<string, BoxList>();
  private readonly single = new BoxList(1);
  /** The texts of counts, as an atlas of an age has them. */
  private readonly counts = new Map<number, TextRun>();
  private atlas: TextAtlas | undefined;
  private age = 0;

  /** Forgets how clusters look, after the sheet has changed. */
  forget(): void {
    this.hexagons.clear();
  }

  write(symbols: readonly ClusterSymbol[], target: SymbolTarget): void {
    const { shapes, texts, atlas, ratio } = target;
    for (const symbol of symbols) {
      const { node, layer: own, x, y, size, opacity, look, isElement } = symbol;
      if (isElement) continue;
      const row = look?.shown.row ?? symbol.row;
      const layer = look?.layer ?? own;
      if (row) {
        const o = layer.parts.mark * 4;
        const [color, rim] = [row.subarray(o, o + 4), row.subarray(o + 12, o + 16)] as unknown as number[][];
        const mark = { sprite: row[o + 11], x: 0, y: 0, width: size, height: size, color, rim };
        putShape(this.single.clear(), { ...mark, rimWidth: row[o + 16], rotation: row[o + 10] }, ratio);
        shapes.putAll(this.single, x, y, opacity);
        if (look) writeLabel(texts, look.shown, { x, y, opacity, atlas, ratio });
        continue;
      }
      shapes.putAll(this.hexagon(symbol, target), x, y, opacity);
      const run = this.countRun(node.count, atlas);
      const { box, uv } = atlas.draw(run, boldLettering);
      const height = Math.min(14, (size * 0.5) / Math.max(1.3, run.width));
      texts.put([x, y, (box[0] * height) / 2, (box[1] * height) / 2], uv, thinned(ink, opacity), clear, [
        0,
        textFieldPerPixel(height) / ratio,
        0,
      ]);
    }
  }

  /** The text of a count. To write it out takes longer than all else about a cluster that has been seen before. */
  private countRun(count: number, atlas: TextAtlas): TextRun {
    // A lost graphics context takes its atlas along.
    if (atlas !== this.atlas || atlas.age !== this.age || this.counts.size >= mostKept) this.counts.clear();
    this.atlas = atlas;
    this.age = atlas.age;
    let run = this.counts.get(count);
    if (!run) this.counts.set(count, (run = atlas.run(countText(count), boldLettering)));
    return run;
  }

  /** The boxes of a hexagon round 0, 0. */
  private hexagon(symbol: ClusterSymbol, { ratio, sprite }: SymbolTarget): BoxList {
    const { node, layer, size } = symbol;
    const key = `${layer.id}/${size}/${ratio}/${node.shares?.join() ?? ''}`;
    const known = this.hexagons.get(key);
    if (known) return known;
    if (this.hexagons.size >= mostKept) this.hexagons.clear();
    const made = new BoxList(40);
    const at = { sprite: sprite('hexagon'), x: 0, y: 0 };
    putShape(made, { ...at, width: size, height: size, color: ink }, ratio);
    const side = { sprite: sprite('square'), height: (4.4 * 24) / 18 };
    for (const piece of rimPieces(symbol)) putShape(made, { ...side, ...piece }, ratio);
    const inner = size * 0.72;
    putShape(made, { ...at, width: inner, height: inner, color: slate, rim: ink, rimWidth: 1.2 }, ratio);
    this.hexagons.set(key, made);
    return made;
  }
}

/** A colour of so much opacity. */
const thinned = (color: readonly number[], opacity: number) =>
  opacity === 1 ? color : color.map((part) => part * opacity);

function putShape(
  boxes: BoxList,
  { x, y, width, height, color, rim = clear, rimWidth = 0, rotation = 0, sprite }: Shape,
  ratio: number,
): void {
  const { uv, cellPerSize, fieldPerPixel } = spriteBox(sprite);
  const field = fieldPerPixel / Math.min(width, height);
  boxes.put([x, y, (width * cellPerSize) / 2, (height * cellPerSize) / 2], uv, color, rim, [
    rimWidth * field,
    field / ratio,
    rotation,
  ]);
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
    thinned(label.color[0], opacity),
    thinned(label.halo, opacity),
    [Math.min(0.46, haloWidth * field), field / ratio, 0],
  );
}

/** The rim of a cluster: pieces of its six sides, coloured by the shares of the categories, clockwise from the top, round 0, 0. */
function rimPieces({ node: { shares }, categories, layer, size }: ClusterSymbol) {
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
      x: ax + (bx - ax) * t,
      y: ay + (by - ay) * t,
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
