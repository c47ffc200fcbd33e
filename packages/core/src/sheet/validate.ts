import { deepest, isTooDeep } from '../base/depth.js';
import { plainText } from '../base/describe-value.js';
import { Fault } from '../base/fault.js';
import { parseExactJson } from '../base/json.js';
import { nearestSpelling } from '../base/spelling.js';
import { sheetChecks } from './compile-checks.js';
import { compileSheet, type CompiledSheet } from './compile.js';
import { schemeNames } from './scheme-names.js';
import type { Schemes, ValueTools } from './value-kinds.js';
import type { Sheet } from './types.js';
import { formErrors } from './form.js';
import { sheetSchema } from './schema.generated.js';

/** The error for an invalid sheet, with all of its faults. */
export class SheetFault extends Fault {
  constructor(readonly faults: readonly Fault[]) {
    const lines = faults.map((fault) => `${fault.at}: ${fault.message}. ${fault.hint}`);
    super(
      'sheet.invalid',
      `the sheet has ${faults.length} fault${faults.length === 1 ? '' : 's'}:\n  ${lines.join('\n  ')}`,
      'Correct them all; flintwright check SHEET lists them.',
    );
  }
}

/** Parts of the core that a program may fetch only when a sheet takes them. */
export interface ReadingTools {
  /** Finds the colors of a scheme; gray stands in for those that it does not know. */
  readonly find: Schemes['find'];
  /** Reads expressions, scales, and colors that are not in hexadecimal; without it they are taken for sound. */
  readonly values: ValueTools | undefined;
}

/** As `inspectSheet`, for a program that may not have all parts of the core. */
export function inspectSheetBy(
  raw: unknown,
  tools: ReadingTools,
): { readonly faults: Fault[]; readonly compiled: CompiledSheet | undefined } {
  const faults: Fault[] = [];
  const tried = tryCompile(raw, faults, tools);
  const layers = tried?.compiled.layers.filter(({ id }) => !id.startsWith(standIn));
  return { faults, compiled: tried && { ...tried.compiled, layers: layers! } };
}

/** Begins the ids of what stands in for layers of the wrong form while the others are checked. */
const standIn = '\u0000';

/** As `readSheet`, for a program that may not have all parts of the core. @throws SheetFault */
export function readSheetBy(raw: unknown, tools: ReadingTools): CompiledSheet {
  const faults: Fault[] = [];
  const tried = tryCompile(raw, faults, tools);
  if (!tried || faults.length) throw new SheetFault(faults);
  return tried.compiled;
}

function tryCompile(
  raw: unknown,
  faults: Fault[],
  { find, values }: ReadingTools,
): { readonly compiled: CompiledSheet } | undefined {
  let sheet = raw;
  if (typeof raw === 'string') {
    try {
      sheet = parseExactJson(raw);
    } catch (error) {
      faults.push(
        new Fault(
          'sheet.json',
          `the sheet is not JSON: ${(error as Error).message}`,
          'Correct the text: a sheet is one JSON document.',
          '$',
          error,
        ),
      );
      return undefined;
    }
  }
  // Features and rows are checked by what reads them.
  if (isTooDeep(sheet, new Set(['features', 'table']))) {
    const what = `the sheet is nested more than ${deepest} deep`;
    faults.push(new Fault('sheet.depth', what, 'Check the program that wrote the sheet.', '$'));
    return undefined;
  }
  const formed = formFaults(sheet);
  faults.push(...formed);
  const { layers, data } = (sheet ?? {}) as Partial<Sheet>;
  if (!Array.isArray(layers)) return undefined;
  // Values are checked wherever the form is right, so that one round of mending is enough.
  const sound = (part: string) => !formed.some((fault) => fault.at!.startsWith(part));
  const parts = Object.entries(sheet as Sheet).filter(([key]) => sound(`$.${key}`));
  const whole = {
    ...(Object.fromEntries(parts) as unknown as Sheet),
    data: typeof data === 'object' ? data : {},
    layers: layers.map((layer, i) => (sound(`$.layers[${i}]`) ? layer : undefined)),
  } as Sheet & { layers: unknown[] };
  const usable = {
    ...whole,
    ...(sound('$.background') ? {} : { background: '#fff' }),
    layers: whole.layers.map(
      (layer, i) => layer ?? { id: `${standIn}${i}`, of: Object.keys(whole.data ?? {})[0] ?? '', fill: '#fff' },
    ),
  } as Sheet;
  const compiled = compileSheet(
    usable,
    (fault) => {
      const index = /^\$\.layers\[(\d+)\]/.exec(fault.at ?? '')?.[1];
      if (index === undefined || whole.layers[Number(index)] !== undefined) faults.push(fault);
    },
    { schemes: { names: schemeNames, find }, checks: sheetChecks, values },
  );
  checkView(usable, faults);
  return { compiled };
}

function checkView({ view }: Sheet, faults: Fault[]): void {
  const center = view?.center;
  // On a plan the center is in meters, which may be any.
  if (Array.isArray(center) && view?.surface !== 'plan' && Math.abs(center[1]) > 90) {
    faults.push(
      new Fault(
        'sheet.center',
        `the center [${center.join(', ')}] has a latitude beyond ±90°`,
        'The pair looks swapped: write [longitude, latitude].',
        '$.view.center',
      ),
    );
  }
}

/** Keys of earlier versions, by the key that they stand in, with what they are called. */
const renamedKeys: Readonly<Record<string, string | undefined>> = {
  'extrusion.height': '"top"',
  'extrusion.base': '"bottom"',
  'label.anchor': '"side", which says where the text stands: an anchor "left" is a side "right"',
  'label.offset': '"distance", in CSS pixels from the mark or the place',
};

function formFaults(sheet: unknown): Fault[] {
  return formErrors(sheetSchema, sheet).map(({ keyword, path: steps, value, schema, definition, key = '', says }) => {
    const path = `$${steps.map((step) => (/^\d+$/.test(String(step)) ? `[${step}]` : `.${step}`)).join('')}`;
    const allowed = Object.keys(schema.properties ?? {});
    switch (keyword) {
      case 'additionalProperties': {
        const near = nearestSpelling(key, allowed);
        const renamed = renamedKeys[`${steps.findLast((step) => !/^\d+$/.test(String(step)) && step !== key)}.${key}`];
        return new Fault(
          'sheet.key',
          `there is no key "${key}" here`,
          renamed !== undefined
            ? `It is called ${renamed}.`
            : near
              ? `Did you mean "${near}"?`
              : `Allowed: ${allowed.join(', ')}.`,
          path,
        );
      }
      case 'required':
        return new Fault('sheet.missing', `the key "${key}" is missing`, 'Add it.', path);
      case 'enum': {
        const words = schema.enum!.map(String);
        const near = nearestSpelling(plainText(value), words);
        return new Fault(
          'sheet.word',
          `${JSON.stringify(value)} is not one of ${words.join(', ')}`,
          near ? `Did you mean ${JSON.stringify(near)}?` : 'Write one of these.',
          path,
        );
      }
      case 'const':
        return new Fault(
          'sheet.version',
          `expected ${JSON.stringify(schema.const)}, got ${JSON.stringify(value)}`,
          'Write this value.',
          path,
        );
      case 'type':
        return new Fault(
          'sheet.type',
          `expected ${[schema.type].flat().join(' or ')}, got ${shown(value)}`,
          hint(definition, schema.type, allowed),
          path,
        );
      default:
        return new Fault('sheet.form', `${shown(value)} ${says ?? 'has the wrong form'}`, 'Correct the value.', path);
    }
  });
}

const hint = (definition: string, type: unknown, keys: readonly string[]) =>
  keys.length
    ? `Write an object; its keys may be ${keys.join(', ')}.`
    : definition === 'color'
      ? 'Write a CSS color in quotes, or a scale.'
      : String(type) === 'number'
        ? 'Write a number without quotes, or a scale.'
        : 'Change it to that form.';

function shown(value: unknown): string {
  const text = JSON.stringify(value) ?? 'nothing';
  return text.length > 50 ? `${text.slice(0, 47)}…` : text;
}
