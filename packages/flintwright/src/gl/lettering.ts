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
  /** Width of each line in em. */
  readonly widths: readonly number[];
  readonly width: number;
  readonly height: number;
  readonly key: string;
  drawn?: DrawnRun;
}

/** Where a text stands in the atlas. */
export interface DrawnRun {
  /** Left, top, right and bottom, as shares of the atlas's width. */
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

/** Pixels to an em in the atlas of texts, and the reach of their fields. */
export const em = 32;
export const textSpread = 8;

/** Field units in one pixel for text of a size in pixels. */
export const textFieldPerPixel = (size: number) => em / size / (2 * textSpread);
