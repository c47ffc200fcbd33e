import { hasForbidden } from '../../base/xml.js';
import type { FileLayer } from './feature-file.js';
import type { WarningList } from './warnings.js';

/** What a format makes of the values of attributes. */
interface Form {
  /** Whether a boolean stays one. */
  readonly booleans: boolean;
  /** Whether a text that looks like a number stays a text: always, or where another text of its column does not look like one. */
  readonly numericTexts: 'kept' | 'by-column' | 'lost';
  /** Whether blanks around a text stay. */
  readonly blanks: boolean;
  /** Whether an empty text differs from none. */
  readonly empty: boolean;
  /** Whether a column may hold values of several types. */
  readonly mixed: boolean;
  /** Whether it is XML, which does not have every character. */
  readonly isXml?: boolean;
  /** Attributes that have an element of their own, whose texts stay texts. */
  readonly elements?: readonly string[];
  /** Whether lists and objects stay what they are; default false. */
  readonly lists?: boolean;
}

const kmlElements = 'name description folder address phone snippet time begin end times altitudeMode'.split(' ');

const forms: Readonly<Record<string, Form>> = {
  CSV: { booleans: false, numericTexts: 'by-column', blanks: false, empty: false, mixed: false },
  KML: {
    booleans: false,
    numericTexts: 'lost',
    blanks: false,
    empty: false,
    mixed: true,
    isXml: true,
    elements: kmlElements,
  },
  GPX: { booleans: true, numericTexts: 'kept', blanks: true, empty: true, mixed: true, isXml: true, lists: true },
  GeoPackage: { booleans: true, numericTexts: 'kept', blanks: true, empty: true, mixed: false },
  Shapefile: { booleans: true, numericTexts: 'kept', blanks: false, empty: false, mixed: false },
};

const numberLike = /^-?(0|[1-9]\d*)(\.\d+)?([eE][-+]?\d+)?$/;

/** Reports what a format changes in the values of attributes, once per column and change. */
export class ChangeReport {
  private readonly form: Form | undefined;
  private readonly reported = new Set<string>();

  /**
   * @param format name of the format
   * @param warnings takes the changes
   */
  constructor(
    format: string,
    private readonly warnings: WarningList,
  ) {
    this.form = forms[format === 'KMZ' ? 'KML' : format];
  }

  /** Looks at the attributes of some layers. */
  add(layers: readonly FileLayer[]): void {
    const { form } = this;
    if (!form) return;
    const columns = new Map<string, unknown[]>();
    for (const { features } of layers)
      for (const { properties } of features)
        for (const [name, value] of Object.entries(properties)) {
          if (value === null || value === undefined) continue;
          const known = columns.get(name);
          if (known) known.push(value);
          else columns.set(name, [value]);
        }
    for (const [name, values] of columns) this.column(name, values, form);
  }

  private column(name: string, values: readonly unknown[], form: Form): void {
    const texts = values.filter((value) => typeof value === 'string');
    const types = new Set(values.map((value) => typeof value));
    const isNumeric = (text: string) => numberLike.test(text.trim());
    const becomesNumber =
      form.numericTexts === 'lost'
        ? texts.some(isNumeric)
        : form.numericTexts === 'by-column' &&
          texts.length > 0 &&
          texts.every(isNumeric) &&
          !types.has('boolean') &&
          !types.has('object');
    const changes: readonly (readonly [when: boolean, code: string, message: string, hint: string])[] = [
      [
        types.has('object') && !form.lists && !(form.elements?.includes(name) === true && name === 'times'),
        'changed.list',
        'lists and objects became JSON text',
        'Read them as JSON, or write GeoJSON.',
      ],
      [
        types.has('boolean') && !form.booleans,
        'changed.boolean',
        'true and false became texts',
        'Write GeoJSON or a GeoPackage to keep them.',
      ],
      [
        !form.mixed && types.size > 1 && types.has('string'),
        'changed.mixed',
        'columns with values of several types became texts',
        'Write GeoJSON to keep the types.',
      ],
      [
        becomesNumber && form.elements?.includes(name) !== true,
        'changed.number',
        'texts that look like numbers become numbers when they are read',
        'Write GeoJSON or a GeoPackage to keep them.',
      ],
      [
        !form.blanks && texts.some((text) => text !== text.trim() && text.trim() !== ''),
        'changed.blanks',
        'blanks around texts are trimmed',
        'Write GeoJSON or a GeoPackage to keep them.',
      ],
      [
        !form.empty && texts.some((text) => text.trim() === ''),
        'changed.empty',
        'empty texts became missing values',
        'Write GeoJSON or a GeoPackage to keep them.',
      ],
      [
        form.isXml === true && texts.some(hasForbidden),
        'changed.characters',
        'texts have control characters, which XML does not allow',
        'Each became U+FFFD. Write GeoJSON to keep them.',
      ],
    ];
    for (const [when, code, message, hint] of changes) {
      const key = `${code} ${name}`;
      if (!when || this.reported.has(key)) continue;
      this.reported.add(key);
      this.warnings.add(code, message, hint, name);
    }
  }
}
