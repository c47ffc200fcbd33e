import { makeElement } from '../overlay/dom.js';
import type { DrawStrings } from './draw-strings.js';

/** A field of a feature, as JSON Schema (2020-12) has it. */
export interface FieldSchema {
  readonly type?: 'string' | 'number' | 'integer' | 'boolean';
  readonly title?: string;
  readonly description?: string;
  /** The values that may be chosen. */
  readonly enum?: readonly (string | number)[];
  /** `date`, `date-time`, `email` or `uri`; others are plain text. */
  readonly format?: string;
  readonly minimum?: number;
  readonly maximum?: number;
  readonly maxLength?: number;
  readonly pattern?: string;
  readonly default?: string | number | boolean;
  /** Unit of a number, shown behind its name. */
  readonly unit?: string;
}

/** The fields of features, as a JSON Schema of an object. */
export interface FieldsSchema {
  readonly properties: Readonly<Record<string, FieldSchema>>;
  readonly required?: readonly string[];
}

const inputs: Readonly<Record<string, string>> = {
  date: 'date',
  'date-time': 'datetime-local',
  email: 'email',
  uri: 'url',
};

/** A form made from the fields of features. */
export class DrawForm {
  readonly element = makeElement('form', 'flint-form');
  private readonly read: (() => readonly [name: string, value: unknown])[] = [];

  /**
   * Makes it.
   *
   * @param schema the fields
   * @param values what they hold; those that differ among several features are left out, and stay as they are if nobody fills them in
   * @param several whether the form is for several features
   * @param strings texts
   * @param save called with the values, those that are empty undefined
   */
  constructor(
    { properties, required = [] }: FieldsSchema,
    values: Readonly<Record<string, unknown>>,
    several: boolean,
    strings: DrawStrings,
    save: (values: Readonly<Record<string, unknown>>) => void,
  ) {
    this.element.noValidate = true;
    const troubles: (() => boolean)[] = [];
    for (const [name, field] of Object.entries(properties)) {
      const must = required.includes(name) && !several;
      const title = `${field.title ?? name}${field.unit ? ` (${field.unit})` : ''}${must ? ' *' : ''}`;
      const label = makeElement('label', field.type === 'boolean' ? 'flint-tick' : '');
      const input = inputOf(field, values[name] ?? field.default);
      input.required = must;
      // A tick that differs among several features stays as it is until somebody sets it.
      if (input instanceof HTMLInputElement && input.type === 'checkbox')
        input.indeterminate = several && values[name] === undefined;
      const wrong = makeElement('small');
      wrong.setAttribute('role', 'alert');
      if (field.description) input.title = field.description;
      if (field.type === 'boolean') label.append(input, title);
      else label.append(title, input, wrong);
      this.element.append(label);
      this.read.push(() => [name, valueOf(field, input)]);
      troubles.push(() => {
        const sound = input.checkValidity();
        wrong.textContent = sound ? '' : input.validity.valueMissing ? strings.required : input.validationMessage;
        input.setAttribute('aria-invalid', String(!sound));
        return sound;
      });
    }
    const button = makeElement('button', '', strings.save);
    button.type = 'submit';
    this.element.append(button);
    this.element.addEventListener('submit', (event) => {
      event.preventDefault();
      const sound = troubles.map((check) => check());
      if (sound.every(Boolean)) save(Object.fromEntries(this.read.map((one) => one())));
      else this.element.querySelector<HTMLElement>('[aria-invalid="true"]')?.focus();
    });
  }
}

type Input = HTMLInputElement | HTMLSelectElement;

function inputOf(field: FieldSchema, value: unknown): Input {
  const text = typeof value === 'string' || typeof value === 'number' ? String(value) : '';
  if (field.enum) {
    const select = makeElement('select');
    select.append(new Option('', ''), ...field.enum.map((one) => new Option(String(one), String(one))));
    select.value = text;
    return select;
  }
  const input = makeElement('input');
  if (field.type === 'boolean') {
    input.type = 'checkbox';
    input.checked = value === true;
    return input;
  }
  const isNumber = field.type === 'number' || field.type === 'integer';
  input.type = isNumber ? 'number' : (inputs[field.format ?? ''] ?? 'text');
  input.autocomplete = 'off';
  if (isNumber) input.step = field.type === 'integer' ? '1' : 'any';
  if (field.minimum !== undefined) input.min = String(field.minimum);
  if (field.maximum !== undefined) input.max = String(field.maximum);
  if (field.maxLength !== undefined) input.maxLength = field.maxLength;
  if (field.pattern !== undefined) input.pattern = field.pattern;
  input.value = text;
  return input;
}

function valueOf(field: FieldSchema, input: Input): unknown {
  if (input instanceof HTMLInputElement && input.type === 'checkbox')
    return input.indeterminate ? undefined : input.checked;
  if (input.value === '') return undefined;
  const isNumber = field.type === 'number' || field.type === 'integer' || typeof field.enum?.[0] === 'number';
  return isNumber ? Number(input.value) : input.value;
}
