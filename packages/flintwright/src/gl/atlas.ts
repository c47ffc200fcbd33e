import type { CompiledSheet } from '@flintwright/core';
import { distanceField } from '@flintwright/core/internal';
import { paintInto, type Icons } from '../base/icons.js';
import type { Device } from './device.js';

const cell = 64;
const cells = 16;
/** Pixels of a cell across the 24 units of a drawing, and the reach of its field. */
const drawn = 44;
const spread = 10;
/** Milliseconds that icons are drawn for, until the page has its turn. */
const slice = 6;

function canvas(width: number, height: number): CanvasRenderingContext2D {
  const element = document.createElement('canvas');
  element.width = width;
  element.height = height;
  return element.getContext('2d', { willReadFrequently: true })!;
}

/**
 * Shapes and icons in a grid of cells, as distance fields in alpha. Beside the field stand the colours of icons that keep their own;
 * nought there means that a symbol's colour holds.
 */
export class SpriteAtlas {
  readonly texture: WebGLTexture;
  private readonly painter = canvas(cell, cell);
  /** Icons that have not been drawn yet. */
  private readonly waiting: Set<string>;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private sheet: CompiledSheet | undefined;

  constructor(
    private readonly device: Device,
    private readonly icons: Icons,
  ) {
    this.texture = device.smoothTexture(device.gl.RGBA8, cell * cells, cell * cells);
    this.waiting = new Set(icons.numbered);
  }

  /** Whether icons are being drawn, and not all are there yet. */
  get isFilling(): boolean {
    return this.timer !== undefined && this.waiting.size > 0;
  }

  /**
   * Draws the icons that a sheet names at once, and all others in the pauses after, as data may name any of them.
   *
   * @param filled told when all are there
   */
  take(sheet: CompiledSheet, filled: () => void): void {
    if (!this.waiting.size) return;
    if (this.sheet !== sheet) {
      this.sheet = sheet;
      const text = JSON.stringify(sheet.sheet.layers);
      // Marks are circles where nothing else is said.
      for (const name of this.waiting) if (name === 'circle' || text.includes(`"${name}"`)) this.put(name);
    }
    this.timer ??= setTimeout(() => this.fill(filled));
  }

  private fill(filled: () => void): void {
    const until = performance.now() + slice;
    for (const name of this.waiting) {
      this.put(name);
      if (performance.now() > until) break;
    }
    if (this.waiting.size) this.timer = setTimeout(() => this.fill(filled));
    else filled();
  }

  /** Draws an icon into its cell, as it is now. */
  put(name: string): void {
    const { icons, painter } = this;
    this.waiting.delete(name);
    const index = icons.number(name);
    if (index === undefined) return;
    const picture = icons.pictures.get(name);
    painter.clearRect(0, 0, cell, cell);
    if (picture) {
      painter.setTransform(1, 0, 0, 1, (cell - drawn) / 2, (cell - drawn) / 2);
      paintInto(painter, picture, drawn);
    } else {
      painter.setTransform(drawn / 24, 0, 0, drawn / 24, (cell - drawn) / 2, (cell - drawn) / 2);
      painter.fill(new Path2D(icons.paths[name]), 'evenodd');
    }
    painter.setTransform(1, 0, 0, 1, 0, 0);
    const { data } = painter.getImageData(0, 0, cell, cell);
    const coverage = new Uint8Array(cell * cell);
    for (let k = 0; k < coverage.length; k++) coverage[k] = data[4 * k + 3];
    const texels = new Uint8Array(4 * cell * cell);
    if (picture && !picture.tinted) takeColours(data, texels);
    const field = distanceField(coverage, cell, cell, spread);
    for (let k = 0; k < field.length; k++) texels[4 * k + 3] = field[k];
    const { gl } = this.device;
    gl.bindTexture(gl.TEXTURE_2D, this.texture);
    const [x, y] = [(index % cells) * cell, Math.floor(index / cells) * cell];
    gl.texSubImage2D(gl.TEXTURE_2D, 0, x, y, cell, cell, gl.RGBA, gl.UNSIGNED_BYTE, texels);
  }

  remove(): void {
    clearTimeout(this.timer);
    this.device.dropTexture(this.texture);
  }
}

/** Takes the colours of a cell over, and carries them some pixels beyond its edges, so that none fades into nought there. */
function takeColours(data: Uint8ClampedArray, texels: Uint8Array): void {
  let known = new Uint8Array(cell * cell);
  for (let k = 0; k < known.length; k++) {
    if (data[4 * k + 3] < 128) continue;
    known[k] = 1;
    // Nought means "no colour of its own", so black becomes nearly black.
    for (let c = 0; c < 3; c++) texels[4 * k + c] = Math.max(8, data[4 * k + c]);
  }
  for (let step = 0; step < 4; step++) {
    const next = known.slice();
    for (let k = 0; k < known.length; k++) {
      if (known[k]) continue;
      const from = [k - 1, k + 1, k - cell, k + cell].find((n) => known[n]);
      if (from === undefined) continue;
      texels.copyWithin(4 * k, 4 * from, 4 * from + 3);
      next[k] = 1;
    }
    known = next;
  }
}

/** Where the field of a sprite lies in its atlas (0 to 1), and how its pixels relate to the field. */
export function spriteBox(index: number): {
  uv: readonly [number, number, number, number];
  /** cell side for a symbol one pixel high */ cellPerSize: number;
  fieldPerPixel: number;
} {
  const [c, r] = [index % cells, Math.floor(index / cells)];
  return {
    uv: [c / cells, r / cells, (c + 1) / cells, (r + 1) / cells],
    cellPerSize: cell / drawn,
    fieldPerPixel: drawn / (2 * spread),
  };
}

/** How a run of text is set; two runs alike in all of this share one picture. */
export interface TextStyle {
  readonly font: string;
  readonly weight: number;
  readonly style: 'normal' | 'italic';
  /** em */
  readonly spacing: number;
  /** Longest line in em. */
  readonly wrap: number;
  readonly align: 'left' | 'center' | 'right';
}

/** A text set once: its size in em, and its place in the atlas once it has been drawn. */
export interface TextRun {
  readonly lines: readonly string[];
  readonly width: number;
  readonly height: number;
  readonly key: string;
  drawn?: DrawnRun;
}

/** Where a text stands in the atlas. */
export interface DrawnRun {
  /** Left, top, right and bottom, as shares of the atlas. */
  readonly uv: readonly [number, number, number, number];
  /** Size of the drawn box in em, its margin for the halo included. */
  readonly box: readonly [number, number];
}

/** Bold letters for counts and markers, in the font of the interface. */
export const boldLettering: TextStyle = {
  font: '"Noto Sans", system-ui, sans-serif',
  weight: 700,
  style: 'normal',
  spacing: 0,
  wrap: 99,
  align: 'center',
};

/** Where a line may break: after spaces and hyphens, and after a Chinese or Japanese character that no closing mark follows. */
const breaks =
  /(?<=[ \u200b-])|(?<=[\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}])(?![\p{Pe}\p{Pf}、。，．・ー])/u;
/** Characters that decide that a text runs from right to left, and those that may bring colours of their own. */
const rightToLeft = /^[^\p{L}]*[\p{Script=Hebrew}\p{Script=Arabic}\p{Script=Syriac}\p{Script=Thaana}\p{Script=Nko}]/u;
const colourful = /\p{Extended_Pictographic}|\p{Regional_Indicator}/u;

/** Pixels to an em in the atlas. */
const em = 32;
const textSpread = 8;
const lineHeight = 1.18;
const side = 2048;

/**
 * Texts as distance fields. A run is shaped and drawn by the platform as a whole, so every script comes out as the
 * platform sets it; the field then serves every size and turn.
 */
export class TextAtlas {
  readonly texture: WebGLTexture;
  private readonly runs = new Map<string, TextRun>();
  private readonly measurer = canvas(8, 8);
  private readonly painter: CanvasRenderingContext2D;
  private shelf = { x: 0, y: 0, height: 0 };
  /** Counts how often the atlas was emptied because it was full. */
  age = 0;

  constructor(private readonly device: Device) {
    this.texture = device.smoothTexture(device.gl.RGBA8, side, side);
    this.painter = canvas(1024, 256);
  }

  /** Forgets all texts, after fonts have come that they may be set in. */
  clear(): void {
    this.runs.clear();
    this.shelf = { x: 0, y: 0, height: 0 };
    this.age++;
  }

  /** Breaks a text into lines and measures it. */
  run(text: string, style: TextStyle): TextRun {
    const key = `${style.weight}|${style.style}|${style.spacing}|${style.wrap}|${style.align}|${style.font}|${text}`;
    let run = this.runs.get(key);
    if (run) return run;
    const { measurer } = this;
    this.set(measurer, style);
    bring(measurer.font, text);
    const measure = (line: string) => measurer.measureText(line).width / em;
    const lines: string[] = [];
    for (const paragraph of text.split('\n')) {
      let line = '';
      for (const piece of paragraph.split(breaks)) {
        const longer = line + piece;
        if (line && measure(longer.trimEnd()) > style.wrap) {
          lines.push(line.trimEnd());
          line = piece;
        } else line = longer;
      }
      lines.push(line.trimEnd());
    }
    run = { lines, width: Math.max(...lines.map(measure)), height: lines.length * lineHeight, key };
    this.runs.set(key, run);
    return run;
  }

  /** Where a run stands in the atlas; it is drawn there first, if need be. */
  draw(run: TextRun, style: TextStyle): DrawnRun {
    if (run.drawn) return run.drawn;
    const { gl } = this.device;
    const width = Math.min(1024, Math.ceil(run.width * em) + 2 * textSpread + 4);
    const height = Math.min(256, Math.ceil(run.height * em) + 2 * textSpread);
    if (this.shelf.x + width > side) this.shelf = { x: 0, y: this.shelf.y + this.shelf.height, height: 0 };
    if (this.shelf.y + height > side) {
      for (const other of this.runs.values()) delete other.drawn;
      this.shelf = { x: 0, y: 0, height: 0 };
      this.age++;
    }
    const black = this.paint(run, style, width, height, '#000');
    // Glyphs that bring their own colours look the same whatever the ink.
    const white = run.lines.some((line) => colourful.test(line))
      ? this.paint(run, style, width, height, '#fff')
      : undefined;
    const coverage = new Uint8Array(width * height);
    for (let i = 0; i < coverage.length; i++) coverage[i] = black[4 * i + 3];
    const field = distanceField(coverage, width, height, textSpread);
    const texels = new Uint8Array(4 * width * height);
    for (let i = 0; i < field.length; i++) {
      texels[4 * i + 3] = field[i];
      if (!white || !coverage[i]) continue;
      const inked = white[4 * i] - black[4 * i] + white[4 * i + 1] - black[4 * i + 1] > 200;
      // Nought means "no colour of its own", so black becomes nearly black.
      if (!inked) for (let c = 0; c < 3; c++) texels[4 * i + c] = Math.max(8, black[4 * i + c]);
    }
    const { x, y } = this.shelf;
    gl.bindTexture(gl.TEXTURE_2D, this.texture);
    gl.texSubImage2D(gl.TEXTURE_2D, 0, x, y, width, height, gl.RGBA, gl.UNSIGNED_BYTE, texels);
    this.shelf.x += width;
    this.shelf.height = Math.max(this.shelf.height, height);
    // Less its outermost texels: on the very edge those of a neighbour, or of what stood there before, would be mixed in.
    const [across, down] = [1, 0.5];
    return (run.drawn = {
      uv: [(x + across) / side, (y + down) / side, (x + width - across) / side, (y + height - down) / side],
      box: [(width - 2 * across) / em, (height - 2 * down) / em],
    });
  }

  /** Draws the lines of a run in some ink and gives back the pixels. */
  private paint(run: TextRun, style: TextStyle, width: number, height: number, ink: string): Uint8ClampedArray {
    const { painter } = this;
    painter.clearRect(0, 0, width, height);
    this.set(painter, style);
    painter.textAlign = 'left';
    painter.textBaseline = 'alphabetic';
    painter.fillStyle = ink;
    run.lines.forEach((line, i) => {
      painter.direction = rightToLeft.test(line) ? 'rtl' : 'ltr';
      const free = width - 2 * textSpread - painter.measureText(line).width;
      const x = textSpread + (style.align === 'left' ? 0 : style.align === 'right' ? free : free / 2);
      painter.fillText(line, x, textSpread + (i * lineHeight + 0.9) * em);
    });
    return painter.getImageData(0, 0, width, height).data;
  }

  private set(context: CanvasRenderingContext2D, style: TextStyle): void {
    context.font = fontOf(style);
    context.letterSpacing = `${style.spacing * em}px`;
  }

  remove(): void {
    this.device.dropTexture(this.texture);
  }
}

/** The font of a text, as CSS has it. */
const fontOf = ({ style, weight, font }: Pick<TextStyle, 'style' | 'weight' | 'font'>) =>
  `${style === 'italic' ? 'italic ' : ''}${weight} ${em}px ${font}`;

/** Has the fonts of the page brought that the labels of a sheet are set in at a zoom, so that they come beside the data. */
export function bringFonts({ layers }: CompiledSheet, zoom: number): void {
  const isSeen = ([from, to]: readonly [number, number]) => zoom >= from && zoom < to;
  for (const layer of layers) {
    if (!layer.hasLabel || !layer.visible || !isSeen(layer.zoom)) continue;
    for (const { symbols, zoom: zooms } of layer.rules)
      // Whatever it is written in, most of it has letters and figures like these.
      if (symbols.label && isSeen(zooms)) bring(fontOf(symbols.label), 'A1');
  }
}

/** Has the fonts of the page brought that a text is set in and that are not there yet. */
function bring(font: string, text: string): void {
  const { fonts } = document;
  // A font that cannot be had is told of by the browser; the text stands in another.
  if (fonts.size && !fonts.check(font, text)) fonts.load(font, text).catch(() => {});
}

/** Field units in one pixel for text of a size in pixels. */
export const textFieldPerPixel = (size: number) => em / size / (2 * textSpread);
