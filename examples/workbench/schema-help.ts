// What may stand at a place in a sheet: keys and values out of its schema, for the completion of the editor.
import schema from '@flintwright/core/sheet.schema.json';

/** A schema, as far as it is looked at here (JSON Schema 2020-12). */
interface Schema {
  readonly $ref?: string;
  readonly description?: string;
  readonly properties?: Readonly<Record<string, Schema>>;
  readonly additionalProperties?: Schema | boolean;
  readonly items?: Schema;
  readonly enum?: readonly unknown[];
  readonly const?: unknown;
  readonly type?: string | readonly string[];
  readonly anyOf?: readonly Schema[];
  readonly oneOf?: readonly Schema[];
  readonly allOf?: readonly Schema[];
  readonly if?: Schema;
  readonly then?: Schema;
  readonly else?: Schema;
}

const root = schema as unknown as Schema & { readonly $defs: Readonly<Record<string, Schema>> };

/** A schema with all that it leads to: what it refers to, and whatever branch may hold. */
function whole(part: Schema, depth = 0): Schema[] {
  if (depth > 8) return [];
  const more = [
    ...(part.$ref ? [root.$defs[part.$ref.replace('#/$defs/', '')]] : []),
    ...(part.anyOf ?? []),
    ...(part.oneOf ?? []),
    ...(part.allOf ?? []),
    ...(part.then ? [part.then] : []),
    ...(part.else ? [part.else] : []),
  ];
  return [part, ...more.flatMap((one) => whole(one, depth + 1))];
}

/** The schemas of a place; a number stands for a place in a list. */
function schemasAt(path: readonly (string | number)[]): Schema[] {
  let here = whole(root);
  for (const step of path)
    here = here.flatMap(({ properties, additionalProperties, items }) => {
      const next =
        typeof step === 'number'
          ? items
          : (properties?.[step] ?? (typeof additionalProperties === 'object' ? additionalProperties : undefined));
      return next ? whole(next) : [];
    });
  return here;
}

/** A key or a value that may stand somewhere, with what is to be said of it. */
export interface Suggestion {
  readonly text: string;
  readonly says: string;
}

/** Keys that an object at a place may have. */
export function keysAt(path: readonly (string | number)[]): Suggestion[] {
  const found = new Map<string, string>();
  for (const { properties = {} } of schemasAt(path))
    for (const [key, part] of Object.entries(properties))
      if (!found.get(key))
        found.set(key, part.description ?? whole(part).find((one) => one.description)?.description ?? '');
  return [...found].map(([text, says]) => ({ text, says }));
}

/** Values that the schema lists for a place, as JSON. */
export function valuesAt(path: readonly (string | number)[]): Suggestion[] {
  const out = new Map<string, string>();
  for (const { enum: list = [], const: one, type, description = '' } of schemasAt(path)) {
    for (const value of list) out.set(JSON.stringify(value), description);
    if (one !== undefined) out.set(JSON.stringify(one), description);
    if (type === 'boolean') for (const value of ['true', 'false']) out.set(value, description);
  }
  return [...out].map(([text, says]) => ({ text, says }));
}
