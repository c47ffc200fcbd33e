/** Which coordinate a text with a hemisphere gives. */
export interface Angle {
  /** Degrees; negative to the south and west. */
  readonly degrees: number;
  /** `lat` or `lon` where a letter says so. */
  readonly axis: 'lat' | 'lon' | undefined;
}

const form =
  /^([NSEWO])?\s*([-+−])?\s*(\d{1,3}(?:[.,]\d+)?)\s*(?:[°º]|deg|d|:|\s)?\s*(?:(\d{1,2}(?:[.,]\d+)?)\s*(?:['′’]|min|m|:|\s)?\s*)?(?:(\d{1,2}(?:[.,]\d+)?)\s*(?:["″”]|''|′′|sec|s)?\s*)?([NSEWO])?$/i;

/**
 * An angle in degrees, or degrees and minutes, or degrees, minutes and seconds, in any of their usual spellings, with a sign or the
 * letter of the hemisphere before or behind (O for west or east is left to nobody's guess: it is refused); undefined for anything else.
 *
 * @param text such as `44°37'12.5"N`, `31 11 04 W`, `-31,184`
 */
export function readAngle(text: string): Angle | undefined {
  const match = text.length > 64 ? null : form.exec(text.trim());
  if (!match) return undefined;
  const [, before, sign, whole, minutes = '0', seconds = '0', behind] = match;
  const letter = (before ?? behind)?.toUpperCase();
  if ((before && behind) || letter === 'O') return undefined;
  const [d, m, s] = [whole, minutes, seconds].map((part) => Number(part.replace(',', '.')));
  // Parts of a degree stand in the last part alone.
  if (
    m >= 60 ||
    s >= 60 ||
    (match[4] !== undefined && /[.,]/.test(whole)) ||
    (match[5] !== undefined && /[.,]/.test(minutes))
  )
    return undefined;
  const size = d + m / 60 + s / 3600;
  const negative = letter === 'S' || letter === 'W' || (sign !== undefined && sign !== '+');
  const axis = letter === undefined ? undefined : letter === 'N' || letter === 'S' ? 'lat' : 'lon';
  return { degrees: negative ? -size : size, axis };
}

/** Two angles in one text, such as `44°37'12"N 31°11'04"W` or `44.62, -31.18`, as longitude and latitude; undefined for anything else. */
export function readAnglePair(text: string): readonly [number, number] | undefined {
  const trimmed = text.trim();
  // No pair is longer; what is would cost the patterns time.
  if (trimmed.length > 96) return undefined;
  const lettered =
    /^(.*?[NS])\s*[,;/]?\s*(.*?[EW])$/i.exec(trimmed) ?? /^(.*?[EW])\s*[,;/]?\s*(.*?[NS])$/i.exec(trimmed);
  const leading = /^([NS].*?)\s*[,;/]?\s*([EW].*)$/i.exec(trimmed) ?? /^([EW].*?)\s*[,;/]?\s*([NS].*)$/i.exec(trimmed);
  const halves =
    (/^[NSEW]/i.test(trimmed) ? leading : lettered) ??
    /^([^,;]+?)\s*[,;]\s+([^,;]+)$/.exec(trimmed) ??
    /^([^;]+);([^;]+)$/.exec(trimmed) ??
    /^([^,]+),([^,]+)$/.exec(trimmed);
  if (!halves) return undefined;
  const [a, b] = [readAngle(halves[1]), readAngle(halves[2])];
  if (!a || !b) return undefined;
  // Without letters, people write the latitude first.
  return a.axis === 'lon' || b.axis === 'lat' ? [a.degrees, b.degrees] : [b.degrees, a.degrees];
}
