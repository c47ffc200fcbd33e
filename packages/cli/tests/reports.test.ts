// What the commands say of a file is true of it, and the same from each of them.
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, expect, test } from '@jest/globals';
import { runHere as run } from './command.ts';

const folder = mkdtempSync(join(tmpdir(), 'flintwright-'));
const at = (name: string) => join(folder, name);
afterAll(() => rmSync(folder, { recursive: true }));

test('attributes of features with several geometries are counted once', async () => {
  const placemark = (name: string) =>
    `<Placemark><name>${name}</name><MultiGeometry><Point><coordinates>1,2</coordinates></Point><LineString><coordinates>1,2 3,4</coordinates></LineString></MultiGeometry></Placemark>`;
  writeFileSync(at('a.kml'), `<kml><Document>${placemark('a')}${placemark('b')}</Document></kml>`);
  const { out } = await run('inspect', at('a.kml'), '--json');
  const report = JSON.parse(out) as { features: number; fields: { name: string; filled: number }[] };
  expect([report.features, report.fields.find(({ name }) => name === 'name')?.filled]).toEqual([2, 2]);
  expect((await run('inspect', at('a.kml'))).out).toMatch(/name +string +all/);
});

test('tile and inspect give the same levels, those that have tiles', async () => {
  // Too small to be seen far out.
  const side = 0.02;
  const ring = [[0, 0], [side, 0], [side, side], [0, side], [0, 0]]; // prettier-ignore
  writeFileSync(
    at('a.geojson'),
    JSON.stringify({ type: 'Feature', properties: {}, geometry: { type: 'Polygon', coordinates: [ring] } }),
  );
  const cut = await run('tile', at('a.geojson'), '-o', at('a.pmtiles'));
  const [, first, last] = /zoom (\d+) to (\d+)/.exec(cut.out)!;
  expect(Number(first)).toBeGreaterThan(0);
  expect((await run('inspect', at('a.pmtiles'))).out).toMatch(new RegExp(`${first} to ${last}`));
});

test('convert takes columns by name, and stops at the first bad row where it is asked to', async () => {
  writeFileSync(at('t.csv'), 'id,up,across\n1,44.6,-31.2\n2,n/a,-31.1\n');
  const named = await run('convert', at('t.csv'), '-o', at('t.geojson'), '--x', 'across', '--y', 'up');
  expect([named.status, named.err]).toEqual([
    0,
    expect.stringMatching(/line 3: "n\/a" in the column "up" is not a coordinate/),
  ]);
  const strict = await run('convert', at('t.csv'), '-o', at('t.geojson'), '--x', 'across', '--y', 'up', '--strict');
  expect([strict.status, strict.err]).toEqual([1, expect.stringMatching(/line 3/)]);
  const wrong = await run('inspect', at('t.csv'), '--x', 'acros', '--y', 'up');
  expect([wrong.status, wrong.err]).toEqual([1, expect.stringMatching(/no column "acros"[\s\S]*id, up, across/)]);
});
