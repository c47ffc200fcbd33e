import { drawing } from '../controls/control.js';
import type { MapIcons } from '../map/map-icons.js';
import { makeElement } from '../overlay/dom.js';
import type { DrawStrings } from './draw-strings.js';

/** A field of a feature, as JSON Schema (2020-12) has it. */
export interface FieldSchema {
  readonly type?: 'string' | 'number' | 'integer' | 'boolean';
  readonly title?: string;
  readonly description?: string;
  /** The values that may be chosen. */
  readonly enum?: readonly (string | number)[];
  /** `date`, `date-time`, `email`, `uri`, or `icon` for one of the map's; others are plain text. */
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

/** What a form is made of. */
export interface FormTools {
  readonly schema: FieldsSchema;
  readonly icons: MapIcons;
  readonly strings: DrawStrings;
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
   * @param tools the fields, the icons that may be chosen, texts
   * @param values what they hold; those that differ among several features are left out, and stay as they are if nobody fills them in
   * @param several whether the form is for several features
   * @param save called with the values, those that are empty undefined
   */
  constructor(
    { schema: { properties, required = [] }, icons, strings }: FormTools,
    values: Readonly<Record<string, unknown>>,
    several: boolean,
    save: (values: Readonly<Record<string, unknown>>) => void,
  ) {
    this.element.noValidate = true;
    const troubles: (() => boolean)[] = [];
    for (const [name, field] of Object.entries(properties)) {
      const must = required.includes(name) && !several;
      const title = `${field.title ?? name}${field.unit ? ` (${field.unit})` : ''}${must ? ' *' : ''}`;
      const label = makeElement('label', field.type === 'boolean' ? 'flint-tick' : '');
      const input = inputOf(field.format === 'icon' ? withIcons(field, icons) : field, values[name] ?? field.default);
      input.required = must;
      // A tick that differs among several features stays as it is until somebody sets it.
      if (input instanceof HTMLInputElement && input.type === 'checkbox')
        input.indeterminate = several && values[name] === undefined;
      const wrong = makeElement('small');
      wrong.setAttribute('role', 'alert');
      if (field.description) input.title = field.description;
      if (field.type === 'boolean') label.append(input, title);
      else if (field.format === 'icon') label.append(title, pictured(input, icons), wrong);
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

/** A field whose values are the icons of the map, those of one's own first. */
const withIcons = (field: FieldSchema, { own, names }: MapIcons): FieldSchema => ({
  ...field,
  enum: field.enum ?? [...own, ...names.filter((name) => !own.includes(name))],
});

/** An input with the picture of the icon that it names. */
function pictured(input: Input, icons: MapIcons): HTMLElement {
  const [row, picture] = [makeElement('span', 'flint-icon-field'), makeElement('span')];
  const show = () => {
    picture.replaceChildren();
    if (!input.value) return;
    const { address, path } = icons.look(input.value);
    if (address === undefined) picture.append(drawing(path));
    else {
      const image = makeElement('img');
      image.src = address;
      image.alt = '';
      picture.append(image);
    }
  };
  input.addEventListener('change', show);
  show();
  row.append(input, picture);
  return row;
}

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
