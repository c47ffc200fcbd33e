/** The sheet, version 1: the types that go with `sheet.schema.json`, which states units and defaults. */
export interface Sheet {
  readonly $schema?: string;
  readonly sheet: 1;
  readonly title?: string;
  readonly palette?: Readonly<Record<string, string>>;
  readonly data?: Readonly<Record<string, SheetData>>;
  readonly view?: SheetView;
  readonly background?: SheetValue<string>;
  readonly layers: readonly SheetLayer[];
}

export interface SheetData {
  readonly tiles?: string;
  readonly features?: string | object;
  readonly id?: string;
  readonly zooms?: readonly [number, number];
  readonly credit?: string;
}

export interface SheetView {
  readonly center?: readonly [number, number];
  readonly zoom?: number;
  readonly bearing?: number;
  readonly tilt?: number;
  readonly surface?: string;
  readonly limits?: { readonly zoom?: readonly [number, number] };
}

export interface SheetScale<T> {
  readonly by: string;
  readonly ramp?: readonly (readonly [number, T])[];
  readonly ease?: number;
  readonly space?: 'lab' | 'rgb' | 'hcl';
  readonly classes?: { readonly breaks: readonly number[]; readonly scheme?: string; readonly values?: readonly T[] };
  readonly kinds?: Readonly<Record<string, T>>;
  readonly other?: T;
}

export type SheetValue<T> = T | SheetScale<T> | { readonly is: string };

export interface SheetFill {
  readonly color?: SheetValue<string>;
  readonly opacity?: SheetValue<number>;
}

export interface SheetStroke {
  readonly color?: SheetValue<string>;
  readonly width?: SheetValue<number | string>;
  readonly opacity?: SheetValue<number>;
  readonly offset?: SheetValue<number>;
  readonly dash?: readonly number[];
  readonly cap?: 'butt' | 'round' | 'square';
  readonly join?: 'miter' | 'round' | 'bevel';
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
  readonly turn?: SheetValue<number>;
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
  readonly anchor?: 'center' | 'left' | 'right' | 'top' | 'bottom';
  readonly wrap?: number;
  readonly along?: boolean;
  readonly priority?: SheetValue<number>;
}

export interface SheetSymbols {
  readonly fill?: string | SheetFill;
  readonly stroke?: string | SheetStroke | readonly SheetStroke[];
  readonly mark?: SheetMark;
  readonly label?: SheetLabel;
}

export interface SheetRule extends SheetSymbols {
  readonly where?: string;
  readonly zoom?: readonly [number, number];
  readonly otherwise?: true;
  readonly title?: string;
}

export interface SheetLayer extends SheetSymbols {
  readonly id: string;
  readonly title?: string;
  readonly of: string;
  readonly where?: string;
  readonly zoom?: readonly [number, number];
  readonly visible?: boolean;
  readonly opacity?: number;
  readonly rules?: readonly SheetRule[];
  readonly states?: Readonly<Record<string, SheetSymbols>>;
  readonly popup?: { readonly title?: string; readonly lines?: Readonly<Record<string, string>> };
}
