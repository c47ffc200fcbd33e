import { distanceField } from '@flintwright/core/internal';
import { canvas } from './canvas.js';
import type { Device } from './device.js';
import { fontOf, loadFonts } from './fonts.js';
import { em, textSpread, type DrawnRun, type TextRun, type TextStyle } from './lettering.js';

/** Where a line may break: after spaces and hyphens, and after a Chinese or Japanese character that no closing mark follows. */
const breaks =
  /(?<=[ \u200b-])|(?<=[\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}])(?![\p{Pe}\p{Pf}、。，．・ー])/u;
/** Characters that decide that a text runs from right to left, and those that may bring colors of their own. */
const rightToLeft = /^[^\p{L}]*[\p{Script=Hebrew}\p{Script=Arabic}\p{Script=Syriac}\p{Script=Thaana}\p{Script=Nko}]/u;
const colorful = /\p{Extended_Pictographic}|\p{Regional_Indicator}/u;

const lineHeight = 1.18;
/** Pixels of the atlas across, and down at first; it grows to a square. */
const side = 2048;
const firstHeight = 512;

/**
 * Texts as distance fields. A run is shaped and drawn by the platform as a whole, so every script comes out as the
 * platform sets it; the field then serves every size and turn.
 */
export class TextAtlas {
  private height = firstHeight;
  private current: WebGLTexture;
  private readonly runs = new Map<string, TextRun>();
  private readonly measurer = canvas(8, 8);
  private readonly painter: CanvasRenderingContext2D;
  /** The font that each was given last. */
  private readonly fonts = new Map<CanvasRenderingContext2D, string>();
  private shelf = { x: 0, y: 0, height: 0 };
  /** Counts how often the atlas was emptied because it was full. */
  age = 0;

  constructor(private readonly device: Device) {
    this.current = device.smoothTexture(device.gl.RGBA8, side, firstHeight);
    this.painter = canvas(1024, 256);
  }

  /** What holds the texts now. */
  get texture(): WebGLTexture {
    return this.current;
  }

  /** Forgets all texts, after fonts have come that they may be set in. */
  clear(): void {
    this.runs.clear();
    this.fonts.clear();
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
    loadFonts(fontOf(style), text);
    const lines: string[] = [];
    const widths: number[] = [];
    const add = (line: string, width: number) => {
      lines.push(line);
      widths.push(width);
    };
    const measure = (line: string) => measurer.measureText(line).width / em;
    for (const paragraph of text.split('\n')) {
      // Most texts go into one line, and are measured once.
      const whole = paragraph.trimEnd();
      const width = measure(whole);
      if (width <= style.wrap) {
        add(whole, width);
        continue;
      }
      let line = '';
      for (const piece of paragraph.split(breaks)) {
        const longer = line + piece;
        if (line && measure(longer.trimEnd()) > style.wrap) {
          add(line.trimEnd(), measure(line.trimEnd()));
          line = piece;
        } else line = longer;
      }
      add(line.trimEnd(), measure(line.trimEnd()));
    }
    run = { lines, widths, width: Math.max(...widths), height: lines.length * lineHeight, key };
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
    if (this.shelf.y + height > this.height && this.height < side) this.grow();
    if (this.shelf.y + height > this.height) {
      for (const other of this.runs.values()) delete other.drawn;
      this.shelf = { x: 0, y: 0, height: 0 };
      this.age++;
    }
    const black = this.paint(run, style, width, height, '#000');
    // Glyphs that bring their own colors look the same whatever the ink.
    const white = run.lines.some((line) => colorful.test(line))
      ? this.paint(run, style, width, height, '#fff')
      : undefined;
    // Four bytes at once; alpha is the uppermost, as on every machine that browsers run on.
    const inked = new Uint32Array(black.buffer);
    const coverage = new Uint8Array(width * height);
    for (let i = 0; i < coverage.length; i++) coverage[i] = inked[i] >>> 24;
    const field = distanceField(coverage, width, height, textSpread);
    const words = new Uint32Array(width * height);
    for (let i = 0; i < field.length; i++) words[i] = field[i] << 24;
    const texels = new Uint8Array(words.buffer);
    if (white) keepColors(black, white, texels);
    const { x, y } = this.shelf;
    gl.bindTexture(gl.TEXTURE_2D, this.texture);
    gl.texSubImage2D(gl.TEXTURE_2D, 0, x, y, width, height, gl.RGBA, gl.UNSIGNED_BYTE, texels);
    this.shelf.x += width;
    this.shelf.height = Math.max(this.shelf.height, height);
    // Less its outermost texels: on the very edge those of a neighbor, or of what stood there before, would be mixed in.
    const [across, down] = [1, 0.5];
    return (run.drawn = {
      uv: [(x + across) / side, (y + down) / side, (x + width - across) / side, (y + height - down) / side],
      box: [(width - 2 * across) / em, (height - 2 * down) / em],
    });
  }

  /** Makes the atlas twice as high; what is drawn in it stays where it is. */
  private grow(): void {
    const { device, current, height } = this;
    const { gl } = device;
    this.current = device.smoothTexture(gl.RGBA8, side, (this.height = 2 * height));
    const from = gl.createFramebuffer();
    gl.bindFramebuffer(gl.READ_FRAMEBUFFER, from);
    gl.framebufferTexture2D(gl.READ_FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.TEXTURE_2D, current, 0);
    gl.copyTexSubImage2D(gl.TEXTURE_2D, 0, 0, 0, 0, 0, side, height);
    gl.bindFramebuffer(gl.READ_FRAMEBUFFER, null);
    gl.deleteFramebuffer(from);
    device.dropTexture(current);
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
      const free = width - 2 * textSpread - run.widths[i] * em;
      const x = textSpread + (style.align === 'left' ? 0 : style.align === 'right' ? free : free / 2);
      painter.fillText(line, x, textSpread + (i * lineHeight + 0.9) * em);
    });
    return painter.getImageData(0, 0, width, height).data;
  }

  private set(context: CanvasRenderingContext2D, style: TextStyle): void {
    // Browsers read a font anew whenever it is set.
    const wanted = `${fontOf(style)}|${style.spacing}`;
    if (this.fonts.get(context) === wanted) return;
    this.fonts.set(context, wanted);
    context.font = fontOf(style);
    context.letterSpacing = `${style.spacing * em}px`;
  }

  remove(): void {
    this.device.dropTexture(this.current);
  }
}

/** Keeps the colors of pixels that look the same in black and in white ink. */
function keepColors(black: Uint8ClampedArray, white: Uint8ClampedArray, texels: Uint8Array): void {
  for (let i = 0; i < texels.length; i += 4) {
    if (!black[i + 3] || white[i] - black[i] + white[i + 1] - black[i + 1] > 200) continue;
    // Nought means "no color of its own", so black becomes nearly black.
    for (let c = i; c < i + 3; c++) texels[c] = Math.max(8, black[c]);
  }
}
