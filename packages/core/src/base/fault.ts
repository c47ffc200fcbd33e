/**
 * A refusal, in the form in which every part of Flintwright reports it.
 *
 * - `code`: stable, dotted, lower case; programs may compare it.
 * - `message`: what came and what is allowed.
 * - `hint`: what to do about it.
 * - `at`: where, if that can be said: a byte offset, a JSON path, `line:column`, a URL or a file.
 */
export interface FaultLike {
  readonly code: string;
  readonly message: string;
  readonly hint: string;
  readonly at?: string;
}

/** The error thrown by every function of Flintwright that is handed something it cannot take. */
export class Fault extends Error implements FaultLike {
  override readonly name = 'Fault';
  readonly code: string;
  readonly hint: string;
  readonly at?: string;

  /**
   * Makes a fault.
   *
   * @param code stable name, such as `geojson.json`
   * @param message what came, and what is allowed
   * @param hint what to do
   * @param at where: a path, line or address; default none
   * @param cause what was thrown before; default none
   */
  constructor(code: string, message: string, hint: string, at?: string, cause?: unknown) {
    super(message, cause === undefined ? undefined : { cause });
    this.code = code;
    this.hint = hint;
    if (at !== undefined) this.at = at;
  }

  /** The fault in plain form, for a worker message, a log line or JSON. */
  toJSON(): FaultLike {
    return {
      code: this.code,
      message: this.message,
      hint: this.hint,
      ...(this.at === undefined ? {} : { at: this.at }),
    };
  }

  /** One paragraph for a person: message, place and hint. */
  override toString(): string {
    // A message that quotes a sentence ends with its full stop.
    const said = this.at ? `${this.message} (at ${this.at})` : this.message.replace(/\.$/, '');
    return this.hint ? `${said}. ${this.hint}` : `${said}.`;
  }
}

/**
 * Turns anything that was thrown into a {@link Fault}; a `Fault` comes back as it is.
 *
 * @param thrown anything
 * @param code code of the fault made of what is none
 * @param hint its hint
 * @param at where it came from, for messages; default none
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
