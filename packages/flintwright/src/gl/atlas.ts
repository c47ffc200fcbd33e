import type { CompiledSheet } from '@flintwright/core';
import { distanceField } from '@flintwright/core/internal';
import { paintInto, type Icons } from '../base/icons.js';
import { canvas } from './canvas.js';
import type { Device } from './device.js';

const cell = 64;
const cells = 16;
/** Pixels of a cell across the 24 units of a drawing, and the reach of its field. */
const drawn = 44;
const spread = 10;
/** Milliseconds that icons are drawn for, until the page has its turn. */
const slice = 6;

/** Does something when the page has nothing else to do, or soon in any case; where a browser does not tell, in a task of its own. */
const later = (work: () => void): unknown =>
  'requestIdleCallback' in window ? requestIdleCallback(work, { timeout: 250 }) : setTimeout(work);

/**
 * Shapes and icons in a grid of cells, as distance fields in alpha. Beside the field stand the colors of icons that keep their own;
 * nought there means that a symbol's color holds.
 */
export class SpriteAtlas {
  readonly texture: WebGLTexture;
  private readonly painter = canvas(cell, cell);
  /** Icons that have not been drawn yet. */
  private readonly waiting: Set<string>;
  /** Those of them that are to be drawn. */
  private readonly due = new Set<string>();
  /** Whether data may name any of them. */
  private all = false;
  private filling = false;
  private sheet: CompiledSheet | undefined;
  /** How many names the application had asked for. */
  private asked = 0;

  constructor(
    private readonly device: Device,
    private readonly icons: Icons,
  ) {
    this.texture = device.smoothTexture(device.gl.RGBA8, cell * cells, cell * cells);
    this.waiting = new Set(icons.numbered);
  }

  /** Whether icons are being drawn, and not all are there yet. */
  get isFilling(): boolean {
    return this.filling;
  }

  /**
   * Sees to it that the icons are drawn that a sheet or the application names, and all others where data name some.
   *
   * @param sheet in force
   * @param now whether the named ones are wanted in this frame; otherwise they, too, are drawn in the pauses after
   * @param filled told when all are there
   */
  take(sheet: CompiledSheet, now: boolean, filled: () => void): void {
    const { waiting, due, icons } = this;
    if (!waiting.size) return;
    if (this.asked !== icons.asked.size) {
      this.asked = icons.asked.size;
      for (const name of waiting) if (icons.asked.has(name)) due.add(name);
    }
    if (this.sheet !== sheet) {
      this.sheet = sheet;
      const text = JSON.stringify(sheet.sheet.layers);
      // Marks are circles where nothing else is said. Expressions write names in quotes of their own.
      for (const name of waiting)
        if (name === 'circle' || text.includes(`"${name}"`) || text.includes(`'${name}'`)) due.add(name);
      this.all ||= /"(icon|shape|name)":\{"is"/.test(text);
    }
    if (now) for (const name of due) this.put(name);
    if (this.filling || !(due.size || this.all)) return;
    this.filling = true;
    later(() => this.fill(filled));
  }

  private fill(filled: () => void): void {
    const names = this.all ? this.waiting : this.due;
    const until = performance.now() + slice;
    for (const name of names) {
      this.put(name);
      if (performance.now() > until) break;
    }
    this.filling = names.size > 0;
    if (this.filling) later(() => this.fill(filled));
    else filled();
  }

  /** Draws an icon into its cell, as it is now. */
  put(name: string): void {
    const { icons, painter } = this;
    this.waiting.delete(name);
    this.due.delete(name);
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
    if (picture && !picture.tinted) takeColors(data, texels);
    const field = distanceField(coverage, cell, cell, spread);
    for (let k = 0; k < field.length; k++) texels[4 * k + 3] = field[k];
    const { gl } = this.device;
    gl.bindTexture(gl.TEXTURE_2D, this.texture);
    const [x, y] = [(index % cells) * cell, Math.floor(index / cells) * cell];
    gl.texSubImage2D(gl.TEXTURE_2D, 0, x, y, cell, cell, gl.RGBA, gl.UNSIGNED_BYTE, texels);
  }

  remove(): void {
    this.waiting.clear();
    this.due.clear();
    this.device.dropTexture(this.texture);
  }
}

/** Takes the colors of a cell over, and carries them some pixels beyond its edges, so that none fades into nought there. */
function takeColors(data: Uint8ClampedArray, texels: Uint8Array): void {
  let known = new Uint8Array(cell * cell);
  for (let k = 0; k < known.length; k++) {
    if (data[4 * k + 3] < 128) continue;
    known[k] = 1;
    // Nought means "no color of its own", so black becomes nearly black.
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
