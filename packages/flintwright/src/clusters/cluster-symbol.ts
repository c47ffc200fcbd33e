import type { ClusterNode, CompiledLayer, SheetScale } from '@flintwright/core';
import type { Rgba } from '@flintwright/core/internal';
import { findColor } from '@flintwright/core/internal/values';
import { findScheme } from '../base/late-reading.js';
import { spriteBox } from '../gl/atlas.js';
import { boldLettering, textFieldPerPixel, type TextRun } from '../gl/lettering.js';
import type { TextAtlas } from '../gl/text-atlas.js';
import { BoxList } from '../gl/boxes.js';
import type { ClusterFigure, ClusterFigures } from '../gl/cluster-brush.js';
import type { ClusterLook } from './cluster-look.js';

/** Colors of a cluster on light and on dark maps. */
const light = { core: findColor('#f7f5ef')!, ink: findColor('#22303a')!, outline: findColor('#22303a')! };
const dark = { core: findColor('#22303a')!, ink: findColor('#f7f5ef')!, outline: findColor('#0d141a')! };
const clear: Rgba = [0, 0, 0, 0];
const spare = ['#d98a2b', '#3d7a6c', '#c5523a', '#4a7d94', '#8a7f70', '#6a5a8c'];
/** Height of a cluster's symbol in CSS pixels for a count of members. */
export const sizeOf = (count: number) => 26 + Math.min(18, 6 * Math.log10(count));
/** Width of its rim. */
const rimOf = (size: number) => 1.6 + size * 0.07;

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
  /** Clusters that the sheet does not have look otherwise. */
  readonly figures: ClusterFigures;
  /** Whether the map is dark. */
  readonly isDark: boolean;
  /** Boxes of the text atlas. */
  readonly texts: BoxList;
  readonly atlas: TextAtlas;
  /** Device pixels in a CSS pixel. */
  readonly ratio: number;
}

/** One box of the sprite atlas: its middle and sides in pixels, colors multiplied by alpha, degrees clockwise. */
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

/** Texts of counts that are kept; beyond, all are made again. */
const mostKept = 4096;

/** Writes the symbols of clusters and of the points among them. */
export class SymbolWriter {
  /** Colors of the categories of each layer. */
  private readonly colors = new Map<CompiledLayer, readonly Rgba[]>();
  private readonly single = new BoxList(1);
  /** The texts of counts, as an atlas of an age has them. */
  private readonly counts = new Map<number, TextRun>();
  private atlas: TextAtlas | undefined;
  private age = 0;

  /** Forgets how clusters look, after the sheet has changed. */
  forget(): void {
    this.colors.clear();
  }

  write(symbols: readonly ClusterSymbol[], target: SymbolTarget): void {
    const { shapes, texts, atlas, ratio, figures, isDark } = target;
    const { core, ink, outline } = isDark ? dark : light;
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
      figures.put({ x, y, height: size, opacity, core, outline, rimWidth: rimOf(size), shares: this.sharesOf(symbol) });
      const run = this.countRun(node.count, atlas);
      const { box, uv } = atlas.draw(run, boldLettering);
      const height = Math.min(13, (size * 0.54) / Math.max(1.3, run.width));
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

  /** Colors and amounts of what a cluster holds. */
  private sharesOf({ node: { shares }, categories, layer }: ClusterSymbol): ClusterFigure['shares'] {
    let colors = this.colors.get(layer);
    if (!colors) this.colors.set(layer, (colors = categoryColors(categories, layer)));
    const last = colors[colors.length - 1];
    const found = shares?.map((amount, i) => ({ color: colors[i] ?? last, amount })).filter(({ amount }) => amount > 0);
    return found?.length ? found : [{ color: findColor(spare[0])!, amount: 1 }];
  }
}

/** A color of so much opacity. */
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

/** The colors that a layer gives the categories through its own scale, and that of what is in none. */
function categoryColors(categories: readonly string[], { source, rules }: CompiledLayer): Rgba[] {
  const scale = source.mark?.color as SheetScale<string> | undefined;
  const compiled = rules[0]?.symbols.mark?.color;
  const named = categories.map((category, i) => {
    const raw = Array.isArray(scale?.categories)
      ? findScheme(scale.scheme ?? '', categories.length)?.[i]
      : (scale?.categories as Record<string, string> | undefined)?.[category];
    return (raw !== undefined && findColor(raw)) || findColor(spare[i % spare.length])!;
  });
  return [...named, compiled?.constant ?? findColor('#98a1a5')!];
}
