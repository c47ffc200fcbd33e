/** Minute of the day at which the tide begins, at high water. */
const start = 14 * 60 + 10;
/** Length of the tide in minutes. */
export const length = 745;

/** Minutes of the day between which it is day, and how long dusk and dawn take. */
const [sunrise, sunset, twilight] = [5.6 * 60, 20.6 * 60, 50];

/** What a clock shows, so many minutes after high water. */
export function clock(minute: number): string {
  const of = Math.round(start + minute) % 1440;
  return `${String(Math.floor(of / 60)).padStart(2, '0')}:${String(of % 60).padStart(2, '0')}`;
}

/** How dark it is, 0 by day to 1 by night. */
export function darkness(minute: number): number {
  const of = (start + minute) % 1440;
  const share = (after: number) => Math.max(0, Math.min(1, after / twilight));
  return of > 720 ? share(of - sunset) : 1 - share(of - sunrise + twilight);
}

/** The curve of a tide: heights at equal intervals. */
export class TideCurve {
  constructor(
    readonly heights: readonly number[],
    private readonly every: number,
  ) {}

  /** Meters above low water. */
  level(minute: number): number {
    const at = Math.max(0, Math.min(this.heights.length - 1.001, minute / this.every));
    const i = Math.floor(at);
    return this.heights[i] + (this.heights[i + 1] - this.heights[i]) * (at - i);
  }

  /** The stream, −1 for the strongest flood to 1 for the strongest ebb. */
  stream(minute: number): number {
    const rate = (m: number) => this.level(m - 10) - this.level(m + 10);
    const most = Math.max(...this.heights.map((_, i) => Math.abs(rate(i * this.every))));
    return rate(minute) / most;
  }
}

/** Whether a light with a character such as `Fl(3) 15 s` or `Q` is lit after some seconds. */
export function isLit(character: string, seconds: number): boolean {
  if (character.startsWith('Q')) return seconds % 1 < 0.4;
  const [, group = '1', period = '10'] = /^Fl(?:\((\d+)\))?\s*(\d+)/.exec(character) ?? [];
  const at = seconds % Number(period);
  return at < Number(group) * 1.6 && at % 1.6 < 0.7;
}
