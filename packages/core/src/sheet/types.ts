import type { Expression } from '../cql2/tree.js';

/** The sheet, version 1: the types that go with `sheet.schema.json`, which states units and defaults. */
export interface Sheet {
  readonly $schema?: string;
  readonly sheet: 1;
  readonly title?: string;
  readonly palette?: Readonly<Record<string, string>>;
  readonly data?: Readonly<Record<string, SheetData>>;
  readonly view?: SheetView;
  readonly bookmarks?: Readonly<Record<string, Omit<SheetView, 'surface' | 'limits'>>>;
  readonly background?: SheetValue<string>;
  readonly layers: readonly SheetLayer[];
}

export interface SheetData {
  readonly tiles?: string;
  readonly features?: string | object;
  readonly images?: string;
  readonly grid?: string | object;
  readonly rows?: 'down' | 'up';
  readonly crs?: string;
  readonly edges?: 'straight' | 'great-circle';
  readonly pixels?: 256 | 512;
  readonly join?: SheetJoin;
  readonly cluster?: SheetCluster;
  readonly refresh?: number;
  readonly id?: string;
  readonly zooms?: readonly [number, number];
  readonly credit?: string;
}

export interface SheetCluster {
  readonly within?: number;
  readonly until?: number;
  readonly least?: number;
  readonly share?: string;
  readonly sum?: Readonly<Record<string, string>>;
  readonly min?: Readonly<Record<string, string>>;
  readonly max?: Readonly<Record<string, string>>;
}

export interface SheetJoin {
  readonly table: string | readonly object[];
  readonly match: readonly [string, string];
}

/** A projection method of the library and its parameters, angles in degrees, on WGS 84. */
export interface SheetSurface {
  readonly method: string;
  readonly lat0?: number;
  readonly lon0?: number;
  readonly lat1?: number;
  readonly lat2?: number;
  readonly azimuth?: number;
}

export interface SheetView {
  readonly center?: readonly [number, number];
  readonly zoom?: number;
  readonly bearing?: number;
  readonly tilt?: number;
  readonly surface?: string | SheetSurface;
  readonly limits?: {
    readonly zoom?: readonly [number, number];
    readonly bounds?: readonly [number, number, number, number];
  };
}

export interface SheetScale<T> {
  readonly by: string;
  readonly ramp?: readonly (readonly [number, T])[];
  readonly ease?: number;
  readonly space?: ColourSpace;
  readonly classes?: SheetClasses<T>;
  readonly categories?: Readonly<Record<string, T>> | readonly string[];
  readonly scheme?: string;
  readonly other?: T;
  readonly title?: string;
  readonly unit?: string;
  readonly names?: Readonly<Record<string, string>>;
}

export interface SheetClasses<T> {
  readonly breaks?: readonly number[];
  readonly method?: ClassMethod;
  readonly count?: number;
  readonly scheme?: string;
  readonly values?: readonly T[];
}

/** How class limits are found: of equal width, of equal number, or by natural breaks. */
export type ClassMethod = 'equal' | 'quantile' | 'natural';

export type ColourSpace = 'lab' | 'rgb' | 'hcl';

export type SheetValue<T> = T | SheetScale<T> | { readonly is: string };

export interface SheetFill {
  readonly color?: SheetValue<string>;
  readonly opacity?: SheetValue<number>;
  readonly hatch?: SheetHatch;
  readonly pattern?: SheetPattern;
}

export interface SheetHatch {
  readonly color?: SheetValue<string>;
  readonly angle?: number;
  readonly gap?: number;
  readonly width?: number;
  readonly cross?: boolean;
}

export interface SheetPattern {
  readonly icon: SheetValue<string>;
  readonly color?: SheetValue<string>;
  readonly size?: number;
  readonly gap?: number;
  readonly stagger?: boolean;
}

/** Colours over a stretch from 0 to 1. */
export type SheetRamp = readonly (readonly [number, string])[];

export interface SheetStroke {
  readonly color?: SheetValue<string>;
  readonly width?: SheetValue<number | string>;
  readonly opacity?: SheetValue<number>;
  readonly offset?: SheetValue<number>;
  readonly dash?: readonly number[];
  readonly cap?: 'butt' | 'round' | 'square';
  readonly join?: 'miter' | 'round' | 'bevel';
  readonly gradient?: { readonly ramp: SheetRamp; readonly space?: ColourSpace };
  readonly marks?: { readonly icon: string; readonly gap?: number };
}

export interface SheetHalo {
  readonly color: SheetValue<string>;
  readonly width?: number;
}

export interface SheetMark {
  readonly shape?: SheetValue<string>;
  readonly icon?: SheetValue<string>;
  readonly size?: SheetValue<number>;
  readonly color?: SheetValue<string>;
  readonly opacity?: SheetValue<number>;
  readonly outline?: SheetHalo;
  readonly rotation?: SheetValue<number>;
}

export interface SheetLabel {
  readonly text: SheetValue<string>;
  readonly size?: SheetValue<number>;
  readonly color?: SheetValue<string>;
  readonly opacity?: SheetValue<number>;
  readonly halo?: SheetHalo;
  readonly font?: string;
  readonly weight?: number;
  readonly style?: 'normal' | 'italic';
  readonly spacing?: number;
  readonly upper?: boolean;
  readonly offset?: readonly [number, number];
  readonly anchor?: SheetAnchor | readonly SheetAnchor[];
  readonly align?: 'left' | 'center' | 'right';
  readonly icon?: {
    readonly name: SheetValue<string>;
    readonly size?: number;
    readonly color?: SheetValue<string>;
    readonly gap?: number;
  };
  readonly wrap?: number;
  readonly along?: boolean;
  readonly priority?: SheetValue<number>;
}

export type SheetAnchor =
  'center' | 'left' | 'right' | 'top' | 'bottom' | 'top-left' | 'top-right' | 'bottom-left' | 'bottom-right';

export interface SheetImage {
  readonly opacity?: SheetValue<number>;
  readonly saturation?: number;
  readonly contrast?: number;
  readonly tint?: { readonly color: SheetValue<string>; readonly share?: number };
}

export interface SheetHeat {
  readonly weight?: SheetValue<number>;
  readonly radius?: SheetValue<number | string>;
  readonly opacity?: SheetValue<number>;
  readonly ramp?: SheetRamp;
  readonly scheme?: string;
  readonly max?: number;
}

export interface SheetExtrusion {
  readonly color?: SheetValue<string>;
  readonly opacity?: SheetValue<number>;
  readonly height: SheetValue<number>;
  readonly base?: SheetValue<number>;
}

export interface SheetSymbols {
  readonly fill?: string | SheetFill;
  readonly stroke?: string | SheetStroke | readonly SheetStroke[];
  readonly mark?: SheetMark;
  readonly label?: SheetLabel;
  readonly extrusion?: SheetExtrusion;
}

/** Symbols of which a state or a rule says only what differs. */
export interface PartialSymbols extends Omit<SheetSymbols, 'label' | 'extrusion'> {
  readonly label?: Partial<SheetLabel>;
  readonly extrusion?: Partial<SheetExtrusion>;
}

export interface SheetRule extends PartialSymbols {
  readonly where?: string | Expression;
  readonly zoom?: readonly [number, number];
  readonly otherwise?: true;
  readonly title?: string;
}

export interface SheetLayer extends SheetSymbols {
  readonly id: string;
  readonly title?: string;
  readonly of: string;
  readonly where?: string | Expression;
  readonly zoom?: readonly [number, number];
  readonly visible?: boolean;
  readonly opacity?: number;
  readonly rules?: readonly SheetRule[];
  readonly states?: Readonly<Record<string, PartialSymbols>>;
  readonly image?: SheetImage;
  readonly heat?: SheetHeat;
  readonly select?: 'one' | 'several';
  readonly legend?: boolean;
  readonly popup?: {
    readonly title?: string;
    readonly lines?: Readonly<Record<string, string>>;
    readonly on?: 'press' | 'hover';
  };
}
