// The reader of CQL2 text against the standard's grammar, written out for a general generator of parsers: the same trees, the same
// places, and the same word on what was wanted where, for texts spoilt by chance.
import { readFileSync } from 'node:fs';
import { describe, expect, test } from '@jest/globals';
import { parseCql2 } from '@flintwright/core';
import peggy from 'peggy';

interface Failure {
  readonly location: { readonly start: { readonly line: number; readonly column: number } };
  readonly expected: readonly { readonly type: string; readonly description?: string; readonly text?: string }[] | null;
}
const grammar = readFileSync(new URL('fixtures/cql2.peggy', import.meta.url), 'utf8');
const generated = peggy.generate(grammar) as unknown as {
  parse(text: string, options: { places: WeakMap<object, unknown> }): unknown;
};

/** Places without what only the generator says of them. */
const plain = (places: unknown) =>
  JSON.stringify(places ?? null, (key, value: unknown) => (key === 'offset' || key === 'source' ? undefined : value));

/** A tree with the places of its operations and arguments. */
function withPlaces(node: unknown, places: WeakMap<object, unknown>): unknown {
  if (typeof node !== 'object' || node === null) return node;
  const parts = Object.entries(node).map(([key, value]) => [key, withPlaces(value, places)]);
  return [Array.isArray(node), plain(places.get(node)), parts];
}

function byGenerator(text: string): unknown {
  const places = new WeakMap<object, unknown>();
  try {
    return withPlaces(generated.parse(text, { places }), places);
  } catch (error) {
    const { location, expected } = error as Failure;
    const { line, column } = location.start;
    if (!expected) return `cql2.number ${line}:${column}`;
    const wanted = expected
      .filter(({ type }) => type !== 'end')
      .map(({ description, text: sign }) => description ?? (sign === undefined ? 'more' : `"${sign}"`))
      .filter((one) => one !== 'white space');
    return [`cql2.syntax ${line}:${column}`, [...new Set(wanted)]];
  }
}

function byReader(text: string, wanted: readonly string[] | undefined): unknown {
  const places = new WeakMap<object, unknown>();
  try {
    return withPlaces(parseCql2(text, places as Parameters<typeof parseCql2>[1]), places);
  } catch (error) {
    const { code, at, message } = error as { code: string; at: string; message: string };
    if (code !== 'cql2.syntax') return `${code} ${at}`;
    // The message names what was wanted, or sums a long list of it up.
    const said = / where (.*) is expected$/s.exec(message)![1];
    const all = wanted ?? [];
    const telling = all.filter((one) => !/^"([-+*/%^,]|div)"$/i.test(one));
    const right =
      all.includes('an attribute name') && all.length > 4
        ? 'a value'
        : (telling.length ? telling : all).join(' or ') || 'the end';
    return said === right ? [`${code} ${at}`, all] : said;
  }
}

const seeds = [
  "name = 'Ama' AND NOT (age > 40 OR age < 31) AND home IS NOT NULL",
  "trade = 'sail''s' OR \"a b\" <> 'x\\'y'",
  'age BETWEEN 29 AND 31 OR age NOT BETWEEN -1.5e3 AND .5',
  "CASEI(home) IN (casei('TAMVORIL'), 'b') AND name NOT LIKE '%m_'",
  'S_INTERSECTS(geometry, BBOX(4, 4, 6, 6)) AND s_within(geom, POLYGON((4 4, 6 4, 6 6, 4 4), (5 5, 5 6, 6 6, 5 5)))',
  'S_TOUCHES(MULTIPOINT((5 5), 9 9), GEOMETRYCOLLECTION(POINT Z (5 5 -2), LINESTRING(9 9, 8 8)))',
  'S_EQUALS(MULTILINESTRING((4 5, 6 5), (7 7, 8 8)), MULTIPOLYGON(((1 1, 3 1, 3 3, 1 1)), ((4 4, 6 4, 6 6, 4 4))))',
  "T_AFTER(born, DATE('2000-01-01')) AND T_EQUALS(born, TIMESTAMP('1989-11-02T06:30:00.5Z'))",
  "T_DURING(INTERVAL(from, '..'), INTERVAL('2029-01-01', DATE('2030-07-01')))",
  "A_CONTAINS(tags, ('crew', 'night')) OR a_equals(tags, ('crew')) AND A_OVERLAPS(tags, ())",
  '2 ^ 3 ^ -x = 512 - 7 - 1 + a div 7 * (b % 2) / 3',
  "concat(name, ' of ', coalesce(home, 'none')) = zoom() AND TRUE",
  'pointless(é.b·c) > datesOf(inner) AND not_yet AND orchard = intervals',
];
const signs =
  "' \" ( ) , . = < > - + * / % ^ NOT AND OR IN LIKE BETWEEN IS|NULL DATE( POINT( POINT|Z|( INTERVAL( a 1 1e9 1e999 .. '..' true div A_EQUALS( casei( é \\ 𐍈 [ BBOX( :: ² 1.5.2 TIMESTAMP( 5x"
    .split(' ')
    .map((sign) => sign.replaceAll('|', ' '))
    .concat(' ', '\n');

describe('the reader and the grammar', () => {
  test.each(seeds)('agree on %s', (text) => expect(byReader(text, undefined)).toEqual(byGenerator(text)));

  test('agree on 6,000 texts that chance has spoilt', () => {
    let state = 20311;
    const random = (below: number) => {
      state = (Math.imul(state, 1103515245) + 12345) & 0x7fffffff;
      return Math.floor((state / 0x80000000) * below);
    };
    let read = 0;
    for (let n = 0; n < 6000; n++) {
      let text = seeds[random(seeds.length)];
      for (let k = random(3); k >= 0; k--) {
        const at = random(text.length + 1);
        const other = seeds[random(seeds.length)];
        text = [
          () => text.slice(0, at) + signs[random(signs.length)] + text.slice(at),
          () => text.slice(0, at) + text.slice(at + 1 + random(4)),
          () => text.slice(0, at) + other.slice(random(other.length)),
        ][random(3)]();
      }
      const wanted = byGenerator(text);
      const list = Array.isArray(wanted) && typeof wanted[0] === 'string' ? (wanted[1] as string[]) : undefined;
      if (!list) read++;
      expect([text, byReader(text, list)]).toEqual([text, wanted]);
    }
    // Some stay readable; most are refused.
    expect(read).toBeGreaterThan(600);
    expect(read).toBeLessThan(4000);
  });
});
