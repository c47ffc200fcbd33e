// The types of a sheet's values, scales and symbols.

/** Keys that a form of something does not have, so that the compiler tells the forms apart. */
export type Without<Key extends string> = { readonly [K in Key]?: undefined };

/** Keys of every scale. */
export interface SheetScaleBase<T> {
  /** The input of the scale: a CQL2 expression, or `zoom`. */
  readonly by: string;
  /** Value for missing values and those that match nothing. */
  readonly other?: T;
  /** Title of the scale, for the legend. */
  readonly title?: string;
  /** Unit of the numbers, for the legend. */
  readonly unit?: string;
  /** Names of the categories in the legend. */
  readonly names?: Readonly<Record<string, string>>;
}

/** A value that runs with a number. */
export interface SheetRampScale<T> extends SheetScaleBase<T>, Without<'classes' | 'categories' | 'scheme'> {
  /** Stops `[number, value]` in increasing order; values in between are interpolated. */
  readonly ramp: readonly (readonly [number, T])[];
  /** Exponent of the interpolation between stops; default 1, linear. */
  readonly ease?: number;
  /** Color space of the interpolation; default lab, which is perceptual. */
  readonly space?: ColourSpace;
}

/** A value for each class of a number. */
export interface SheetClassesScale<T>
  extends SheetScaleBase<T>, Without<'ramp' | 'categories' | 'scheme' | 'ease' | 'space'> {
  /** Classes of a number, with limits that are given or computed from the data. */
  readonly classes: SheetClasses<T>;
}

/** A value for each category. */
export interface SheetCategoriesScale<T> extends SheetScaleBase<T>, Without<'ramp' | 'classes' | 'ease' | 'space'> {
  /** A value for each category; or a list of categories, colored by `scheme`. */
  readonly categories: Readonly<Record<string, T>> | readonly string[];
  /** Color scheme for a list of `categories`. */
  readonly scheme?: string;
}

/** A value that goes by something: one of three forms. */
export type SheetScale<T> = SheetRampScale<T> | SheetClassesScale<T> | SheetCategoriesScale<T>;

export interface SheetClasses<T> {
  /** Class limits in increasing order; n limits make n + 1 classes. */
  readonly breaks?: readonly number[];
  /** Method that computes the limits from the data: equal width, quantiles, or natural breaks (Fisher 1958, Jenks 1977); only for features, not for tiles. */
  readonly method?: ClassMethod;
  /** Number of classes to compute; default 5. */
  readonly count?: number;
  /** Name of a color scheme. */
  readonly scheme?: string;
  /** One value for each class. */
  readonly values?: readonly T[];
  /** Minimum and maximum, shown at the ends of the legend; default those of the data with `method`, and none with `breaks`. */
  readonly extent?: readonly [number, number];
}

/** How class limits are found: of equal width, of equal number, or by natural breaks. */
export type ClassMethod = 'equal' | 'quantile' | 'natural';

export type ColourSpace = 'lab' | 'rgb' | 'hcl';

export type SheetValue<T> = T | SheetScale<T> | { readonly is: string };

export interface SheetFill {
  /** Default #888888. */
  readonly color?: SheetValue<string>;
  /** Opacity: 0 transparent to 1 opaque; default 1. */
  readonly opacity?: SheetValue<number>;
  /** Lines over the fill. */
  readonly hatch?: SheetHatch;
  /** Icons repeated over the fill. */
  readonly pattern?: SheetPattern;
}

export interface SheetHatch {
  /** Default the fill's color. */
  readonly color?: SheetValue<string>;
  /** Degrees clockwise from the horizontal; default 45. */
  readonly angle?: number;
  /** Spacing of the lines in CSS pixels; default 8. */
  readonly gap?: number;
  /** CSS pixels; default 1.5. */
  readonly width?: number;
  /** Whether a second set of lines crosses the first; default false. */
  readonly cross?: boolean;
}

export interface SheetPattern {
  /** Name of an icon or shape. */
  readonly icon: SheetValue<string>;
  /** Default #444444. */
  readonly color?: SheetValue<string>;
  /** CSS pixels; default 12. */
  readonly size?: number;
  /** Spacing in CSS pixels; default 24. */
  readonly gap?: number;
  /** Whether every other row is shifted by half the spacing; default true. */
  readonly stagger?: boolean;
  /** Whether icons that the edge of the area would cut are left out; default false. */
  readonly whole?: boolean;
}

/** Colors over a stretch from 0 to 1. */
export type SheetRamp = readonly (readonly [number, string])[];

export interface SheetStroke {
  /** Identifies the stroke in a list, for changes at run time. */
  readonly name?: string;
  /** Default #444444. */
  readonly color?: SheetValue<string>;
  /** Default 1. */
  readonly width?: SheetValue<number | string>;
  /** Opacity: 0 transparent to 1 opaque; default 1. */
  readonly opacity?: SheetValue<number>;
  /** Offset in CSS pixels to the right of the line's direction; default 0. */
  readonly offset?: SheetValue<number>;
  /** Lengths of dashes and gaps, alternating, in CSS pixels at integer zoom levels. */
  readonly dash?: readonly number[];
  /** Stroke-linecap; default round. */
  readonly cap?: 'butt' | 'round' | 'square';
  /** Stroke-linejoin; default round. */
  readonly join?: 'miter' | 'round' | 'bevel';
  /** Colors along the line; only for features, not for tiles. */
  readonly gradient?: { readonly ramp: SheetRamp; readonly space?: ColourSpace };
  /** Marks along the line in place of a plain stroke. */
  readonly marks?: { readonly icon: string; readonly gap?: number };
}

export interface SheetHalo {
  /** A constant, a scale (`by` with `ramp`, `classes` or `categories`) or an expression (`is`) */
  readonly color: SheetValue<string>;
  /** CSS pixels. */
  readonly width?: number;
}

export interface SheetMark {
  /** Circle, square, diamond, triangle, hexagon, cross or star; default circle. */
  readonly shape?: SheetValue<string>;
  /** Name of an icon, in place of a shape. */
  readonly icon?: SheetValue<string>;
  /** Height in CSS pixels; default 8. */
  readonly size?: SheetValue<number>;
  /** Default #444444. */
  readonly color?: SheetValue<string>;
  /** Opacity: 0 transparent to 1 opaque; default 1. */
  readonly opacity?: SheetValue<number>;
  /** Rim around the symbol. */
  readonly outline?: SheetHalo;
  /** Degrees clockwise; default 0. */
  readonly rotation?: SheetValue<number>;
}

export interface SheetLabel {
  /** Its text. */
  readonly text: SheetValue<string>;
  /** CSS pixels; default 13. */
  readonly size?: SheetValue<number>;
  /** Default #22303a. */
  readonly color?: SheetValue<string>;
  /** Opacity: 0 transparent to 1 opaque; default 1. */
  readonly opacity?: SheetValue<number>;
  /** Halo around the text. */
  readonly halo?: SheetHalo;
  /** CSS font family; default the system's sans-serif. */
  readonly font?: string;
  /** Default 500. */
  readonly weight?: number;
  /** Upright or slanted; default normal. */
  readonly style?: 'normal' | 'italic';
  /** Extra space between letters in em; default 0. */
  readonly spacing?: number;
  /** Capital letters. */
  readonly upper?: boolean;
  /** Position of the text relative to its point, or a list of positions to try in order; default centered on the point, and for a layer with a mark all sides of it, above-right first. */
  readonly side?: SheetSide | readonly SheetSide[];
  /** Distance in CSS pixels from the edge of the layer's mark, or from the point if there is no mark; default 4. */
  readonly distance?: number;
  /** Alignment of several lines of text; default by the position. */
  readonly align?: 'left' | 'center' | 'right';
  /** A symbol before the text, which is placed and left out with it. */
  readonly icon?: {
    readonly name: SheetValue<string>;
    readonly size?: number;
    readonly color?: SheetValue<string>;
    readonly gap?: number;
  };
  /** Maximum length of a line in em; default 9. */
  readonly wrap?: number;
  /** Spacing of repeated labels along a line in CSS pixels; default 400. */
  readonly repeat?: number;
  /** Whether the text follows a line, or the curve of an area; default false. */
  readonly along?: boolean;
  /** Labels of higher priority are placed first; default 0; of equal ones, those of later layers. */
  readonly priority?: SheetValue<number>;
}

/** Where a label stands about its place, in the words of cartography. */
export type SheetSide =
  | 'right'
  | 'above-right'
  | 'above'
  | 'above-left'
  | 'left'
  | 'below-left'
  | 'below'
  | 'below-right'
  | 'on';

export interface SheetImage {
  /** Opacity: 0 transparent to 1 opaque; default 1; may depend on the zoom only. */
  readonly opacity?: SheetValue<number>;
  /** Saturation: 0 gray, 1 unchanged (default), 2 doubled. */
  readonly saturation?: number;
  /** Contrast: 0 flat gray, 1 unchanged (default), 2 doubled. */
  readonly contrast?: number;
  /** Tint that follows the brightness of the picture. */
  readonly tint?: { readonly color: SheetValue<string>; readonly share?: number };
}

export interface SheetHeat {
  /** Weight of a point; default 1. */
  readonly weight?: SheetValue<number>;
  /** Radius of a point in CSS pixels; default 24. */
  readonly radius?: SheetValue<number | string>;
  /** Opacity: 0 transparent to 1 opaque; default 0.85; may depend on the zoom only. */
  readonly opacity?: SheetValue<number>;
  /** Stops `[density, color]`, from 0 (none) to 1 (densest) */
  readonly ramp?: SheetRamp;
  /** Color scheme in place of a ramp; default YlOrBr. */
  readonly scheme?: string;
  /** Sum of weights within the radius at which the ramp ends; default the 99.5th percentile of the densities in view. */
  readonly max?: number;
}

export interface SheetExtrusion {
  /** Default #b9b6aa. */
  readonly color?: SheetValue<string>;
  /** Opacity: 0 transparent to 1 opaque; default 1; may depend on the zoom only. */
  readonly opacity?: SheetValue<number>;
  /** Top above the ground, in meters. */
  readonly top: SheetValue<number>;
  /** Bottom above the ground, in meters; default 0. */
  readonly bottom?: SheetValue<number>;
}

export interface SheetSymbols {
  /** A color, or an object. */
  readonly fill?: string | SheetFill;
  /** A color, a stroke, or a list of strokes drawn one over the other. */
  readonly stroke?: string | SheetStroke | readonly SheetStroke[];
  /** A symbol at a point. */
  readonly mark?: SheetMark;
  /** Text at a point, inside a polygon or at the middle of a line. */
  readonly label?: SheetLabel;
  /** Polygons raised from the ground. */
  readonly extrusion?: SheetExtrusion;
}

/** Symbols of which a state or a rule says only what differs. */
export interface PartialSymbols extends Omit<SheetSymbols, 'label' | 'extrusion'> {
  readonly label?: Partial<SheetLabel>;
  readonly extrusion?: Partial<SheetExtrusion>;
}
