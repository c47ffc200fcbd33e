// Conformance cases of our own for the classes of OGC 21-065r2: one block of rows a class.
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  areaOf,
  compileCql2,
  formatValue,
  geodesicLength,
  parseCql2,
  readCql2Json,
  readGeoJson,
  relate,
  shapeOfGeometry,
  writeCql2,
  type Expression,
} from '@flintwright/core';
import { foldedCase, withGeometryAnswers } from '@flintwright/core/internal';

const polygon = (...ring: number[][]) => ({ type: 'Polygon', coordinates: [ring] });
const people = readGeoJson({
  type: 'FeatureCollection',
  features: [
    {
      properties: {
        name: 'Ama',
        age: 30,
        home: null,
        born: '2001-04-18',
        tags: ['crew', 'night'],
        from: '2030-01-01',
        to: '2030-06-30',
      },
      geometry: polygon([0, 0], [1, 0], [1, 1], [0, 1], [0, 0]),
    },
    {
      properties: {
        name: 'Béa',
        age: 41.5,
        home: 'Tamvoril',
        trade: "sail's",
        born: '1989-11-02T06:30:00Z',
        tags: ['crew'],
        from: '2030-06-30',
        to: '2030-12-31',
      },
      geometry: {
        type: 'LineString',
        coordinates: [
          [0, 0],
          [2, 2],
        ],
      },
    },
    {
      properties: { name: 'cyn', home: 'Hallow Quay', ok: true, low: 10, age2: 12 },
      geometry: { type: 'Point', coordinates: [5, 5] },
    },
  ].map((feature, id) => ({ type: 'Feature', id, ...feature })),
});
const answers = (source: string | Expression, block = people) => {
  const evaluate = compileCql2(source).bind({ block, zoom: 11 });
  return [0, 1, 2].map((f) => evaluate(f) ?? null);
};

// Three answers, one a feature; null stands for unknown.
const classes: Record<string, [string, unknown[]][]> = {
  'Basic CQL2': [
    ["name = 'Ama'", [true, false, false]],
    ['age >= 41.5', [false, true, null]],
    ['age <> 30', [false, true, null]],
    ['home IS NULL AND age < 31', [true, false, false]],
    ['home is not null', [false, true, true]],
    ['ok', [null, null, true]],
    ['ok = TRUE', [null, null, true]],
    ["age > 40 OR name = 'cyn'", [false, true, true]],
    ['age > 40 AND home IS NULL', [false, false, false]],
    ['NOT (age > 40 OR age < 31)', [false, false, null]],
    ["trade = 'sail''s'", [null, true, null]],
    ['"age" = 30', [true, false, null]],
    ["born = DATE('2001-04-18')", [true, false, null]],
    ["born < TIMESTAMP('1989-11-02T06:30:01Z')", [false, true, null]],
    ["NOT NOT name = 'Ama'", [true, false, false]],
    ['1e3 = 1000 AND .5 = 0.50', [true, true, true]],
    ['age = +30 OR age > -1 + +50', [true, false, null]],
    ['age = +3.0e+1', [true, false, null]],
  ],
  'Advanced Comparison Operators': [
    ["name LIKE 'B_a' OR name LIKE 'c%'", [false, true, true]],
    ["name NOT LIKE '%m%'", [false, true, true]],
    ["'100%' LIKE '100\\%'", [true, true, true]],
    ['age BETWEEN 29 AND 31', [true, false, null]],
    ['age NOT BETWEEN 29 AND 31', [false, true, null]],
    ["born BETWEEN DATE('1989-01-01') AND DATE('1990-01-01')", [false, true, null]],
    ["home IN ('Tamvoril', 'Sallowmere')", [null, true, false]],
    ["NOT (home IN ('Tamvoril'))", [null, false, true]],
    ["home NOT IN ('Tamvoril')", [null, false, true]],
    ["born IN (DATE('2001-04-18'), DATE('2002-01-01'))", [true, false, null]],
    ['age IN (29 + 1, 7)', [true, false, null]],
    // Three values, as the comparisons that stand for them.
    ['10 IN (low, 7)', [null, null, true]],
    ['7 IN (low, 7)', [true, true, true]],
    ["home IN (name, 'Tamvoril')", [null, true, false]],
    ['5 BETWEEN 6 AND low', [false, false, false]],
    ['5 BETWEEN low AND 4', [false, false, false]],
    ['5 BETWEEN low AND 6', [null, null, false]],
    ['5 BETWEEN 4 AND low', [null, null, true]],
    ["DATE('2000-01-01') BETWEEN DATE('2001-01-01') AND born", [false, false, false]],
  ],
  'Case-insensitive Comparison': [
    ["CASEI(name) = casei('CYN')", [false, false, true]],
    ["CASEI(name) LIKE casei('AM%')", [true, false, false]],
    ["CASEI(home) IN (casei('TAMVORIL'))", [null, true, false]],
    ["CASEI('Straße') = CASEI('STRASSE') AND CASEI('ẞ') = CASEI('ss')", [true, true, true]],
    ["CASEI('ΟΔΟΣ') = CASEI('οδος') AND CASEI('ﬁsh') = CASEI('FISH')", [true, true, true]],
    ["CASEI('ı') = CASEI('i')", [false, false, false]],
  ],
  'Accent-insensitive Comparison': [
    ["ACCENTI(name) = 'Bea'", [false, true, false]],
    ["accenti(CASEI(name)) = accenti(casei('BÉÄ'))", [false, true, false]],
  ],
  'Basic Spatial Functions': [
    ['S_INTERSECTS(geometry, POINT(1 1))', [true, true, false]],
    ['S_INTERSECTS(geometry, BBOX(4, 4, 6, 6))', [false, false, true]],
    ['s_intersects(geom, BBOX(170, -10, -170, 10))', [false, false, false]],
    ['NOT S_INTERSECTS(geometry, BBOX(-1, -1, 0.5, 0.5))', [false, false, true]],
  ],
  'Basic Spatial Functions plus': [
    ['S_INTERSECTS(geometry, POLYGON((4 4, 6 4, 6 6, 4 6, 4 4)))', [false, false, true]],
    [
      'S_INTERSECTS(geometry, POLYGON((-9 -9, 9 -9, 9 9, -9 9, -9 -9), (-8 -8, -8 8, 8 8, 8 -8, -8 -8)))',
      [false, false, false],
    ],
    ['S_INTERSECTS(geometry, LINESTRING(0 2, 2 0))', [true, true, false]],
    ['S_INTERSECTS(geometry, MULTIPOINT((5 5), (9 9)))', [false, false, true]],
    ['S_INTERSECTS(geometry, MULTIPOINT(5 5, 9 9))', [false, false, true]],
    ['S_INTERSECTS(geometry, MULTILINESTRING((4 5, 6 5), (7 7, 8 8)))', [false, false, true]],
    ['S_INTERSECTS(geometry, MULTIPOLYGON(((4 4, 6 4, 6 6, 4 4)), ((1 1, 3 1, 3 3, 1 1))))', [true, true, true]],
    ['S_INTERSECTS(geometry, GEOMETRYCOLLECTION(POINT(5 5), LINESTRING(9 9, 8 8)))', [false, false, true]],
    ['S_INTERSECTS(geometry, POINT Z (5 5 -2))', [false, false, true]],
  ],
  'Spatial Functions': [
    ['S_EQUALS(geometry, POLYGON((1 1, 0 1, 0 0, 1 0, 1 1)))', [true, false, false]],
    ['S_DISJOINT(geometry, POINT(5 5))', [true, true, false]],
    ['S_TOUCHES(geometry, POLYGON((1 0, 2 0, 2 1, 1 1, 1 0)))', [true, true, false]],
    ['S_TOUCHES(geometry, POINT(2 2))', [false, true, false]],
    ['S_WITHIN(geometry, BBOX(-1, -1, 3, 3))', [true, true, false]],
    ['S_OVERLAPS(geometry, POLYGON((0.5 0.5, 2 0.5, 2 2, 0.5 2, 0.5 0.5)))', [true, false, false]],
    ['S_CROSSES(geometry, POLYGON((1 0, 3 0, 3 3, 1 3, 1 0)))', [false, true, false]],
    ['S_CROSSES(geometry, LINESTRING(0 2, 2 0))', [false, true, false]],
    ['S_CONTAINS(geometry, POINT(0.5 0.25))', [true, false, false]],
    ['S_CONTAINS(POLYGON((0 0, 9 0, 9 9, 0 9, 0 0)), geometry)', [true, true, true]],
  ],
  'Temporal Functions': [
    ["T_AFTER(born, DATE('2000-01-01'))", [true, false, null]],
    ["T_BEFORE(born, DATE('2000-01-01'))", [false, true, null]],
    ["T_EQUALS(born, TIMESTAMP('1989-11-02T06:30:00Z'))", [false, true, null]],
    ["T_INTERSECTS(born, INTERVAL('2001-01-01', '..'))", [true, false, null]],
    ["T_DISJOINT(born, INTERVAL('..', '2000-12-31'))", [true, false, null]],
    ["T_DURING(INTERVAL(from, to), INTERVAL('2029-01-01', '2030-07-01'))", [true, false, null]],
    ["T_CONTAINS(INTERVAL(from, to), INTERVAL('2030-02-01', '2030-03-01'))", [true, false, null]],
    ["T_MEETS(INTERVAL(from, to), INTERVAL('2030-06-30', '2031-01-01'))", [true, false, null]],
    ["T_METBY(INTERVAL(from, to), INTERVAL('2029-06-30', '2030-06-30'))", [false, true, null]],
    ["T_STARTS(INTERVAL(from, to), INTERVAL('2030-01-01', '2031-01-01'))", [true, false, null]],
    ["T_STARTEDBY(INTERVAL(from, to), INTERVAL('2030-01-01', '2030-02-01'))", [true, false, null]],
    ["T_FINISHES(INTERVAL(from, to), INTERVAL('2030-01-01', '2030-12-31'))", [false, true, null]],
    ["T_FINISHEDBY(INTERVAL(from, to), INTERVAL('2030-11-01', '2030-12-31'))", [false, true, null]],
    ["T_OVERLAPS(INTERVAL(from, to), INTERVAL('2030-03-01', '2031-03-01'))", [true, false, null]],
    ["T_OVERLAPPEDBY(INTERVAL(from, to), INTERVAL('2029-01-01', '2030-03-01'))", [true, false, null]],
  ],
  'Array Functions': [
    ["A_CONTAINS(tags, ('crew', 'night'))", [true, false, null]],
    ["A_CONTAINEDBY(tags, ('crew', 'day'))", [false, true, null]],
    ["A_EQUALS(tags, ('night', 'crew'))", [true, false, null]],
    ["A_OVERLAPS(tags, ('day', 'night'))", [true, false, null]],
    ["A_EQUALS(tags, ('crew'))", [false, true, null]],
    ['A_CONTAINS(tags, ())', [true, true, null]],
  ],
  'Property-Property Comparisons': [
    ['age = name', [false, false, null]],
    ['low < age2', [null, null, true]],
    ["casei(home) LIKE concat('%', casei(home))", [null, true, true]],
  ],
  Functions: [
    ['zoom() > 10', [true, true, true]],
    ["coalesce(home, 'none')", ['none', 'Tamvoril', 'Hallow Quay']],
    ["concat(name, ' of ', home)", ['Ama of ', 'Béa of Tamvoril', 'cyn of Hallow Quay']],
    ["format(age, '0.0 years')", ['30.0 years', '41.5 years', null]],
    ["format(born, 'long date')", ['April 18, 2001', 'November 2, 1989', null]],
    ["format(age, '0.0', 'de')", ['30,0', '41,5', null]],
    ['area() > 1.2e10 AND length() > 4e5', [true, false, false]],
  ],
  'Arithmetic Expressions': [
    ['age * 2 + 1 = 61', [true, false, null]],
    ['age div 7 = 4', [true, false, null]],
    ['age % 7 = 2', [true, false, null]],
    ['2 ^ 3 ^ 2 = 512', [true, true, true]],
    ['-age < 0', [true, true, null]],
    ['(age + 2) * 2 = 64', [true, false, null]],
    ['age / 0 = 1', [null, null, null]],
    ['7 - 2 - 1 = 4', [true, true, true]],
  ],
};

describe.each(Object.entries(classes))('%s', (_, rows) => {
  test.each(rows)('%s', (text, wanted) => {
    expect(answers(text)).toEqual(wanted);
    // The JSON encoding of the same expression, and the text written from it, answer alike.
    const json = JSON.parse(JSON.stringify(parseCql2(text))) as Expression;
    expect(answers(readCql2Json(json))).toEqual(wanted);
    expect(parseCql2(writeCql2(json))).toEqual(json);
  });
});

test('the JSON encoding is that of the standard', () => {
  expect(
    parseCql2("CASEI(name) LIKE 'a%' AND T_FINISHEDBY(INTERVAL(a, '..'), b) OR s_within(geom, BBOX(1, 2, 3, 4))"),
  ).toEqual({
    op: 'or',
    args: [
      {
        op: 'and',
        args: [
          { op: 'like', args: [{ op: 'casei', args: [{ property: 'name' }] }, 'a%'] },
          { op: 't_finishedBy', args: [{ interval: [{ property: 'a' }, '..'] }, { property: 'b' }] },
        ],
      },
      { op: 's_within', args: [{ property: 'geom' }, { bbox: [1, 2, 3, 4] }] },
    ],
  });
});

const refused: [string, string, string][] = [
  // text, place, part of the hint or message
  ['name == 3', '1:7', 'one ='],
  ['a !=\n 2', '1:3', '<>'],
  ['a = 1 &&\nb = 2', '1:7', 'AND'],
  ['a = 1 || b = 2', '1:7', 'OR'],
  ['! a', '1:1', 'NOT'],
  ["name = 'a", '1:8', 'quotes'],
  ['name = "a', '1:8', 'quotes'],
  ['(a = 1', '1:7', '")"'],
  ['a = 1)', '1:6', 'AND or OR'],
  ['a IN ()', '1:7', 'a value'],
  ["a IN 'x'", '1:6', '"("'],
  ['a IN (1, )', '1:10', 'a value'],
  ['a = 1 AND', '1:10', 'a value'],
  ['AND a = 1', '1:1', 'a value'],
  ['a = 1 b = 2', '1:7', 'AND'],
  ['BETWEEN 1 AND 2', '1:1', 'a value'],
  ['a BETWEEN 1', '1:12', 'AND'],
  ['a BETWEEN 1 OR 2', '1:13', 'AND'],
  ['a LIKE', '1:7', 'a value'],
  ['a IS 3', '1:6', 'NULL'],
  ['a = NULL', '1:5', 'IS NULL'],
  ['a NOT 3', '1:7', 'LIKE'],
  ['', '1:1', 'a value'],
  ['a +', '1:4', 'a value'],
  ['a = 1..2', '1:5', 'a value'],
  ['12abc = 1', '1:1', 'a value'],
  ['a = [1, 2]', '1:5', 'round brackets'],
  ['a =>\n3', '1:4', '>='],
  ["born = DATE('18.4.2001')", '1:13', '2031-04-18'],
  ['born = DATE(2001)', '1:13', 'a date'],
  ["born = TIMESTAMP('2001-04-18')", '1:18', 'a time in UTC'],
  ["T_AFTER(born, INTERVAL('2001-01-01'))", '1:36', '","'],
  ['S_INTERSECTS(geom, POINT(1, 2))', '1:26', 'white space|coordinates|"."'],
  ['S_INTERSECTS(geom, POINT(1))', '1:26', ''],
  ['S_INTERSECTS(geom, LINESTRING(1 1))', '1:34', ','],
  ['S_INTERSECTS(geom, POLYGON(0 0, 1 1, 2 2))', '1:28', '('],
  ['S_INTERSECTS(geom, BBOX(1, 2, 3))', '1:32', 'west, south, east, north'],
  // Sound in form, wrong in what they put together.
  ['concatt(a)', '1:1', 'concat()'],
  ['a = 1 OR\n  lenght() > 3', '2:3', 'length()'],
  ['casei(a, b) = 1', '1:1', '1 argument,'],
  ['zoom(3) > 1', '1:1', '0 arguments'],
  ['S_WITHIN(geom)', '1:1', '2 arguments'],
  ['a = 1 AND 7', '1:1', 'true or false'],
  ["NOT 'a'", '1:1', 'true or false'],
  ["a + 'b' > 1", '1:1', 'a number'],
  ['a = 1 AND b LIKE 7', '1:18', 'a text'],
  ['casei(7) = a', '1:7', 'single quotes'],
  ['S_INTERSECTS(geom, 7)', '1:20', 'a geometry'],
  ['T_BEFORE(born, 7)', '1:16', 'a date or time'],
  ["A_CONTAINS(tags, 'x')", '1:18', 'a list'],
  ['a = POINT(1 1)', '1:5', 'a number'],
];

describe('refused, with the place', () => {
  test('there are at least forty', () => expect(refused.length).toBeGreaterThanOrEqual(40));
  test.each(refused)('%s', (text, at, said) => {
    let fault: unknown;
    try {
      compileCql2(text);
    } catch (error) {
      fault = error;
    }
    expect(fault).toMatchObject({ code: expect.stringMatching(/^cql2\.(syntax|function|type)$/), at });
    const { message, hint } = fault as { message: string; hint: string };
    expect(said.split('|').some((part) => `${message} ${hint}`.includes(part))).toBe(true);
  });

  test.each([
    [{ op: '=', args: 3 }, '$'],
    [{ op: 'and', args: [true, { prop: 'a' }] }, '$.args[1]'],
    [{ op: '=', args: [{ property: 'a' }, { date: '18.4.2001' }] }, '$.args[1]'],
    [{ op: 't_after', args: [{ property: 'a' }, { interval: ['2001-01-01'] }] }, '$.args[1]'],
    [{ op: '=', args: [{ property: 'a' }, null] }, '$.args[1]'],
    [{ op: 7, args: [] }, '$'],
  ])('JSON %j', (json, at) => {
    expect(() => readCql2Json(json)).toThrow(expect.objectContaining({ code: 'cql2.json', at }) as unknown as Error);
  });

  test.each([
    ['S_INTERSECTS(geometry, BBOX(1, 4, 3, 2))', 'cql2.box', 'south'],
    ['S_INTERSECTS(geometry, BBOX(1, 2, 5, 3, 4, -5))', 'cql2.box', 'bottom'],
    ["T_DURING(born, INTERVAL('2031-05-01', '2031-04-18'))", 'cql2.time', 'after its end'],
    ["T_DURING(born, INTERVAL(DATE('2031-05-01'), TIMESTAMP('2031-04-18T09:30:00Z')))", 'cql2.time', 'after its end'],
  ])('%s', (text, code, said) => {
    expect(() => compileCql2(text)).toThrow(
      expect.objectContaining({ code, message: expect.stringContaining(said) }) as unknown as Error,
    );
  });

  test('a list is not an expression', () => {
    expect(() => readCql2Json([1, 2])).toThrow(
      expect.objectContaining({ code: 'cql2.json', at: '$' }) as unknown as Error,
    );
    expect(() => compileCql2('[1, 2]' as unknown as string)).toThrow(
      expect.objectContaining({ code: 'cql2.syntax' }) as unknown as Error,
    );
  });

  test('letters that the language holds for the same are folded to the same', () => {
    // The engine's own simple case folding (ECMA-262, section 22.2.2.7.3) as the second opinion.
    const different: string[] = [];
    for (let code = 0; code < 0x1ffff; code++) {
      const letter = String.fromCodePoint(code);
      if (/[\p{Cs}ıİ]/u.test(letter)) continue;
      for (const other of [letter.toLowerCase(), letter.toUpperCase()])
        if (
          other !== letter &&
          [...other].length === 1 &&
          new RegExp(`^${other.replace(/[\^$\\.*+?()[\]{}|/]/u, '\\$&')}$`, 'iu').test(letter) &&
          foldedCase(letter) !== foldedCase(other)
        )
          different.push(`${code.toString(16)} ${other}`);
    }
    expect(different).toEqual([]);
  });

  test('deep nesting fails as fast as it succeeds', () => {
    expect(() => parseCql2(`${'('.repeat(60)}a = 1${')'.repeat(59)}`)).toThrow('expression ends');
  });
});

test('geometry answers are worked out for whole features and hold after cutting', () => {
  const filter = compileCql2('area() > 1e6 AND NOT S_INTERSECTS(geometry, POINT(5 5))');
  const whole = withGeometryAnswers(people, [filter]);
  expect(whole.columns.length).toBe(people.columns.length + 2);
  expect(withGeometryAnswers(whole, [filter])).toBe(whole);
  // The same features with their geometry gone still answer.
  const cut = { ...whole, coords: new Float64Array(whole.coords.length) };
  expect(answers(filter.tree, cut)).toEqual([true, false, false]);
});

describe('geometry', () => {
  test('relations are those of the other side when the sides change places', () => {
    const spot = fc.tuple(fc.integer({ min: 0, max: 6 }), fc.integer({ min: 0, max: 6 }));
    const box = fc
      .tuple(spot, fc.integer({ min: 1, max: 4 }), fc.integer({ min: 1, max: 4 }))
      .map(([[x, y], w, h]) => ({ bbox: [x, y, x + w, y + h] }));
    const line = fc
      .tuple(spot, spot)
      .filter(([a, b]) => a.join() !== b.join())
      .map((coordinates) => ({ type: 'LineString', coordinates }));
    const any = fc.oneof(
      box,
      line,
      spot.map((coordinates) => ({ type: 'Point', coordinates })),
    );
    fc.assert(
      fc.property(any, any, (a, b) => {
        const [x, y] = [shapeOfGeometry(a), shapeOfGeometry(b)];
        const m = relate(x, y);
        expect(relate(y, x)).toEqual([m[0], m[3], m[6], m[1], m[4], m[7], m[2], m[5], m[8]]);
        // Boxes can be told by their numbers.
        if ('bbox' in a && 'bbox' in b) {
          const [p, q] = [a.bbox, b.bbox];
          const inner = p[0] < q[2] && q[0] < p[2] && p[1] < q[3] && q[1] < p[3];
          expect(m[0] === 2).toBe(inner);
          expect(m[2] >= 0).toBe(!(p[0] >= q[0] && p[1] >= q[1] && p[2] <= q[2] && p[3] <= q[3]));
        }
      }),
      { numRuns: 400, seed: 7 },
    );
  });

  test('lengths and areas on the ellipsoid', () => {
    // One minute of arc of the meridian at the equator and at the pole, and of the equator: WGS 84's radii of curvature.
    expect(geodesicLength([0, -1 / 120], [0, 1 / 120])).toBeCloseTo(1842.905, 2);
    expect(geodesicLength([0, 90 - 1 / 60], [180, 90 - 1 / 60])).toBeCloseTo(2 * 1861.566, 2);
    expect(geodesicLength([0, 0], [1, 0])).toBeCloseTo(111319.491, 3);
    // Half of the ellipsoid: NIMA TR8350.2 gives 510,065,621.7 km² for the whole.
    const half = shapeOfGeometry({ bbox: [-180, 0, 180, 90] });
    expect((2 * areaOf(half)) / 1e6).toBeCloseTo(510065621.7, 0);
  });
});

test('patterns of numbers and dates', () => {
  expect([formatValue(1234.567, '0,0.00 m'), formatValue(5, '0 %'), formatValue('x', '0')]).toEqual([
    '1,234.57 m',
    '5 %',
    'x',
  ]);
  expect(['month', 'year', 'short time', 'weekday'].map((p) => formatValue('2031-04-18T09:30:00Z', p, 'de'))).toEqual([
    'April 2031',
    '2031',
    '09:30',
    'Freitag',
  ]);
});

describe('LIKE', () => {
  const matches = (text: string, pattern: string) =>
    compileCql2(`a LIKE '${pattern.replaceAll("'", "''")}'`).bind({
      block: readGeoJson({ type: 'Feature', geometry: null, properties: { a: text } }),
      zoom: 0,
    })(0);

  test('agrees with a backtracking match on short texts of any letters', () => {
    const letters = fc.constantFrom('a', 'b', '.', '日', '😀');
    const pattern = fc
      .array(fc.oneof(letters, fc.constantFrom('%', '_')), { maxLength: 6 })
      .map((list) => list.join(''));
    const plain = (p: string, t: readonly string[]): boolean => {
      const [head, ...tail] = [...p];
      if (head === undefined) return !t.length;
      if (head === '%') return plain(tail.join(''), t) || (t.length > 0 && plain(p, t.slice(1)));
      return t.length > 0 && (head === '_' || head === t[0]) && plain(tail.join(''), t.slice(1));
    };
    fc.assert(
      fc.property(fc.array(letters, { maxLength: 7 }), pattern, (text, wanted) => {
        expect([text, wanted, matches(text.join(''), wanted)]).toEqual([text, wanted, plain(wanted, text)]);
      }),
      { numRuns: 500 },
    );
  });

  test('ends whatever the number of its % signs', () => {
    expect(matches('a'.repeat(60) + 'b', '%a'.repeat(30))).toBe(false);
    expect(matches('a'.repeat(20000), `${'%a'.repeat(5000)}%`)).toBe(true);
    expect(matches('a'.repeat(20000), `${'%a_'.repeat(3000)}%b`)).toBe(false);
  });
});

/** What some work throws; undefined where it does not. */
function faultOf(work: () => unknown): unknown {
  try {
    work();
  } catch (error) {
    return error;
  }
  return undefined;
}

describe('to the letter of the grammar (OGC 21-065r2, Annex B)', () => {
  test('an array of one element stands in brackets, and is written so', () => {
    const tree = { op: 'a_contains', args: [{ property: 'tags' }, ['a']] } as const;
    expect(parseCql2("A_CONTAINS(tags, ('a'))")).toEqual(tree);
    expect(parseCql2("a_contains(tags, (('a')))")).toEqual(tree);
    expect(writeCql2(tree)).toBe("a_contains(tags, ('a'))");
    expect(parseCql2("A_EQUALS(('a'), ('b', 'c'))")).toEqual({ op: 'a_equals', args: [['a'], ['b', 'c']] });
    expect(parseCql2('A_CONTAINS(tags, ())')).toEqual({ op: 'a_contains', args: [{ property: 'tags' }, []] });
    expect(parseCql2("name = ('a')")).toEqual({ op: '=', args: [{ property: 'name' }, 'a'] });
  });

  test.each([
    ['n = ()', '1:6'],
    ["A_EQUALS(tags, ('a',))", '1:21'],
    ['name = \u2018x\u2019', '1:8'],
    ['\u201cname\u201d = 1', '1:1'],
    ['a\u00d7b = 1', '1:2'],
  ])('%s is refused', (text, at) => {
    expect(faultOf(() => parseCql2(text))).toMatchObject({ code: 'cql2.syntax', at });
  });

  test('names of any script need no quotes', () => {
    for (const name of ['größe', '名前', 'имя', 'a.b', 'x:y', '𐐀x'])
      expect(writeCql2(parseCql2(`${name} = 1`))).toBe(`${name} = 1`);
    expect(writeCql2({ op: '=', args: [{ property: 'a×b' }, 1] })).toBe('"a×b" = 1');
  });
});

test.each([
  ['casei(3) = name', '1:7'],
  ['depth > 1 AND S_INTERSECTS(geometry, 3)', '1:38'],
  ['name LIKE 3', '1:11'],
  ['A_OVERLAPS(tags, 3)', '1:18'],
  ['A_OVERLAPS(3, tags)', '1:12'],
  ['NOT (depth = 1\n OR casei(3) = name)', '2:11'],
  ['T_AFTER(laid, 3)', '1:15'],
])('the fault of %s stands at its argument', (text, at) => {
  expect(faultOf(() => compileCql2(text))).toMatchObject({ code: 'cql2.type', at });
});
