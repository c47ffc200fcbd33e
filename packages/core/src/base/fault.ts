/**
 * An error report, in the form that all parts of Flintwright use. `code` is stable, dotted and in lower case, so that programs can compare
 * it; `message` says what was expected and what came; `hint` says what to do; `at` is the place, if known: a byte offset, a JSON path,
 * `line:column`, a URL or a file.
 */
export interface FaultLike {
  readonly code: string;
  readonly message: string;
  readonly hint: string;
  readonly at?: string;
}

/** The error that functions of Flintwright throw for invalid input. */
export class Fault extends Error implements FaultLike {
  override readonly name = 'Fault';
  readonly code: string;
  readonly hint: string;
  readonly at?: string;

  /**
   * Creates a fault.
   *
   * @param code stable name, such as `geojson.json`
   * @param message what was expected, and what came
   * @param hint what to do
   * @param at the place: a path, line or URL; default none
   * @param cause the original error; default none
   */
  constructor(code: string, message: string, hint: string, at?: string, cause?: unknown) {
    super(message, cause === undefined ? undefined : { cause });
    this.code = code;
    this.hint = hint;
    if (at !== undefined) this.at = at;
  }

  /** The fault as a plain object, for a worker message, a log line or JSON. */
  toJSON(): FaultLike {
    return {
      code: this.code,
      message: this.message,
      hint: this.hint,
      ...(this.at === undefined ? {} : { at: this.at }),
    };
  }

  /** The fault as one paragraph: message, place and hint. */
  override toString(): string {
    // A message that quotes a sentence ends with its full stop.
    const said = this.at ? `${this.message} (at ${this.at})` : this.message.replace(/\.$/, '');
    return this.hint ? `${said}. ${this.hint}` : `${said}.`;
  }
}

/**
 * Converts anything that was thrown into a {@link Fault}; a `Fault` is returned unchanged.
 *
 * @param thrown anything
 * @param code code of the fault for other values
 * @param hint its hint
 * @param at the place, for messages; default none
 */
export function asFault(thrown: unknown, code: string, hint: string, at?: string): Fault {
  if (thrown instanceof Fault) return thrown;
  const message = thrown instanceof Error ? thrown.message : String(thrown);
  return new Fault(code, message, hint, at, thrown);
}

/** Rebuilds a {@link Fault} from its plain form, as it comes out of a worker. */
export function faultFrom(plain: FaultLike): Fault {
  return new Fault(plain.code, plain.message, plain.hint, plain.at);
}
