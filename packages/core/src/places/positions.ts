import { readAnglePair } from '../base/angles.js';

/** A position in a text. */
export interface TextPosition {
  /** `[longitude, latitude]` in degrees. */
  readonly at: readonly [number, number];
  /** How the text was read. */
  readonly as: 'degrees' | 'UTM' | 'MGRS' | 'system';
}

/**
 * The positions that a text may stand for, likeliest first; none for a text that gives no position. It may be
 *
 * - two angles with letters of the hemisphere, or two numbers: decimal degrees with a point or a comma, or degrees, minutes and seconds. Without
 *   letters both orders are meant where both are possible, latitude first;
 * - a zone of UTM with its band or hemisphere, easting and northing, such as `25T 641000 4942000`;
 * - a reference of the Military Grid Reference System, such as `25TFK 41000 42000`: the middle of its square (NGA.STND.0037_2.0.0_GRIDS, section 3);
 * - the code of a coordinate system and two numbers, east first, such as `EPSG:32625 641000 4942000`.
 *
 * @param text as somebody types it
 * @throws Fault `crs.*` for a code that no coordinate system has
 */
export async function positionsInText(text: string): Promise<TextPosition[]> {
  const trimmed = text.trim();
  if (trimmed.length > 96 || !/\d/.test(trimmed)) return [];
  const coded = /^([A-Za-z]+:[\w.-]+)[\s,;]+(\S.*)$/.exec(trimmed);
  if (coded) {
    const numbers = twoNumbers(coded[2]);
    if (!numbers) return [];
    const { crsByCode } = await import('../crs/match.js');
    const crs = await crsByCode(coded[1]);
    const out: [number, number] = [0, 0];
    return crs.inverse(numbers[0], numbers[1], out) && isPlace(out) ? [{ at: out, as: 'system' }] : [];
  }
  return [...(await inMgrs(trimmed)), ...(await inUtm(trimmed)), ...inDegrees(trimmed)];
}

const isPlace = ([lon, lat]: readonly [number, number]) => Math.abs(lat) <= 90 && Math.abs(lon) <= 360;

const number = String.raw`[-+−]?\d+(?:[.,]\d+)?`;
const parted = new RegExp(`^(${number})(?:\\s*[;]\\s*|\\s*,\\s+|\\s+)(${number})$`);

/** Two numbers that a blank, a semicolon, or a comma and a blank part; where points are the decimal signs, a comma alone. */
function twoNumbers(text: string): readonly [number, number] | undefined {
  const [, a, b] = parted.exec(text) ?? /^([-+−]?\d+(?:\.\d+)?),([-+−]?\d+(?:\.\d+)?)$/.exec(text) ?? [];
  if (a === undefined) return undefined;
  return [a, b].map((one) => Number(one.replace('−', '-').replace(',', '.'))) as unknown as readonly [number, number];
}

function inDegrees(text: string): TextPosition[] {
  const numbers = twoNumbers(text);
  const isLettered = /[NSEW]/i.test(text);
  const pair = numbers ? ([numbers[1], numbers[0]] as const) : readAnglePair(text);
  if (!pair) return [];
  const orders = isLettered ? [pair] : [pair, [pair[1], pair[0]] as const];
  const found = orders.filter(isPlace).map((at): TextPosition => ({ at, as: 'degrees' }));
  return found.length === 2 && pair[0] === pair[1] ? [found[0]] : found;
}

/** Bands of latitude, 8° each from 80° S, the last to 84° N. */
const bands = 'CDEFGHJKLMNPQRSTUVWX';
/** Letters of columns and rows of 100 km squares: I and O are left out. */
const columns = 'ABCDEFGHJKLMNPQRSTUVWXYZ';
const rows = 'ABCDEFGHJKLMNPQRSTUV';

const southEdge = (band: string) => -80 + 8 * bands.indexOf(band);
const northEdge = (band: string) => (band === 'X' ? 84 : southEdge(band) + 8);

/** Degrees for easting and northing of a UTM zone. */
async function fromUtm(
  zone: number,
  isSouth: boolean,
  easting: number,
  northing: number,
): Promise<readonly [number, number] | undefined> {
  const { findCrs } = await import('../crs/registry.js');
  const crs = zone >= 1 && zone <= 60 ? findCrs(`EPSG:${(isSouth ? 32700 : 32600) + zone}`) : undefined;
  const out: [number, number] = [0, 0];
  return crs?.inverse(easting, northing, out) && isPlace(out) ? out : undefined;
}

async function inUtm(text: string): Promise<TextPosition[]> {
  const form = new RegExp(
    String.raw`^(?:UTM\s*)?(\d{1,2})\s*([C-HJ-NP-X])\s*[,;]?\s+(\d{5,7}(?:[.,]\d+)?)\s*(?:m\s*)?E?\s*[,;]?\s+(\d{1,8}(?:[.,]\d+)?)\s*(?:m\s*)?N?$`,
    'i',
  );
  const [, zone, letter, east, north] = form.exec(text) ?? [];
  if (zone === undefined) return [];
  const band = letter.toUpperCase();
  const [easting, northing] = [east, north].map((one) => Number(one.replace(',', '.')));
  const found: TextPosition[] = [];
  const add = async (isSouth: boolean, holds: (lat: number) => boolean) => {
    const at = await fromUtm(Number(zone), isSouth, easting, northing);
    if (at && holds(at[1]) && !found.some((other) => other.at.join() === at.join())) found.push({ at, as: 'UTM' });
  };
  // A band begins north or south of the equator. N and S may stand for the hemisphere too.
  await add(band < 'N', (lat) => lat >= southEdge(band) - 0.1 && lat <= northEdge(band) + 0.1);
  if (band === 'N' || band === 'S') await add(band === 'S', (lat) => (band === 'S' ? lat < 0 : lat >= 0));
  return found;
}

async function inMgrs(text: string): Promise<TextPosition[]> {
  const form = /^(\d{1,2})\s*([C-HJ-NP-X])\s*([A-HJ-NP-Z])([A-HJ-NP-V])\s*(\d*)\s*(\d*)$/i;
  const [, zoneText, bandText, columnText, rowText, first, second] = form.exec(text) ?? [];
  if (zoneText === undefined) return [];
  const digits = first + second;
  if (digits.length % 2 || digits.length > 10 || (second && first.length !== second.length)) return [];
  const zone = Number(zoneText);
  const [band, column, row] = [bandText, columnText, rowText].map((one) => one.toUpperCase());
  // Columns take eight letters in each zone, in three sets; rows begin with A in odd zones and with F in even ones, every 2,000 km.
  const across = columns.indexOf(column) - 8 * ((zone - 1) % 3);
  if (across < 0 || across > 7) return [];
  const up = (rows.indexOf(row) + (zone % 2 ? 0 : 15)) % 20;
  const half = digits.length / 2;
  const side = 10 ** (5 - half);
  const within = (of: string) => (of ? Number(of) * side : 0) + side / 2;
  const easting = 1e5 * (across + 1) + within(digits.slice(0, half));
  for (let cycle = 0; cycle < 5; cycle++) {
    const northing = 2e6 * cycle + 1e5 * up + within(digits.slice(half));
    const at = await fromUtm(zone, band < 'N', easting, northing);
    // The middle of a square at the edge of a band may lie in the next.
    if (at && at[1] > southEdge(band) - 0.5 && at[1] < northEdge(band) + 0.5) return [{ at, as: 'MGRS' }];
  }
  return [];
}
