export interface Location {
  readonly line: number;
  readonly column: number;
}
export class SyntaxError extends Error {
  readonly location: { readonly start: Location; readonly end: Location };
  readonly found: string | null;
  readonly expected:
    | readonly (
        | { readonly type: 'other'; readonly description: string }
        | { readonly type: 'literal'; readonly text: string }
        | { readonly type: 'class' | 'any' | 'end' }
      )[]
    | null;
}
export function parse(text: string, options?: { places?: WeakMap<object, Location | readonly Location[]> }): unknown;
