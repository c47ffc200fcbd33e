import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from '@jest/globals';
import { demo, run } from './command.ts';

const folder = mkdtempSync(join(tmpdir(), 'flintwright-'));

afterAll(() => rmSync(folder, { recursive: true }));

describe('flintwright inspect --where', () => {
  test.each<[string, string[], string]>([
    ['features', [join(demo, 'beds.geojson'), '--where', "kind = 'native' AND area() > 15000"], 'of 42 features match'],
    ['a table', [join(demo, 'yield.csv'), '--where', 'tonnes > 60'], 'of 40 features match'],
    ['one tile', [join(demo, 'reach.pmtiles'), '--tile', '12/1693/1476', '--where', "kind = 'wood'"], 'features match'],
    ['the fullest tile of an archive', [join(demo, 'reach.pmtiles'), '--where', "class = 'trunk'"], 'tried on tile'],
    ['a misspelt attribute', [join(demo, 'beds.geojson'), '--where', "knd = 'native'"], 'did you mean "kind"?'],
  ])('%s', async (_, args, said) => {
    const { status, out } = await run('inspect', ...args);
    expect(status).toBe(0);
    expect(out).toContain(said);
  });

  test('as JSON, with the numbers of the features; a faulty filter is refused with its place', async () => {
    const { where } = JSON.parse(
      (await run('inspect', join(demo, 'beds.geojson'), '--where', "code IN ('OB-02', 'OB-40')", '--json')).out,
    ) as {
      where: { matches: number; indices: number[] }[];
    };
    expect(where).toEqual([expect.objectContaining({ features: 42, matches: 2, indices: [1, 39] })]);
    const bad = await run('inspect', join(demo, 'beds.geojson'), '--where', 'code == 3');
    expect([bad.status, bad.err]).toEqual([1, expect.stringMatching(/1:7[\s\S]*one =/)]);
    expect((await run('inspect', join(demo, 'beds.geojson'), '--where', '3 + 4')).err).toContain(
      'a filter must be true or false',
    );
  });
});
