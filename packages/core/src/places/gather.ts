import KDBush from 'kdbush';
import { append, greatest } from '../base/lists.js';
import { innerPoint } from '../geometry/inner-point.js';
import { markSignificance } from '../geometry/simplify.js';
import { crossingsOf } from './crossings.js';
import { foldText } from './fold.js';
import type { GatheredPlace, PlaceOutline } from './record.js';

/** A geometry in the form of RFC 7946, in degrees. */
export interface PlaceGeometry {
  readonly type: string;
  readonly coordinates?: unknown;
  readonly geometries?: readonly PlaceGeometry[];
}

/** A feature that may have a name or an address. */
export interface PlaceFeature {
  readonly id?: string | number;
  readonly geometry: PlaceGeometry | null;
  readonly properties: Readonly<Record<string, unknown>>;
}

/** A list of features under one name, such as `roads`. */
export interface PlaceList {
  readonly name: string;
  readonly features: readonly PlaceFeature[];
}

/** What was gathered, and what had neither name nor place. */
export interface Gathered {
  readonly places: readonly GatheredPlace[];
  readonly nameless: number;
  readonly unplaced: number;
}

const spellings = {
  name: ['name', 'title', 'label', 'placename', 'fullname'],
  kind: ['kind', 'class', 'type', 'category', 'placetype', 'featuretype'],
  number: ['number', 'housenumber', 'houseno', 'hnr', 'addrhousenumber', 'nr'],
  street: ['street', 'streetname', 'road', 'addrstreet'],
  town: ['town', 'city', 'municipality', 'addrcity', 'locality', 'suburb', 'county', 'region', 'nation', 'country'],
  postcode: ['postcode', 'postalcode', 'zip', 'zipcode', 'addrpostcode'],
  people: ['people', 'population', 'inhabitants', 'pop'],
  others: ['altname', 'alternatenames', 'othernames', 'aliases', 'synonyms', 'oldname', 'shortname'],
} as const;

type Role = keyof typeof spellings;

/** What people live in, and meters from its middle within which things are said to lie in it. */
const settlements: Readonly<Record<string, number>> = {
  metropolis: 40000,
  city: 25000,
  town: 9000,
  borough: 6000,
  suburb: 4000,
  municipality: 9000,
  village: 3000,
  hamlet: 1500,
  settlement: 4000,
};
const weights: Readonly<Record<string, number>> = { capital: 0.9, city: 0.8, town: 0.7, village: 0.55, hamlet: 0.45 };
const metersPerDegree = 111195;

/** Attributes of a list by what they say. */
function rolesOf(features: readonly PlaceFeature[]): Partial<Record<Role, string>> & { languages: [string, string][] } {
  const keys = new Set<string>();
  for (const { properties } of features.slice(0, 2000)) for (const key of Object.keys(properties)) keys.add(key);
  const found: Partial<Record<Role, string>> & { languages: [string, string][] } = { languages: [] };
  for (const role of Object.keys(spellings) as Role[])
    for (const word of spellings[role]) {
      const key = [...keys].find((one) => foldText(one).replace(/[^a-z]/g, '') === word);
      if (key !== undefined && found[role] === undefined) found[role] = key;
    }
  for (const key of keys) {
    const language = /^name[:_]([a-z]{2,3}(?:-[a-zA-Z]{2,8})*)$/.exec(key)?.[1];
    if (language) found.languages.push([language, key]);
  }
  return found;
}

const textOf = (value: unknown): string =>
  typeof value === 'string' ? value.trim() : typeof value === 'number' ? String(value) : '';

/**
 * Gathers the entries of a gazetteer from features: what has a name, streets in one piece, addresses, and where streets meet.
 *
 * @param lists features in longitude and latitude; attributes are told by their names in several spellings
 */
export function gather(lists: readonly PlaceList[]): Gathered {
  const places: Draft[] = [];
  const shared = new SharedTexts();
  let [nameless, unplaced] = [0, 0];
  const streetNames = new Set<string>();
  const read = lists.map((list) => ({ list, roles: rolesOf(list.features) }));
  for (const { list, roles } of read)
    if (roles.number && roles.street)
      for (const { properties } of list.features) streetNames.add(textOf(properties[roles.street]));
  for (const { list, roles } of read) {
    const streets = new Map<string, Piece[]>();
    const say = (properties: PlaceFeature['properties'], role: Role) => {
      const key = roles[role];
      return key === undefined ? '' : textOf(properties[key]);
    };
    list.features.forEach((feature, i) => {
      const { properties } = feature;
      const number = say(properties, 'number');
      const street = say(properties, 'street');
      const isAddress = number !== '' && street !== '';
      const name = isAddress ? street : say(properties, 'name');
      if (!name) {
        nameless++;
        return;
      }
      const form = formOf(feature.geometry);
      if (!form) {
        unplaced++;
        return;
      }
      const kind = isAddress ? 'address' : say(properties, 'kind') || list.name;
      const draft = draftOf(
        isAddress ? 'address' : 'place',
        shared.text(name),
        form,
        shared.text(kind),
        isAddress ? shared.text(number) : '',
      );
      draft.names = namesOf(properties, roles, name);
      draft.within = shared.text(withinOf(say(properties, 'town'), say(properties, 'postcode')));
      draft.list = list.name;
      draft.id = feature.id ?? i;
      draft.weight = isAddress ? 0.1 : 0;
      const { outline } = form;
      if (!isAddress && outline && !outline.area && isStreetList(list.name, name, streetNames))
        push(streets, name, draft);
      else {
        if (!isAddress) draft.weight = weightOf(kind, say(properties, 'people'));
        places.push(draft);
      }
    });
    append(places, wholeStreets(streets));
  }
  settle(places);
  append(places, crossingsOf(places) as Draft[]);
  return { places, nameless, unplaced };
}

/** An entry that is being gathered. All are made in one place, so that the engine keeps them in one form. */
type Draft = { -readonly [K in keyof GatheredPlace]: GatheredPlace[K] };

const noNames: GatheredPlace['names'] = [];

const draftOf = (
  role: Draft['role'],
  name: string,
  { at, bounds, outline }: Form,
  kind: string,
  number: string,
): Draft => ({
  role,
  name,
  number,
  names: noNames,
  kind,
  within: '',
  at,
  bounds,
  list: '',
  id: undefined,
  weight: 0,
  outline,
});

/** Texts that many entries have, each held once. */
class SharedTexts {
  private readonly known = new Map<string, string>();

  text(text: string): string {
    const there = this.known.get(text);
    if (there !== undefined) return there;
    // Names of which each is another are not worth keeping.
    if (this.known.size > 1 << 17) this.known.clear();
    this.known.set(text, text);
    return text;
  }
}

const withinOf = (town: string, postcode: string) => (town && postcode ? `${town} ${postcode}` : town || postcode);

/** Other names of a feature, by their languages. */
function namesOf(
  properties: PlaceFeature['properties'],
  { languages, others: key }: ReturnType<typeof rolesOf>,
  name: string,
): GatheredPlace['names'] {
  const others = key === undefined ? '' : textOf(properties[key]);
  if (!languages.length && !others) return noNames;
  const names: [string, string][] = [];
  for (const [language, own] of languages) {
    const other = textOf(properties[own]);
    if (other && other !== name) names.push([language, other]);
  }
  if (others) for (const other of others.split(/[;|]/)) if (other.trim()) names.push(['', other.trim()]);
  return names.length ? names : noNames;
}

function push<T>(map: Map<string, T[]>, key: string, value: T): void {
  const there = map.get(key);
  if (there) there.push(value);
  else map.set(key, [value]);
}

const isStreetList = (list: string, name: string, known: ReadonlySet<string>) =>
  known.has(name) || /(road|street|highway|lane|path|strasse|straße|rue|calle)/i.test(list);

function weightOf(kind: string, people: string): number {
  const count = Number(people);
  const byKind = weights[foldText(kind)] ?? 0.4;
  return count > 1 ? Math.min(1, Math.max(byKind, Math.log10(count) / 7.5)) : byKind;
}

/** A piece of a street, which has an outline. */
type Piece = Draft;

type Box = readonly [number, number, number, number];

const joined = (a: Box, b: Box): Box => [
  Math.min(a[0], b[0]),
  Math.min(a[1], b[1]),
  Math.max(a[2], b[2]),
  Math.max(a[3], b[3]),
];

/** Pieces of a street further apart than this, in degrees of latitude, are streets of the same name in different places. */
const streetGap = 500 / metersPerDegree;

function apart(a: Box, b: Box): number {
  const lon = Math.max(0, a[0] - b[2], b[0] - a[2]) * Math.cos((a[1] * Math.PI) / 180);
  return Math.max(lon, a[1] - b[3], b[1] - a[3]);
}

/** Pieces of one name in groups: each lies near another of its group. They are gone through from west to east, so that only those in reach are compared. */
function nearGroups(pieces: readonly Piece[]): Piece[][] {
  const sorted = pieces.toSorted((a, b) => a.bounds![0] - b.bounds![0]);
  const groupOf = new Map<Piece, Piece[]>();
  let open: Piece[] = [];
  for (const piece of sorted) {
    const box = piece.bounds!;
    // A degree of longitude is widest at the equator: there a gap takes up the least of them.
    const reach = streetGap / Math.max(0.001, Math.cos((box[1] * Math.PI) / 180));
    let group = [piece];
    groupOf.set(piece, group);
    open = open.filter((other) => other.bounds![2] + 2 * reach >= box[0]);
    for (const other of open) {
      const theirs = groupOf.get(other)!;
      if (theirs === group || apart(other.bounds!, box) > streetGap) continue;
      const [from, into] = theirs.length > group.length ? [group, theirs] : [theirs, group];
      for (const one of from) groupOf.set(one, into);
      append(into, from);
      group = into;
    }
    open.push(piece);
  }
  return [...new Set(groupOf.values())];
}

/** Streets, each in one entry: pieces of one name that lie near each other. */
function wholeStreets(streets: ReadonlyMap<string, readonly Piece[]>): Draft[] {
  const out: Draft[] = [];
  for (const pieces of streets.values()) {
    for (const own of nearGroups(pieces)) {
      const box = own.map(({ bounds }) => bounds!).reduce(joined);
      const longest = own.reduce((a, b) => (b.outline!.paths[0].length > a.outline!.paths[0].length ? b : a));
      const paths = own.flatMap(({ outline }) => outline!.paths);
      longest.role = 'street';
      longest.weight = 0.35;
      longest.bounds = box;
      longest.outline = { area: false, paths };
      out.push(longest);
    }
  }
  return out;
}

/** Gives entries that say nothing of where they lie the settlement that is nearest in measure of its size. */
function settle(places: readonly Draft[]): void {
  const towns = places.flatMap(({ role, kind, name, at }) => {
    const reach = role === 'place' ? settlements[foldText(kind)] : undefined;
    return reach ? [{ name, at, reach }] : [];
  });
  if (!towns.length) return;
  const tree = new KDBush(towns.length);
  for (const { at } of towns) tree.add(at[0], at[1]);
  tree.finish();
  const farthest = greatest(towns.map(({ reach }) => reach)) / metersPerDegree;
  const isSettlement = new Map<string, boolean>();
  for (const place of places) {
    let known = isSettlement.get(place.kind);
    if (known === undefined) isSettlement.set(place.kind, (known = settlements[foldText(place.kind)] !== undefined));
    if (place.within || known || place.outline?.area) continue;
    let [best, share] = ['', 1];
    const [x, y] = place.at;
    const wide = Math.cos((y * Math.PI) / 180);
    const across = farthest / Math.max(0.001, wide);
    for (const i of tree.range(x - across, y - farthest, x + across, y + farthest)) {
      const { name, at, reach } = towns[i];
      const away = Math.hypot((at[0] - x) * wide, at[1] - y) * metersPerDegree;
      if (away / reach < share) [best, share] = [name, away / reach];
    }
    if (best && best !== place.name) place.within = best;
  }
}

interface Form {
  readonly at: readonly [number, number];
  readonly bounds: Box | undefined;
  readonly outline: PlaceOutline | undefined;
}

/** Where a geometry lies: its point, its middle along the line, or a point well inside its largest area. */
function formOf(geometry: PlaceGeometry | null): Form | undefined {
  if (geometry?.type === 'Point' && Array.isArray(geometry.coordinates)) {
    const [x, y] = geometry.coordinates as unknown[];
    const at = [Number(x), Number(y)] as const;
    return at.every(Number.isFinite) ? { at, bounds: undefined, outline: undefined } : undefined;
  }
  const paths: Float64Array[] = [];
  let dimension = -1;
  const take = (one: PlaceGeometry) => {
    if (one.type === 'GeometryCollection') one.geometries?.forEach(take);
    else {
      const of = one.type.endsWith('Polygon') ? 2 : one.type.endsWith('LineString') ? 1 : 0;
      if (of < dimension) return;
      if (of > dimension) paths.length = 0;
      dimension = of;
      eachPath(one.coordinates, paths);
    }
  };
  if (geometry) take(geometry);
  const filled = paths.filter((path) => path.length > 0);
  if (!filled.length || filled.some((path) => !path.every(Number.isFinite))) return undefined;
  if (dimension === 0) return { at: [filled[0][0], filled[0][1]], bounds: undefined, outline: undefined };
  const bounds = filled.map(boxOfPath).reduce(joined);
  const longest = filled.reduce((a, b) => (size(b) > size(a) ? b : a));
  const at = dimension === 1 ? middleOf(longest) : insideOf(longest);
  const finest = Math.max(bounds[2] - bounds[0], bounds[3] - bounds[1]) / (dimension === 1 ? 1000 : 200);
  return { at, bounds, outline: { area: dimension === 2, paths: filled.map((path) => coarser(path, finest)) } };
}

const size = (path: Float64Array) => {
  const [w, s, e, n] = boxOfPath(path);
  return Math.hypot(e - w, n - s);
};

function eachPath(coordinates: unknown, out: Float64Array[]): void {
  if (!Array.isArray(coordinates) || !coordinates.length) return;
  const [first] = coordinates as unknown[];
  if (typeof first === 'number') out.push(Float64Array.of(first, Number((coordinates as unknown[])[1])));
  else if (Array.isArray(first) && typeof first[0] === 'number')
    out.push(Float64Array.from((coordinates as number[][]).flatMap(([x, y]) => [x, y])));
  else for (const part of coordinates) eachPath(part, out);
}

function boxOfPath(path: Float64Array): Box {
  const box: [number, number, number, number] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let i = 0; i < path.length; i += 2) {
    box[0] = Math.min(box[0], path[i]);
    box[1] = Math.min(box[1], path[i + 1]);
    box[2] = Math.max(box[2], path[i]);
    box[3] = Math.max(box[3], path[i + 1]);
  }
  return box;
}

function middleOf(path: Float64Array): [number, number] {
  const lengths: number[] = [];
  for (let i = 2; i < path.length; i += 2) lengths.push(Math.hypot(path[i] - path[i - 2], path[i + 1] - path[i - 1]));
  let left = lengths.reduce((sum, length) => sum + length, 0) / 2;
  for (let k = 0; k < lengths.length; k++) {
    if (left <= lengths[k] && lengths[k] > 0) {
      const t = left / lengths[k];
      const i = 2 * k;
      return [path[i] + (path[i + 2] - path[i]) * t, path[i + 1] + (path[i + 3] - path[i + 1]) * t];
    }
    left -= lengths[k];
  }
  return [path[0], path[1]];
}

function insideOf(ring: Float64Array): [number, number] {
  const [x, y] = innerPoint(ring, [0, ring.length >> 1], 0, 1);
  return [x, y];
}

/** A path without the vertices that matter less than a distance, in its own units. */
function coarser(path: Float64Array, finest: number): Float64Array {
  const count = path.length >> 1;
  const marks = new Float64Array(count);
  markSignificance(path, 0, count, false, marks);
  const kept: number[] = [];
  for (let i = 0; i < count; i++) if (marks[i] > finest * finest) kept.push(path[2 * i], path[2 * i + 1]);
  return Float64Array.from(kept);
}
