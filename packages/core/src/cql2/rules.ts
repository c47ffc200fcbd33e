// The parts that a grammar is put together from: each rule reads on from a place in a text, or says what it wanted there. The first of
// several ways that fits is taken, and none is tried again (B. Ford 2004, "Parsing Expression Grammars").

/** What a rule gives where its text does not stand. */
export const missed = Symbol('missed');
export type Missed = typeof missed;
/** Reads on in the text, or leaves the place alone. */
export type Rule<T> = () => T | Missed;

type Values<R extends readonly Rule<unknown>[]> = { -readonly [K in keyof R]: R[K] extends Rule<infer T> ? T : never };

/** A place in a text, and the rules that read on from it. */
export class TextReader {
  at = 0;
  /** The farthest place at which something else was wanted, and what. */
  farthest = 0;
  wanted: string[] = [];
  private quiet = 0;
  text = '';

  /** Takes up a text, from its beginning. */
  begin(text: string): void {
    this.text = text;
    this.at = this.farthest = this.quiet = 0;
    this.wanted = [];
  }

  /** Notes what was wanted here. */
  miss(what: string): Missed {
    if (this.quiet || this.at < this.farthest) return missed;
    if (this.at > this.farthest) [this.farthest, this.wanted] = [this.at, []];
    this.wanted.push(what);
    return missed;
  }

  /** A text as it stands, with small or capital letters. */
  is(word: string): Rule<string> {
    const lower = word.toLowerCase();
    return () => {
      const came = this.text.slice(this.at, this.at + word.length);
      if (came.toLowerCase() !== lower) return this.miss(`"${word}"`);
      this.at += word.length;
      return came;
    };
  }

  /** What a sticky pattern finds here. */
  like(pattern: RegExp, what: string): Rule<string> {
    return () => {
      pattern.lastIndex = this.at;
      const came = pattern.exec(this.text)?.[0];
      if (came === undefined) return this.miss(what);
      this.at += came.length;
      return came;
    };
  }

  /** A rule under a name, which stands for all that was wanted within. */
  under<T>(what: string, rule: Rule<T>): Rule<T> {
    return () => {
      this.quiet++;
      const value = rule();
      this.quiet--;
      return value === missed ? this.miss(what) : value;
    };
  }

  /** All of some rules, one after the other. */
  all<R extends readonly Rule<unknown>[]>(...rules: R): Rule<Values<R>> {
    return () => {
      const from = this.at;
      const values: unknown[] = [];
      for (const rule of rules) {
        const value = rule();
        if (value === missed) {
          this.at = from;
          return missed;
        }
        values.push(value);
      }
      return values as Values<R>;
    };
  }

  /** The first of some rules that fits. */
  any<R extends readonly Rule<unknown>[]>(...rules: R): Rule<Values<R>[number]> {
    return () => {
      for (const rule of rules) {
        const value = rule();
        if (value !== missed) return value as Values<R>[number];
      }
      return missed;
    };
  }

  /** A rule as often as it fits. */
  many<T>(rule: Rule<T>): Rule<T[]> {
    return () => {
      const values: T[] = [];
      for (let value = rule(); value !== missed; value = rule()) values.push(value);
      return values;
    };
  }

  /** A rule, or nothing. */
  maybe<T>(rule: Rule<T>): Rule<T | undefined> {
    return () => {
      const value = rule();
      return value === missed ? undefined : value;
    };
  }

  /** Whether a rule fits here; nothing is read. */
  ahead(rule: Rule<unknown>): boolean {
    const from = this.at;
    this.quiet++;
    const fits = rule() !== missed;
    this.quiet--;
    this.at = from;
    return fits;
  }

  /** What is made of what a rule reads, and of where it begins. */
  made<T, U>(rule: Rule<T>, make: (value: T, from: number) => U | Missed): Rule<U> {
    return () => {
      const from = this.at;
      const value = rule();
      if (value === missed) return missed;
      const out = make(value, from);
      if (out === missed) this.at = from;
      return out;
    };
  }
}
