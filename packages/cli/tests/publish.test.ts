// The command `publish`: what it writes, and what it refuses. Pages are opened in the browser's own tests.
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from '@jest/globals';
import { demo, runHere as run } from './command.ts';

const folder = mkdtempSync(join(tmpdir(), 'flintwright-'));
const at = (name: string) => join(folder, name);
afterAll(() => rmSync(folder, { recursive: true }));
const sheet = (name: string, data: object, of = 'a') => {
  writeFileSync(at(name), JSON.stringify({ sheet: 1, data, layers: [{ id: 'a', of, fill: '#fff' }] }));
  return at(name);
};

describe('publish', () => {
  test('a page holds sheet, data of any format and library; text in it cannot end a script', async () => {
    writeFileSync(at('a.csv'), 'lon,lat,name\n1,2,</script><script>alert(1)</script>\n');
    const source = sheet('a.sheet.json', { a: { features: 'a.csv' } });
    const { status, out } = await run('publish', source, '-o', at('out/a.html'), '--title', '<i>"A" & B</i>', '--json');
    expect(status).toBe(0);
    expect(JSON.parse(out)).toMatchObject({ title: '<i>"A" & B</i>' });
    const page = readFileSync(at('out/a.html'), 'utf8');
    expect(page.includes('<title>&lt;i&gt;&quot;A&quot; &amp; B&lt;/i&gt;</title>')).toBe(true);
    expect(page.match(/<\/script>/g)).toHaveLength(3);
    expect(page.includes('"coordinates":[1,2]')).toBe(true);
    // The page's own policy is what keeps it from fetching; the browser's tests see that it does.
    expect(page.includes(`default-src 'none'`)).toBe(true);
  });

  test('a folder holds them as files', async () => {
    const { status } = await run('publish', join(demo, 'zeblune.sheet.json'), '-o', at('zeblune'));
    expect(status).toBe(0);
    expect(readdirSync(at('zeblune')).sort()).toEqual([
      'data',
      'flintwright-worker.js',
      'flintwright.js',
      'index.html',
      'map.js',
      'sheet.json',
    ]);
    expect(readdirSync(at('zeblune/data')).length).toBeGreaterThan(3);
  });

  test.each<[string, () => string[], RegExp, number]>([
    [
      'a folder that is not empty',
      () => {
        mkdirSync(at('full'));
        writeFileSync(at('full/mine.txt'), 'mine');
        return [
          sheet('b.sheet.json', { a: { features: { type: 'FeatureCollection', features: [] } } }),
          '-o',
          at('full'),
        ];
      },
      /is not empty[\s\S]*--replace\. Nothing was written/,
      1,
    ],
    [
      'data that is not there',
      () => [sheet('c.sheet.json', { a: { features: 'gone.geojson' } }), '-o', at('c.html')],
      /comes from "gone\.geojson", which is not a local file[\s\S]*beside the sheet/,
      1,
    ],
    [
      'data of another host',
      () => [sheet('d.sheet.json', { a: { tiles: 'https://host.example/a.pmtiles' } }, 'a/x'), '-o', at('d')],
      /\$\.data\.a\.tiles[\s\S]*fetches nothing/,
      1,
    ],
    [
      'a sheet that is not sound',
      () => {
        writeFileSync(at('e.sheet.json'), '{"sheet":1,"layers":[{"id":"a"}]}');
        return [at('e.sheet.json'), '-o', at('e.html')];
      },
      /\$\.layers\[0\]/,
      1,
    ],
    [
      'a page that is a folder',
      () => [sheet('f.sheet.json', {}), '-o', (mkdirSync(at('f.html')), at('f.html'))],
      /is a folder/,
      2,
    ],
  ])('%s is told, and nothing is lost', async (_, args, message, status) => {
    const answer = await run('publish', ...args());
    expect(answer.err).toMatch(message);
    expect(answer.status).toBe(status);
    if (_.includes('not empty')) expect(readdirSync(at('full'))).toEqual(['mine.txt']);
  });
});
