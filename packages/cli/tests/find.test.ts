// The command `find`, on the gazetteers of the demo.
import { afterAll, describe, expect, test } from '@jest/globals';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { readFeatureFile } from '@flintwright/core/files';
import { Gazetteer, type Candidate } from '@flintwright/core/places';
import { randomFrom } from '../../core/tests/sample-random.ts';
import { demo, runHere as flintwright } from './command.ts';

const data = (name: string) => join(demo, name);
const folder = mkdtempSync(join(tmpdir(), 'flintwright-'));
const reach = data('reach.gazetteer');

afterAll(() => rmSync(folder, { recursive: true }));

describe('find', () => {
  test('an address with a typing error, with its score, place and the reason', async () => {
    const { status, out } = await flintwright('find', reach, '12', 'hawsr', 'street');
    expect(status).toBe(0);
    expect(out).toMatch(
      /score +name +in +kind +lon, lat +why\n 0\.\d\d {2}12 Hawser Street +Sallowmere +address +-31\.2\d+, 44\.6\d+ +hawsr → hawser \(1 error\)/,
    );
  });

  test('a crossing, as JSON', async () => {
    const { out } = await flintwright('find', reach, 'Rope Row and Kiln Yard', '--near=-31.18,44.62', '--json');
    const { candidates } = JSON.parse(out) as { candidates: Candidate[] };
    expect(candidates[0]).toMatchObject({ name: 'Kiln Yard & Rope Row', within: 'Hallow Quay', role: 'crossing' });
    expect(candidates[0].distance).toBeLessThan(2000);
  });

  test('what lies at a place', async () => {
    const { out } = await flintwright('find', reach, '--reverse=-31.1831587,44.6268348', '--kinds', 'street,town');
    expect(
      out
        .split('\n')
        .slice(1, 3)
        .map((line) => line.split(/ {2,}/)[1]),
    ).toEqual(['Hallow Quay', 'North Reach Road']);
  });

  test('a table, row by row, into any format', async () => {
    const [table, target] = ['visits.csv', 'visits.geojson'].map((name) => join(folder, name));
    writeFileSync(table, 'visit,address\n1,12 High Street Sallowmere\n2,mooring AG12\n3,zzzz qqqq\n');
    const { status, out } = await flintwright('find', reach, '--batch', table, '-o', target);
    expect([status, out]).toEqual([0, expect.stringContaining('2 of 3 rows found, by address')]);
    const { features } = JSON.parse(readFileSync(target, 'utf8')) as {
      features: { properties: object; geometry: object }[];
    };
    expect(features[0].properties).toMatchObject({
      visit: 1,
      found: '12 High Street, Sallowmere',
      found_kind: 'address',
    });
    expect(features[2]).toMatchObject({ geometry: null, properties: { found: null } });
  });

  test('columns of other names are named with the way to rename them; the order of addresses is a choice', async () => {
    const table = join(folder, 'houses.csv');
    const made = join(folder, 'houses.gazetteer');
    writeFileSync(table, 'lon,lat,hausnr,strasse\n10,50,1,Torweg\n10.001,50,2,Torweg\n');
    const unknown = await flintwright('convert', table, '-o', made);
    expect([unknown.status, unknown.err]).toEqual([
      1,
      expect.stringMatching(/hausnr, strasse\. .*--rename COLUMN=name/s),
    ]);
    const renamed = ['--rename', 'hausnr=number', '--rename', 'strasse=street'];
    for (const [order, name] of [
      ['number-first', '2 Torweg'],
      ['number-last', 'Torweg 2'],
    ]) {
      expect((await flintwright('convert', table, '-o', made, ...renamed, '--address-order', order)).status).toBe(0);
      const { out } = await flintwright('find', made, 'torweg', '2', '--json');
      expect((JSON.parse(out) as { candidates: Candidate[] }).candidates[0].name).toBe(name);
    }
    writeFileSync(table, 'lon,lat,hausnr,strasse,name\n10,50,1,Torweg,\n10.001,50,2,Torweg,Kilnhouse\n');
    expect((await flintwright('convert', table, '-o', made)).err).toMatch(
      /left out.*hausnr, strasse.*--rename COLUMN=name/s,
    );
    const wrong = await flintwright(
      'convert',
      table,
      '-o',
      join(folder, 'x.geojson'),
      '--address-order',
      'number-last',
    );
    expect([wrong.status, wrong.err]).toEqual([2, expect.stringMatching(/--address-order stands with GeoJSON/)]);
  });

  test.each<[string, string[], number, RegExp]>([
    ['nothing asked', [reach], 2, /expected a text, --reverse or --batch, got none/],
    ['two things asked', [reach, 'x', '--reverse=1,2'], 2, /got several/],
    ['no gazetteer', [data('beds.geojson'), 'x'], 1, /beds\.geojson: the bytes are not a gazetteer/],
    ['a misspelt kind', [reach, 'x', '--kinds', 'strete'], 1, /Did you mean "street"/],
    ['swapped degrees', [reach, '--reverse=44.6,-131'], 2, /Longitude comes first/],
    ['no number', [reach, 'x', '--most', 'many'], 2, /--most many is not a number/],
    ['no such column', [reach, '--batch', data('yield.csv'), '--column', 'adress'], 2, /has no column "adress"/],
    ['nothing found', [reach, 'zzzzqq'], 1, /nothing was found for zzzzqq/],
  ])('%s is told', async (_, args, status, message) => {
    const answer = await flintwright('find', ...args);
    expect(answer.status).toBe(status);
    expect(answer.err).toMatch(message);
  });
});

describe('how well it finds', () => {
  test('500 queries of every kind: the first is right in 95 of 100, one of five in 99', async () => {
    const random = randomFrom(2026);
    const pick = <T>(list: readonly T[]) => list[Math.floor(random() * list.length)];
    const slip = (text: string): string => {
      const words = text.split(' ');
      const long = words.flatMap((word, i) => (word.length > 3 && !/\d/.test(word) ? [i] : []));
      if (!long.length) return text;
      const at = pick(long);
      const [word, i] = [words[at], Math.floor(random() * words[at].length)];
      const letter = String.fromCharCode(97 + Math.floor(random() * 26));
      words[at] = pick([
        word.slice(0, i) + word.slice(i + 1),
        word.slice(0, i) + letter + word.slice(i),
        word.slice(0, i) + letter + word.slice(i + 1),
        word.slice(0, Math.max(0, i - 1)) +
          word
            .slice(i - 1, i + 1)
            .split('')
            .reverse()
            .join('') +
          word.slice(i + 1),
      ]);
      return words.join(' ');
    };
    const forms: Record<string, (text: string) => string> = {
      exact: (text) => text,
      beginning: (text) => text.slice(0, Math.max(5, Math.ceil(text.length * 0.75))),
      'one error': slip,
      'two errors': (text) => slip(slip(text)),
      reversed: (text) => text.split(' ').reverse().join(' '),
      accents: (text) =>
        text.replace(/[aeiou]/g, (vowel) => (random() < 0.4 ? `${vowel}\u0301` : vowel)).normalize('NFC'),
    };
    const tally = { asked: 0, first: 0, five: 0 };
    for (const name of ['reach.gazetteer', 'zeblune.gazetteer']) {
      const bytes = new Uint8Array(readFileSync(data(name)));
      const gazetteer = await Gazetteer.open(bytes);
      const { features } = (await readFeatureFile({ name, bytes })).layers[0];
      for (const [form, write] of Object.entries(forms))
        for (let k = 0; k < 42; k++) {
          const { number, street, name: title, within } = pick(features).properties as Record<string, string>;
          const label = number ? `${number} ${street}` : title;
          const asked = [label, within].filter(Boolean).join(' ');
          const text = write(asked);
          const found = await gazetteer.find(text, { most: 5, typing: form === 'beginning' });
          const right = (one: Candidate) =>
            form === 'beginning'
              ? [one.name, one.within].filter(Boolean).join(' ').startsWith(text)
              : one.name === label && one.within === within;
          tally.asked++;
          if (found[0] && right(found[0])) tally.first++;
          if (found.some(right)) tally.five++;
        }
    }
    expect(tally.asked).toBeGreaterThan(500);
    expect(tally.first / tally.asked).toBeGreaterThanOrEqual(0.95);
    expect(tally.five / tally.asked).toBeGreaterThanOrEqual(0.99);
  }, 120000);

  test('a gazetteer is at most half as large again as its packed source', () => {
    const source = ['cities', 'nations'].map((name) => readFileSync(data(`zeblune/${name}.geojson`)));
    expect(readFileSync(data('zeblune.gazetteer')).length).toBeLessThan(1.5 * gzipSync(Buffer.concat(source)).length);
  });
});
