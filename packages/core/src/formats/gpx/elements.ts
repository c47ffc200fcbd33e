// What the schema of GPX 1.1 (gpx.xsd) has for waypoints, routes and tracks: which elements, in which order, and with which content.

/** Namespace of the element `attribute`, which keeps what the schema has no element for. */
export const attributeSpace = 'https://flintwright.example/gpx-attributes';

/** Elements of a waypoint and of the points of routes and tracks (wptType), in order, without `ele`, `link` and `extensions`. */
export const pointElements = [
  'time',
  'magvar',
  'geoidheight',
  'name',
  'cmt',
  'desc',
  'src',
  'link',
  'sym',
  'type',
  'fix',
  'sat',
  'hdop',
  'vdop',
  'pdop',
  'ageofdgpsdata',
  'dgpsid',
] as const;

/** Elements of a route or track (rteType, trkType), in order. */
export const lineElements = ['name', 'cmt', 'desc', 'src', 'link', 'number', 'type'] as const;

/** Blanks around a text are not kept in an element. */
const isText = (value: unknown) => typeof value === 'string' && value !== '' && value === value.trim();
const isNumber = (value: unknown) => typeof value === 'number' && Number.isFinite(value);
const isWhole = (value: unknown) => Number.isSafeInteger(value) && (value as number) >= 0;

/** `xs:dateTime` (XML Schema part 2, section 3.2.7). */
const dateTime =
  /^-?\d{4,}-(0[1-9]|1[0-2])-(0[1-9]|[12]\d|3[01])T([01]\d|2[0-3]):[0-5]\d:[0-5]\d(\.\d+)?(Z|[+-](0\d|1[0-3]):[0-5]\d|[+-]14:00)?$/;

/** Whether a text is a date and time as `xs:dateTime` has it, of a day that there is. */
export function isDateTime(value: unknown): value is string {
  if (typeof value !== 'string' || !dateTime.test(value)) return false;
  const [year, month, day] = value.replace(/^-/, '').split('T')[0].split('-').map(Number);
  return day <= new Date(Date.UTC(2000 + (year % 400), month, 0)).getUTCDate();
}

const fits: Readonly<Record<string, (value: unknown) => boolean>> = {
  time: isDateTime,
  magvar: (value) => isNumber(value) && (value as number) >= 0 && (value as number) < 360,
  geoidheight: isNumber,
  fix: (value) => ['none', '2d', '3d', 'dgps', 'pps'].includes(value as string),
  sat: isWhole,
  hdop: isNumber,
  vdop: isNumber,
  pdop: isNumber,
  ageofdgpsdata: isNumber,
  dgpsid: (value) => isWhole(value) && (value as number) <= 1023,
  number: isWhole,
};

/** Whether the schema allows a value as the content of an element. */
export const isContent = (element: string, value: unknown): boolean => (fits[element] ?? isText)(value);

/** Elements whose content is a number. GPX 1.0 has two more. */
export const numericElements: ReadonlySet<string> = new Set(
  'ele magvar geoidheight sat hdop vdop pdop ageofdgpsdata dgpsid number speed course'.split(' '),
);

/** A link of a feature or of the file (linkType). */
export interface GpxLink {
  readonly href: string;
  readonly text?: string;
  readonly type?: string;
}
