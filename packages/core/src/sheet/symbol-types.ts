// The types of a sheet's values, scales and symbols.

/** Keys that a form of something does not have, so that the compiler tells the forms apart. */
export type Without<Key extends string> = { readonly [K in Key]?: undefined };

/** Keys of every scale. */
export interface SheetScaleBase<T> {
  /** The value that decides: a CQL2 expression, or `zoom`. */
  readonly by: string;
  /** Value for what is missing or matches nothing. */
  readonly other?: T;
  /** Subject of the scale, for the legend. */
  readonly title?: string;
  /** Unit of the numbers, for the legend. */
  readonly unit?: string;
  /** Names of the categories in the legend. */
  readonly names?: Readonly<Record<string, string>>;
}

/** A value that runs with a number. */
export interface SheetRampScale<T> extends SheetScaleBase<T>, Without<'classes' | 'categories' | 'scheme'> {
  /** Stops `[number, value]` in rising order; values in between are mixed. */
  readonly ramp: readonly (readonly [number, T])[];
  /** Exponent of the mix between stops; default 1, straight. */
  readonly ease?: number;
  /** Color space of the mix; default lab, which is perceptual. */
  readonly space?: ColourSpace;
}

/** A value for each class of a number. */
export interface SheetClassesScale<T>
  extends SheetScaleBase<T>, Without<'ramp' | 'categories' | 'scheme' | 'ease' | 'space'> {
  /** Classes of a number, their limits given or found in the data. */
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
  /** Class limits in rising order; n limits make n + 1 classes. */
  readonly breaks?: readonly number[];
  /** How to find the limits in the data: classes of equal width, of equal number, or by natural breaks (Fisher 1958, Jenks 1977); only for features, not for tiles. */
  readonly method?: ClassMethod;
  /** Number of classes to find; default 5. */
  readonly count?: number;
  /** Name of a color scheme. */
  readonly scheme?: string;
  /** One value a class. */
  readonly values?: readonly T[];
  /** Lowest and highest value, shown at the ends of the legend; default those of the data where `method` finds the limits, and none for `breaks`. */
  readonly extent?: readonly [number, number];
}

/** How class limits are found: of equal width, of equal number, or by natural breaks. */
export type ClassMethod = 'equal' | 'quantile' | 'natural';

export type ColourSpace = 'lab' | 'rgb' | 'hcl';

export type SheetValue<T> = T | SheetScale<T> | { readonly is: string };

export interface SheetFill {
  /** Default #888888. */
  readonly color?: SheetValue<string>;
  /** 0 clear to 1 solid; default 1. */
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
  /** CSS pixels from line to line; default 8. */
  readonly gap?: number;
  /** CSS pixels; default 1.5. */
  readonly width?: number;
  /** Lines both ways; default false. */
  readonly cross?: boolean;
}

export interface SheetPattern {
  /** Name of an icon or shape. */
  readonly icon: SheetValue<string>;
  /** Default #444444. */
  readonly color?: SheetValue<string>;
  /** CSS pixels; default 12. */
  readonly size?: number;
  /** CSS pixels from one to the next; default 24. */
  readonly gap?: number;
  /** Every other row moved by half; default true. */
  readonly stagger?: boolean;
  /** Icons that the edge of the area would cut are left out; default false. */
  readonly whole?: boolean;
}

/** Colors over a stretch from 0 to 1. */
export type SheetRamp = readonly (readonly [number, string])[];

export interface SheetStroke {
  /** Tells the stroke apart in a list, for changes at run time. */
  readonly name?: string;
  /** Default #444444. */
  readonly color?: SheetValue<string>;
  /** Default 1. */
  readonly width?: SheetValue<number | string>;
  /** 0 clear to 1 solid; default 1. */
  readonly opacity?: SheetValue<number>;
  /** CSS pixels to the right of the line's direction; default 0. */
  readonly offset?: SheetValue<number>;
  /** Lengths of dashes and gaps by turns, in CSS pixels at whole zoom levels. */
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
  /** Name of an icon; takes the place of the shape. */
  readonly icon?: SheetValue<string>;
  /** Height in CSS pixels; default 8. */
  readonly size?: SheetValue<number>;
  /** Default #444444. */
  readonly color?: SheetValue<string>;
  /** 0 clear to 1 solid; default 1. */
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
  /** 0 clear to 1 solid; default 1. */
  readonly opacity?: SheetValue<number>;
  /** Rim that parts the text from the ground. */
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
  /** Where the text stands about its place, or a list of sides to be tried in turn; default on the place, and beside a mark of the layer all sides but that, above-right first. */
  readonly side?: SheetSide | readonly SheetSide[];
  /** CSS pixels from the edge of the layer's mark, or from the place where there is none, to the text; default 4. */
  readonly distance?: number;
  /** Of several lines; default by the side. */
  readonly align?: 'left' | 'center' | 'right';
  /** A symbol before the text, placed and left out with it. */
  readonly icon?: {
    readonly name: SheetValue<string>;
    readonly size?: number;
    readonly color?: SheetValue<string>;
    readonly gap?: number;
  };
  /** Longest line in em; default 9. */
  readonly wrap?: number;
  /** CSS pixels from one repetition of a label along a line to the next; default 400. */
  readonly repeat?: number;
  /** The text follows a line, or the curve of an area, instead of standing level; default false. */
  readonly along?: boolean;
  /** Higher is placed first; default 0, and later layers before earlier ones. */
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
  /** 0 clear to 1 solid; default 1; only zoom may decide it. */
  readonly opacity?: SheetValue<number>;
  /** 0 gray, 1 as it is (default), 2 twice as strong. */
  readonly saturation?: number;
  /** 0 flat gray, 1 as it is (default), 2 twice as strong. */
  readonly contrast?: number;
  /** Color laid over by the brightness of the picture. */
  readonly tint?: { readonly color: SheetValue<string>; readonly share?: number };
}

export interface SheetHeat {
  /** How much a point counts; default 1. */
  readonly weight?: SheetValue<number>;
  /** Reach of a point; default 24. */
  readonly radius?: SheetValue<number | string>;
  /** 0 clear to 1 solid; default 0.85; only zoom may decide it. */
  readonly opacity?: SheetValue<number>;
  /** Stops `[density, color]`, 0 for nothing to 1 for the densest. */
  readonly ramp?: SheetRamp;
  /** Color scheme in place of a ramp; default YlOrBr. */
  readonly scheme?: string;
  /** Sum of weights within the radius at which the ramp ends; by default the ramp follows the densest 0.5 % of the places in view. */
  readonly max?: number;
}

export interface SheetExtrusion {
  /** Default #b9b6aa. */
  readonly color?: SheetValue<string>;
  /** 0 clear to 1 solid; default 1; only zoom may decide it. */
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
