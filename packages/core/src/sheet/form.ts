// The form of a sheet by its schema: an interpreter of as much of JSON Schema (2020-12) as `sheet.schema.json` uses.

/** A schema; `scripts/build.mjs` refuses keywords that are not here. */
export interface FormSchema {
  readonly $ref?: string;
  readonly $defs?: Readonly<Record<string, FormSchema>>;
  readonly type?: string | readonly string[];
  readonly enum?: readonly unknown[];
  readonly const?: unknown;
  readonly if?: FormSchema;
  readonly then?: FormSchema;
  readonly else?: FormSchema;
  readonly anyOf?: readonly FormSchema[];
  readonly required?: readonly string[];
  readonly properties?: Readonly<Record<string, FormSchema>>;
  readonly additionalProperties?: FormSchema | boolean;
  readonly items?: FormSchema;
  readonly minItems?: number;
  readonly maxItems?: number;
  readonly minimum?: number;
  readonly maximum?: number;
  readonly exclusiveMinimum?: number;
}

/** What does not fit. */
export interface FormError {
  /** The keyword of the schema that it does not fit. */
  readonly keyword: string;
  /** Where it stands in the value. */
  readonly path: readonly (string | number)[];
  readonly value: unknown;
  /** The schema with that keyword, and the name of the definition that it is part of; none for the schema itself. */
  readonly schema: FormSchema;
  readonly definition: string;
  /** The key that is missing, or that there is none of. */
  readonly key?: string;
  /** In words, for keywords that have no words of their own elsewhere. */
  readonly says?: string;
}

type List = unknown[];
type Keyed = Record<string, unknown>;

const isKeyed = (value: unknown): value is Keyed =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

const isOf = (value: unknown, type: string): boolean => {
  switch (type) {
    case 'object':
      return isKeyed(value);
    case 'array':
      return Array.isArray(value);
    case 'integer':
      return Number.isInteger(value);
    case 'number':
      return typeof value === 'number' && Number.isFinite(value);
    case 'null':
      return value === null;
    default:
      return typeof value === type;
  }
};

/** Whether two values are the same JSON. */
const isSame = (a: unknown, b: unknown) => a === b || JSON.stringify(a) === JSON.stringify(b);

/**
 * All that does not fit a schema.
 *
 * @param root the schema
 * @param sheet any value
 */
export function formErrors(root: FormSchema, sheet: unknown): FormError[] {
  const errors: FormError[] = [];
  /** Takes what a value does not fit. */
  const check = (
    schema: FormSchema,
    value: unknown,
    path: readonly (string | number)[],
    definition: string,
    out: FormError[],
  ): void => {
    const tell = (keyword: string, more: Pick<FormError, 'key' | 'says'> = {}) =>
      void out.push({ keyword, path, value, schema, definition, ...more });
    if (schema.$ref !== undefined) {
      const name = schema.$ref.replace('#/$defs/', '');
      check(root.$defs![name], value, path, name, out);
    }
    const types = schema.type === undefined ? [] : [schema.type].flat();
    if (types.length && !types.some((type) => isOf(value, type))) {
      // What else the schema says is of a value of that type.
      tell('type');
      return;
    }
    if (schema.enum && !schema.enum.some((one) => isSame(one, value))) tell('enum');
    if (schema.const !== undefined && !isSame(schema.const, value)) tell('const');
    if (schema.if) {
      const test: FormError[] = [];
      check(schema.if, value, path, definition, test);
      const branch = test.length ? schema.else : schema.then;
      if (branch) check(branch, value, path, definition, out);
    }
    if (schema.anyOf) {
      const tries = schema.anyOf.map((one) => {
        const wrong: FormError[] = [];
        check(one, value, path, definition, wrong);
        return wrong;
      });
      if (tries.every(({ length }) => length)) {
        out.push(...tries.flat());
        tell('anyOf', { says: 'must match a schema in anyOf' });
      }
    }
    if (Array.isArray(value)) checkList(schema, value, path, definition, out, tell);
    else if (isKeyed(value)) checkKeyed(schema, value, path, definition, out, tell);
    else if (typeof value === 'number') checkNumber(schema, value, tell);
  };
  const checkList = (
    { items, minItems = 0, maxItems = Infinity }: FormSchema,
    list: List,
    ...[path, definition, out, tell]: Rest
  ): void => {
    const count = (most: number) => `${most} item${most === 1 ? '' : 's'}`;
    if (list.length < minItems) tell('minItems', { says: `must NOT have fewer than ${count(minItems)}` });
    if (list.length > maxItems) tell('maxItems', { says: `must NOT have more than ${count(maxItems)}` });
    if (items) list.forEach((one, i) => check(items, one, [...path, i], definition, out));
  };
  const checkKeyed = (
    { required = [], properties = {}, additionalProperties = true }: FormSchema,
    keyed: Keyed,
    ...[path, definition, out, tell]: Rest
  ): void => {
    for (const key of required) if (keyed[key] === undefined) tell('required', { key });
    for (const [key, one] of Object.entries(keyed)) {
      if (Object.hasOwn(properties, key)) {
        // A key whose value is undefined is not there, as in JSON.
        if (one !== undefined) check(properties[key], one, [...path, key], definition, out);
      } else if (additionalProperties === false) tell('additionalProperties', { key });
      else if (additionalProperties !== true) check(additionalProperties, one, [...path, key], definition, out);
    }
  };
  check(root, sheet, [], '', errors);
  return errors;
}

type Tell = (keyword: string, more?: Pick<FormError, 'key' | 'says'>) => void;
type Rest = [path: readonly (string | number)[], definition: string, out: FormError[], tell: Tell];

function checkNumber(
  { minimum = -Infinity, maximum = Infinity, exclusiveMinimum = -Infinity }: FormSchema,
  value: number,
  tell: Tell,
): void {
  if (value < minimum) tell('minimum', { says: `must be >= ${minimum}` });
  if (value > maximum) tell('maximum', { says: `must be <= ${maximum}` });
  if (value <= exclusiveMinimum) tell('exclusiveMinimum', { says: `must be > ${exclusiveMinimum}` });
}
