import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { blockOfTable, joinTable, pointsOfTable, readTable, valueAt } from '@flintwright/core';

describe('tables', () => {
  test('separators, quotes, numbers, leading zeros and missing cells', () => {
    const table = readTable('\uFEFFcode;name;t;zip\r\nA;"Long; Lay";1,5;007\r\nB;"with ""quotes""";;010\r\n\r\n');
    expect(table).toEqual({
      names: ['code', 'name', 't', 'zip'],
      rows: [
        { code: 'A', name: 'Long; Lay', t: 1.5, zip: '007' },
        { code: 'B', name: 'with "quotes"', zip: '010' },
      ],
    });
    expect(readTable('n\n1\n-2.5e3\n.5').rows.map(({ n }) => n)).toEqual([1, -2500, 0.5]);
    expect(readTable('[{"a": 1, "b": [1, 2]}]').rows).toEqual([{ a: 1, b: '[1,2]' }]);
  });

  test('decimal commas are taken for what they are, and for nothing else', () => {
    const values = (text: string) => readTable(text).rows.map((row) => Object.values(row));
    expect(values('a;b\n1,5;2\n-0,25;3')).toEqual([
      [1.5, 2],
      [-0.25, 3],
    ]);
    expect(values('a\tb\n1,5e3\tx')).toEqual([[1500, 'x']]);
    // A file with decimal points means something else by its commas, such as thousands.
    expect(values('a;b\n1,500;2.5')).toEqual([['1,500', 2.5]]);
    // Parted by commas, a quoted comma is a comma.
    expect(values('a,b\n"1,5",2')).toEqual([['1,5', 2]]);
    expect(values('a;b\n1,5;2\nnone;3')).toEqual([
      ['1,5', 2],
      ['none', 3],
    ]);
    expect(values('a;b\n1,2,3;4')).toEqual([['1,2,3', 4]]);
    const block = pointsOfTable(readTable('lon;lat;n\n-31,25;44,5;a'), 'p');
    expect([...block.coords]).toEqual([-31.25, 44.5]);
  });

  test('whatever is written as a table with any separator is read as it was', () => {
    const cell = fc.oneof(
      fc
        .double({ noNaN: true, noDefaultInfinity: true, min: -1e9, max: 1e9 })
        .map((v) => Math.round(v * 1e4) / 1e4 || 0),
      fc.string({ minLength: 1 }).filter((text) => text === text.trim() && !/\d/.test(text)),
      fc.constant(undefined),
    );
    const columns = fc.array(fc.array(cell, { minLength: 6, maxLength: 6 }), { minLength: 2, maxLength: 5 });
    fc.assert(
      fc.property(columns, fc.constantFrom(',', ';', '\t'), (given, separator) => {
        // A column holds numbers or texts, not both.
        const made = given.map((column) => {
          const texts = column.some((v) => typeof v === 'string');
          return column.map((v) =>
            texts && typeof v === 'number' ? `t${'x'.repeat(Math.floor(Math.abs(v)) % 9)}` : v,
          );
        });
        const quoted = (v: string) => `"${v.replaceAll('"', '""')}"`;
        const written = (v: string | number | undefined) =>
          v === undefined ? '' : typeof v === 'number' ? String(v) : quoted(v);
        const heading = made.map((_, c) => quoted(`c ${'abcde'[c]}`)).join(separator);
        const lines = Array.from({ length: 6 }, (_, r) => made.map((column) => written(column[r])).join(separator));
        const { names, rows } = readTable([heading, ...lines].join('\n'));
        expect(names).toEqual(made.map((_, c) => `c ${'abcde'[c]}`));
        // Lines of nothing but separators are passed over.
        const kept = Array.from({ length: 6 }, (_, r) => made.map((column) => column[r])).filter((row) =>
          row.some((v) => v !== undefined),
        );
        expect(rows.map((row) => names.map((name) => row[name]))).toEqual(kept);
      }),
      { numRuns: 200, seed: 3 },
    );
  });

  test.each([
    ['', 'table.empty', ''],
    ['<html>', 'table.form', 'address'],
    ['[1, 2]', 'table.form', 'Write'],
    ['[{]', 'table.json', 'Correct'],
    ['a,a\n1,2', 'table.twice', 'Rename'],
    ['a,b\n1,2,3', 'table.cells', 'double quotes'],
    ['a,b\n"1,2', 'table.quotes', 'close'],
  ])('%j is refused', (text, code, hint) => {
    expect(() => readTable(text, 't.csv')).toThrow(
      expect.objectContaining({ code, hint: expect.stringContaining(hint) }) as unknown as Error,
    );
  });

  test('rows with places become points; swapped columns are named', () => {
    const block = pointsOfTable(readTable('Lat,Lon,n\n44.6,-31.2,1\n,,2'), 'p');
    expect([...block.coords, ...block.kinds]).toEqual([-31.2, 44.6, 1, 0]);
    expect(() => pointsOfTable(readTable('lat,lon\n-131.2,44.6'), 'p')).toThrow(
      expect.objectContaining({ code: 'table.swapped', at: 'line 2' }) as unknown as Error,
    );
    expect(() => pointsOfTable(readTable('a,b\n1,2'), 'p')).toThrow('its columns are a, b');
    // One cell that is not a number must not take the places of all others.
    expect(() => pointsOfTable(readTable('lon,lat\n-31.2,44.6\nn/a,44.7'), 'p')).toThrow(
      expect.objectContaining({
        code: 'table.number',
        at: 'line 3',
        message: expect.stringContaining('"n/a"'),
      }) as unknown as Error,
    );
    // A dash for a missing value is not a number either, alone in its column or not.
    for (const dash of ['lon,lat\n-31.2,44.6\n-,-', 'lon,lat\n-,-', 'lon,lat\ne5,+'])
      expect(() => pointsOfTable(readTable(dash), 'p')).toThrow(
        expect.objectContaining({ code: 'table.number' }) as unknown as Error,
      );
    expect([...pointsOfTable(readTable([{ lon: '-31.2', lat: 44.6 }]), 'p').coords]).toEqual([-31.2, 44.6]);
  });

  test('a join counts and lists what meets nothing, on both sides', () => {
    const block = blockOfTable(readTable([{ code: 1, t: 9 }, { code: 2 }, { code: 3 }, { code: 3 }, {}]), 'beds');
    const table = readTable('key,t,who\n1,,x\n3,7,y\n3,8,z\n4,5,w\n,1,v');
    const { block: joined, report } = joinTable(block, table, ['code', 'key']);
    expect(report).toEqual({
      matched: 3,
      featuresAlone: ['2'],
      rowsAlone: ['4'],
      rowsTwice: ['3'],
      keyless: { features: 1, rows: 1 },
      added: ['t', 'who'],
    });
    const column = (name: string) => joined.columns.find((c) => c.name === name)!;
    // A missing cell leaves what the feature had.
    expect([0, 1, 2, 3, 4].map((f) => [valueAt(column('t'), f), valueAt(column('who'), f)])).toEqual([
      [9, 'x'],
      [undefined, undefined],
      [7, 'y'],
      [7, 'y'],
      [undefined, undefined],
    ]);
    expect(() => joinTable(block, table, ['cod', 'key'])).toThrow(
      expect.objectContaining({ code: 'join.attribute', hint: 'Did you mean "code"?' }) as unknown as Error,
    );
    expect(() => joinTable(block, readTable('key\nx'), ['code', 'key'])).toThrow(
      expect.objectContaining({ code: 'join.none' }) as unknown as Error,
    );
  });
});
