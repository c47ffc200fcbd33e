// Drawing and correcting: vertices, whole features, cuts, sums, snapping, validity, measures, and steps that go back to the start.
import { describe, expect, test } from '@jest/globals';
import { Fault } from '@flintwright/core';
import {
  areaText,
  circleOf,
  crossingsAt,
  cutGeometry,
  deleteVertex,
  EditDocument,
  insertVertex,
  joinAreas,
  joinLines,
  lengthText,
  lineBetween,
  measureOf,
  middleOf,
  moved,
  moveShared,
  moveVertex,
  besideLine,
  offsetLine,
  pathsOf,
  placeFrom,
  problemsOf,
  rectangleOf,
  sharedVertices,
  Snapper,
  turned,
  withoutArea,
  type EditDraft,
  type EditFeature,
  type EditGeometry,
} from '@flintwright/core/edit';
import { randomFrom } from './sample-random.ts';

const square = (x: number, y: number, side: number): number[][] => [
  [x, y],
  [x + side, y],
  [x + side, y + side],
  [x, y + side],
  [x, y],
];
const area = (...rings: number[][][]): EditGeometry => ({ type: 'Polygon', coordinates: rings });
const path = (...coordinates: number[][]): EditGeometry => ({ type: 'LineString', coordinates });
const feature = (geometry: EditGeometry, id?: string, properties = {}): EditFeature => ({
  type: 'Feature',
  geometry,
  properties,
  ...(id === undefined ? {} : { id }),
});
const planar = (geometry: EditGeometry) => measureOf(geometry, 'plane').area;
const code = (work: () => unknown): string => {
  try {
    work();
    return 'nothing';
  } catch (error) {
    return error instanceof Fault ? error.code : String(error);
  }
};

describe('vertices', () => {
  const polygon = area(square(0, 0, 10), square(2, 2, 3).toReversed());

  test('moved, put in and deleted; rings stay closed, holes and areas go with their last corners', () => {
    const wider = moveVertex(polygon, { path: 0, index: 0 }, [-1, -1]);
    expect((wider.coordinates as number[][][])[0]).toEqual([
      [-1, -1],
      [10, 0],
      [10, 10],
      [0, 10],
      [-1, -1],
    ]);
    const more = insertVertex(wider, { path: 0, index: 3 }, [-2, 5]);
    expect(pathsOf(more)[0].spots).toHaveLength(5);
    const once = deleteVertex(polygon, { path: 1, index: 0 })!;
    expect(pathsOf(once).map(({ spots }) => spots.length)).toEqual([4, 3]);
    expect(pathsOf(deleteVertex(once, { path: 1, index: 0 })!)).toHaveLength(1);
    expect(deleteVertex(path([0, 0], [1, 1]), { path: 0, index: 1 })).toBeUndefined();
    expect(deleteVertex({ type: 'Point', coordinates: [1, 2] }, { path: 0, index: 0 })).toBeUndefined();
    expect(polygon.coordinates).toHaveLength(2);
  });

  test('heights stay; what is not there is refused', () => {
    const high = moveVertex(path([0, 0, 7], [1, 1, 8]), { path: 0, index: 1 }, [2, 2]);
    expect(high.coordinates).toEqual([
      [0, 0, 7],
      [2, 2, 8],
    ]);
    expect(code(() => moveVertex(high, { path: 0, index: 2 }, [0, 0]))).toBe('edit.vertex');
    expect(code(() => pathsOf({ type: 'GeometryCollection', geometries: [] } as never))).toBe('edit.geometry');
    expect(code(() => pathsOf(null as never))).toBe('edit.geometry');
  });

  test('corners of a shared border move together', () => {
    const fields = new Map([
      ['a', area(square(0, 0, 5))],
      ['b', area(square(5, 0, 5))],
      ['c', area(square(20, 0, 5))],
    ]);
    const shared = sharedVertices(fields, [5, 5], 'a');
    expect(shared).toEqual([{ key: 'b', path: 0, index: 3 }]);
    expect(pathsOf(moveShared(fields, shared, [6, 6]).get('b')!)[0].spots[3]).toEqual([6, 6]);
  });
});

describe('whole features', () => {
  test('moved far north, a field keeps its area on the ground', () => {
    const field = area(square(-31, 10, 0.01));
    const north = moved(field, [-31, 10], [20, 65], 'lonlat');
    const [before, after] = [field, north].map((one) => measureOf(one, 'lonlat').area);
    expect(Math.abs(after / before - 1)).toBeLessThan(2e-3);
    expect(middleOf(moved(area(square(0, 0, 2)), [1, 1], [5, 7], 'plane'))).toEqual([5, 7]);
  });

  test('turned by quarters it comes back; scaled by two its area is four times as large', () => {
    const field = area(square(-31, 44, 0.02));
    let turning = field;
    for (let i = 0; i < 4; i++) turning = turned(turning, middleOf(field), { degrees: 90 }, 'lonlat');
    const flat = (geometry: EditGeometry) => pathsOf(geometry).flatMap(({ spots }) => spots.flat());
    flat(turning).forEach((value, i) => expect(value).toBeCloseTo(flat(field)[i], 9));
    const [small, large] = [field, turned(field, middleOf(field), { factor: 2 }, 'lonlat')].map(
      (one) => measureOf(one, 'lonlat').area,
    );
    expect(large / small).toBeCloseTo(4, 2);
    expect(code(() => turned(field, [0, 0], { factor: 0 }, 'lonlat'))).toBe('edit.scale');
  });

  test('a circle of geodesics: every corner as far, the area that of the figure', () => {
    const circle = circleOf([-31, 60], 5000, 'lonlat', 180);
    for (const spot of pathsOf(circle)[0].spots)
      expect(lineBetween([-31, 60], spot, 'lonlat').length).toBeCloseTo(5000, 6);
    // A regular polygon of n corners has the area n/2 · r² · sin(2π/n).
    const figure = 90 * 5000 ** 2 * Math.sin((2 * Math.PI) / 180);
    expect(measureOf(circle, 'lonlat').area / figure).toBeCloseTo(1, 5);
    expect(problemsOf(circle)).toEqual([]);
    expect(code(() => circleOf([0, 0], -1, 'lonlat'))).toBe('edit.radius');
  });

  test('a rectangle square to a direction', () => {
    const corners = pathsOf(rectangleOf([0, 0], [10, 0], 'plane', 45))[0].spots;
    expect(corners.map((spot) => spot.map((v) => Math.round(v * 1e6) / 1e6 + 0))).toEqual([
      [5, -5],
      [10, 0],
      [5, 5],
      [0, 0],
    ]);
    expect(planar(rectangleOf([3, 4], [1, 1], 'plane'))).toBe(6);
  });

  test('a line beside another: everywhere as far, its inner corners without loops', () => {
    const beside = offsetLine(
      [
        [0, 0],
        [100, 0],
        [100, 100],
      ],
      10,
      'plane',
    );
    expect(beside.coordinates).toEqual(
      [
        [0, -10],
        [110, -10],
        [110, 100],
      ].map((spot) => spot.map((v) => expect.closeTo(v, 9))),
    );
    const inner = offsetLine(
      [
        [0, 0],
        [50, 0],
        [50, 4],
        [100, 4],
      ],
      -20,
      'plane',
    );
    const at = pathsOf(inner)[0].spots;
    for (let i = 1; i < at.length; i++) expect(at[i][0]).toBeGreaterThanOrEqual(at[i - 1][0]);
    expect(code(() => offsetLine([[0, 0]], 10, 'plane'))).toBe('edit.offset');
    // How far a place lies beside a line is as far as the line that runs through it.
    const bend = [
      [0, 0],
      [100, 0],
      [100, 100],
    ] as const;
    expect(besideLine(bend, [50, -10], 'plane')).toBeCloseTo(10, 9);
    expect(besideLine(bend, [70, 30], 'plane')).toBeCloseTo(-30, 9);
    const through = pathsOf(offsetLine([[-31, 44], [-30.99, 44.01]], besideLine([[-31, 44], [-30.99, 44.01]], [-30.99, 44], 'lonlat'), 'lonlat'))[0].spots; // prettier-ignore
    expect(Math.abs(besideLine(through, [-30.99, 44], 'lonlat'))).toBeLessThan(0.1);
  });
});

describe('cut and joined', () => {
  test('an area from side to side, also more than once; holes stay in their piece', () => {
    const pieces = cutGeometry(area(square(0, 0, 10), square(1, 1, 2)), [
      [5, -1],
      [5, 11],
    ]);
    expect(pieces.map(planar).sort((a, b) => a - b)).toEqual([46, 50]);
    const comb = area([
      [0, 0],
      [30, 0],
      [30, 10],
      [20, 10],
      [20, 2],
      [10, 2],
      [10, 10],
      [0, 10],
      [0, 0],
    ]);
    const teeth = cutGeometry(comb, [
      [-1, 5],
      [31, 5],
    ]);
    expect(teeth.map(planar).sort((a, b) => a - b)).toEqual([50, 50, 120]);
    for (const piece of [...pieces, ...teeth]) expect(problemsOf(piece)).toEqual([]);
  });

  test('a line where it is crossed', () => {
    const pieces = cutGeometry(path([0, 0], [10, 0], [20, 0]), [
      [5, -1],
      [5, 1],
      [15, 1],
      [15, -1],
    ]);
    expect(pieces.map(({ coordinates }) => coordinates)).toEqual([
      [
        [0, 0],
        [5, 0],
      ],
      [
        [5, 0],
        [10, 0],
        [15, 0],
      ],
      [
        [15, 0],
        [20, 0],
      ],
    ]);
  });

  test.each<[string, EditGeometry, number[][]]>([
    [
      'a cut that ends inside',
      area(square(0, 0, 10)),
      [
        [5, -1],
        [5, 5],
      ],
    ],
    [
      'a cut beside it',
      area(square(0, 0, 10)),
      [
        [50, 0],
        [60, 0],
      ],
    ],
    [
      'a cut through a hole',
      area(square(0, 0, 10), square(4, 4, 2)),
      [
        [5, -1],
        [5, 11],
      ],
    ],
    [
      'a point',
      { type: 'Point', coordinates: [0, 0] },
      [
        [-1, 0],
        [1, 0],
      ],
    ],
    [
      'a line that is not crossed',
      path([0, 0], [1, 0]),
      [
        [5, 1],
        [5, -1],
      ],
    ],
  ])('%s is refused', (_, geometry, along) => expect(code(() => cutGeometry(geometry, along))).toBe('edit.cut'));

  test('areas in one, a hole cut, a corner taken off, nothing left', async () => {
    const both = await joinAreas(area(square(0, 0, 10)), area(square(10, 0, 10)));
    expect([both.type, planar(both)]).toEqual(['Polygon', 200]);
    const apart = await joinAreas(area(square(0, 0, 1)), area(square(5, 0, 1)));
    expect(apart.type).toBe('MultiPolygon');
    const holed = (await withoutArea(area(square(0, 0, 10)), area(square(4, 4, 2))))!;
    expect([pathsOf(holed).length, planar(holed)]).toEqual([2, 96]);
    expect(await withoutArea(area(square(0, 0, 1)), area(square(-1, -1, 5)))).toBeUndefined();
    await expect(joinAreas(path([0, 0], [1, 1]))).rejects.toMatchObject({ code: 'edit.combine' });
  });

  test('lines end to end, whichever way they run', () => {
    const one = joinLines([path([0, 0], [1, 0]), path([2, 0], [1, 0]), path([0, 0], [-1, 0])]);
    expect(one.coordinates).toEqual([
      [-1, 0],
      [0, 0],
      [1, 0],
      [2, 0],
    ]);
    expect(joinLines([path([0, 0], [1, 0]), path([5, 5], [6, 6])]).type).toBe('MultiLineString');
    expect(code(() => joinLines([area(square(0, 0, 1))]))).toBe('edit.join');
  });
});

describe('validity', () => {
  test.each<[string, EditGeometry, string, number[]]>([
    [
      'a bow',
      area([
        [0, 0],
        [2, 2],
        [2, 0],
        [0, 2],
        [0, 0],
      ]),
      'crossing',
      [1, 1],
    ],
    [
      'a spike',
      area([
        [0, 0],
        [4, 0],
        [4, 4],
        [4, 0],
        [2, -3],
        [0, 0],
      ]),
      'crossing',
      [4, 0],
    ],
    ['rings that cross', area(square(0, 0, 4), square(3, 1, 2)), 'crossing', [4, 1]],
    ['a hole outside', area(square(0, 0, 4), square(8, 8, 2)), 'outside', [8, 8]],
    [
      'a flat ring',
      area([
        [0, 0],
        [1, 1],
        [2, 2],
        [0, 0],
      ]),
      'flat',
      [0, 0],
    ],
    ['a line of one place', path([1, 1], [1, 1]), 'flat', [1, 1]],
    ['no number', path([0, 0], [NaN, 1]), 'number', [0, 1]],
  ])('%s is told, with its place', (_, geometry, kind, at) => {
    const [problem] = problemsOf(geometry);
    expect([problem.kind, problem.at]).toEqual([kind, at]);
  });

  test('a hundred thousand corners are looked over in no time, and one crossing among them is found', () => {
    const ring = Array.from({ length: 100_000 }, (_, i) => {
      const angle = (2 * Math.PI * i) / 100_000;
      const r = 10 + Math.sin(angle * 900);
      return [r * Math.cos(angle), r * Math.sin(angle)];
    });
    expect(problemsOf(area([...ring, ring[0]]))).toEqual([]);
    const [a, b] = [ring[500], ring[503]];
    [ring[500], ring[503]] = [b, a];
    expect(problemsOf(area([...ring, ring[0]]))[0].kind).toBe('crossing');
  }, 30000);

  test('a corner that is dragged across its border is seen at once', () => {
    const dragged = moveVertex(area(square(0, 0, 10)), { path: 0, index: 0 }, [12, 5]);
    expect(crossingsAt(dragged, { path: 0, index: 0 }).length).toBeGreaterThan(0);
    expect(crossingsAt(area(square(0, 0, 10)), { path: 0, index: 0 })).toEqual([]);
  });
});

describe('snapping', () => {
  const snapper = new Snapper('plane');
  snapper.set('field', area(square(0, 0, 100)));

  test.each<[string, number[], object, number[], string]>([
    ['a vertex before an edge', [97, 3], {}, [100, 0], 'vertex'],
    ['an edge', [50, 4], {}, [50, 0], 'edge'],
    ['nothing far off', [50, 30], {}, [50, 30], 'none'],
    ['not what is dragged', [97, 3], { except: new Set(['field']) }, [97, 3], 'none'],
    ['a grid', [43, 58], { grid: 10 }, [40, 60], 'grid'],
    [
      'a right angle',
      [202, 260],
      {
        from: [
          [150, 200],
          [200, 200],
        ],
      },
      [200, 260],
      'angle',
    ],
    [
      'straight on',
      [260, 203],
      {
        from: [
          [150, 200],
          [200, 200],
        ],
      },
      [260, 200],
      'angle',
    ],
    ['features left out', [97, 3], { features: false }, [97, 3], 'none'],
  ])('%s', (_, at, options, to, kind) => {
    const snap = snapper.snap(at, { reach: 8, ...options });
    expect([snap.at.map((v) => Math.round(v * 1e9) / 1e9), snap.to]).toEqual([to, kind]);
  });

  test('on the ground, within some meters', () => {
    const ground = new Snapper('lonlat');
    ground.set('quay', path([-31, 60], [-30.99, 60]));
    const near = placeFrom([-30.995, 60], 0, 6, 'lonlat');
    expect(ground.snap(near, { reach: 8 })).toMatchObject({
      to: 'edge',
      at: [expect.closeTo(-30.995, 6), expect.closeTo(60, 6)],
    });
    expect(ground.snap(near, { reach: 5 }).to).toBe('none');
  });
});

test('measures are those of the ellipsoid, in units of choice', () => {
  // A degree of latitude at the equator is 110 574 m (NIMA TR8350.2, table of the ellipsoid).
  const { length, bearing } = lineBetween([0, 0], [0, 1], 'lonlat');
  expect([Math.round(length), bearing]).toEqual([110574, 0]);
  expect(lineBetween([0, 0], [-5, 0], 'plane')).toEqual({ length: 5, bearing: 270 });
  expect([
    lengthText(1852, 'nautical'),
    lengthText(1609.344, 'imperial'),
    lengthText(999.94),
    lengthText(12345),
  ]).toEqual(['1 nmi', '1 mi', '999.9 m', '12.35 km']);
  expect([areaText(4046.8564224, 'imperial'), areaText(25000), areaText(3429904, 'nautical')]).toEqual([
    '1 ac',
    '2.5 ha',
    '1 nmi²',
  ]);
});

describe('steps', () => {
  const start = () => [feature(area(square(0, 0, 1)), 'a'), feature(path([0, 0], [1, 1]), 'b', { name: 'ø' })];

  test.each<[string, 'plane' | 'lonlat', number, number]>([
    ['a plane', 'plane', 0, 0],
    ['longitude and latitude at the equator', 'lonlat', 0, -5],
    ['longitude and latitude far north', 'lonlat', 20, 74],
    ['longitude and latitude at the antimeridian', 'lonlat', 175, -40],
  ])(
    'two thousand edits at random on %s keep geometry sound and go back to the very start, and on again',
    (_, space, x0, y0) => {
      const random = randomFrom(77);
      const document = new EditDocument(start());
      const first = JSON.stringify([...document.features]);
      for (let k = 0; k < 2000; k++) {
        const keys = [...document.features.keys()];
        const key = keys[Math.floor(random() * keys.length)];
        const old = keys.length ? document.require(key) : undefined;
        const at = [x0 + random() * 10, y0 + random() * 10];
        const choice = random();
        const put = (geometry: EditGeometry | undefined, to = key) => {
          if (geometry && problemsOf(geometry).length) return;
          document.apply('edit', new Map([[to, geometry && { ...(old ?? feature(geometry)), geometry }]]));
        };
        if (!old || choice < 0.15) put(rectangleOf(at, [at[0] + 1 + random(), at[1] + 1], space), document.newKey());
        else if (choice < 0.2) put(undefined);
        else {
          const spots = pathsOf(old.geometry)[0].spots;
          const vertex = { path: 0, index: Math.floor(random() * spots.length) };
          if (choice < 0.45) put(moveVertex(old.geometry, vertex, at));
          else if (choice < 0.6) put(insertVertex(old.geometry, vertex, at));
          else if (choice < 0.7) put(deleteVertex(old.geometry, vertex));
          else if (choice < 0.8) put(moved(old.geometry, middleOf(old.geometry), at, space));
          else if (choice < 0.9)
            put(turned(old.geometry, at, { degrees: random() * 360, factor: 0.5 + random() }, space));
          else if (random() < 0.5) document.undo();
          else document.redo();
        }
        for (const { geometry } of document.features.values())
          if (k % 50 === 0) expect(problemsOf(geometry)).toEqual([]);
      }
      const last = JSON.stringify([...document.features].sort());
      let count = 0;
      while (document.undo()) count++;
      expect(count).toBeGreaterThan(300);
      expect(JSON.stringify([...document.features].sort())).toBe(
        JSON.stringify((JSON.parse(first) as unknown[]).sort()),
      );
      while (count--) document.redo();
      expect(JSON.stringify([...document.features].sort())).toBe(last);
    },
  );

  test('a draft is taken up after a reload, undo included; one of a newer version or of other features is refused and kept', () => {
    const document = new EditDocument(start());
    document.apply('move a vertex', new Map([['a', feature(area(square(0, 0, 2)), 'a')]]));
    document.apply('delete', new Map([['b', undefined]]));
    document.undo();
    const draft = JSON.parse(JSON.stringify(document.draft())) as EditDraft;
    const again = new EditDocument(start());
    again.restore(draft);
    expect([...again.features]).toEqual([...document.features]);
    expect([again.undoName, again.redoName]).toEqual(['move a vertex', 'delete']);
    again.undo();
    expect([...again.features.values()]).toEqual(start());
    expect(code(() => again.restore({ ...draft, draft: 99 }))).toBe('edit.draft');
    expect(code(() => new EditDocument([]).restore(draft))).toBe('edit.draft');
    expect(code(() => again.restore(null as never))).toBe('edit.draft');
  });

  test('changes from elsewhere are taken in; what both changed is a conflict, which somebody decides on', () => {
    const document = new EditDocument(start());
    document.apply('rename', new Map([['b', feature(path([0, 0], [1, 1]), 'b', { name: 'mine' })]]));
    const theirs = feature(path([0, 0], [1, 1]), 'b', { name: 'theirs' });
    const conflicts = document.merge(
      new Map([
        ['a', undefined],
        ['b', theirs],
        ['c', feature(path([5, 5], [6, 6]), 'c')],
      ]),
    );
    expect([...document.features.keys()]).toEqual(['b', 'c']);
    expect(conflicts).toMatchObject([
      { key: 'b', mine: { properties: { name: 'mine' } }, theirs: { properties: { name: 'theirs' } } },
    ]);
    document.resolve('b', 'theirs');
    expect([document.require('b'), document.conflicts]).toEqual([theirs, []]);
    document.undo();
    expect(document.require('b').properties).toEqual({ name: 'mine' });
  });

  test('two features of one key are refused', () =>
    expect(code(() => new EditDocument([feature(path([0, 0], [1, 1]), 'a'), feature(path([0, 0], [1, 1]), 'a')]))).toBe(
      'edit.key',
    ));
});
