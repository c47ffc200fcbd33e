// What the command line writes: whole or not at all, through links, onto devices, under signals; and what of the data reaches a terminal.
import { spawn, spawnSync } from 'node:child_process';
import {
  chmodSync,
  lstatSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { once } from 'node:events';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { bin, demo, run, runHere } from './command.ts';

let folder: string;
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'flintwright-'));
});
afterEach(() => rmSync(folder, { recursive: true }));
const at = (name: string) => join(folder, name);
const line = (i: number, name = `Mark ${i}`) =>
  `${JSON.stringify({ type: 'Feature', properties: { name, i }, geometry: { type: 'Point', coordinates: [i % 170, 4] } })}\n`;
const lines = (count: number, more = '') => Array.from({ length: count }, (_, i) => line(i)).join('') + more;
const left = () => readdirSync(folder).filter((name) => name.includes('.part'));

/** Has `convert` write kept.csv, and ends it some milliseconds after the file beside it is there; the signal that it ended by. */
async function endedAtWork(count: number, wait = 0): Promise<string | null> {
  const child = spawn(process.execPath, [bin, 'convert', '-', '-o', at('kept.csv')], {
    stdio: ['pipe', 'ignore', 'ignore'],
  });
  child.stdin.on('error', () => {}); // It is ended while it is fed.
  child.stdin.write(lines(count));
  for (let k = 0; k < 5000 && !left().length; k++) await new Promise((done) => setTimeout(done, 2));
  expect(left()).toHaveLength(1);
  if (wait) await new Promise((done) => setTimeout(done, wait));
  child.kill('SIGTERM');
  const [, signal] = (await once(child, 'exit')) as [number | null, string | null];
  return signal;
}

describe('a file', () => {
  test('is there whole or as it was before: a fault halfway, a signal, two writers at once', async () => {
    writeFileSync(at('in.geojsonl'), lines(40_000, '{"type":"Feature"'));
    writeFileSync(at('kept.csv'), 'as it was');
    expect(await runHere('convert', '--strict', at('in.geojsonl'), '-o', at('kept.csv'))).toMatchObject({ status: 1 });
    expect([readFileSync(at('kept.csv'), 'utf8'), left()]).toEqual(['as it was', []]);
    // Fed slowly, it is still at work when it is ended.
    const signal = await endedAtWork(60_000);
    expect([signal, readFileSync(at('kept.csv'), 'utf8'), left()]).toEqual(['SIGTERM', 'as it was', []]);
    writeFileSync(at('in.geojsonl'), lines(3000));
    const both = await Promise.all([1, 2].map(() => run('convert', at('in.geojsonl'), '-o', at('kept.csv'))));
    expect(both.map(({ status }) => status)).toEqual([0, 0]);
    expect(readFileSync(at('kept.csv'), 'utf8').trimEnd().split('\n')).toHaveLength(3001);
    expect(left()).toEqual([]);
  });

  test('ended at whatever moment, nothing stays beside it, and what was there is whole', async () => {
    writeFileSync(at('kept.csv'), 'as it was');
    const seen = new Set<string>();
    for (const wait of [0, 0, 5, 40]) {
      const signal = await endedAtWork(30_000, wait);
      seen.add(`${signal}, ${readFileSync(at('kept.csv'), 'utf8')}, ${left().length} left`);
    }
    expect([...seen]).toEqual(['SIGTERM, as it was, 0 left']);
  });

  test('keeps its mode; a link stays a link, and what it leads to is written', async () => {
    writeFileSync(at('in.geojsonl'), lines(3));
    writeFileSync(at('real.csv'), 'old');
    chmodSync(at('real.csv'), 0o640);
    symlinkSync('real.csv', at('link.csv'));
    symlinkSync('new.csv', at('fresh.csv'));
    for (const name of ['link.csv', 'fresh.csv'])
      expect((await runHere('convert', at('in.geojsonl'), '-o', at(name))).status).toBe(0);
    expect(lstatSync(at('link.csv')).isSymbolicLink()).toBe(true);
    expect(statSync(at('real.csv')).mode & 0o777).toBe(0o640);
    for (const name of ['real.csv', 'new.csv']) expect(readFileSync(at(name), 'utf8')).toContain('Mark 2');
  });

  test('that is a device or a folder: written to, or told', async () => {
    writeFileSync(at('in.geojsonl'), lines(2000));
    symlinkSync('/dev/full', at('full.csv'));
    symlinkSync('/dev/null', at('null.csv'));
    expect(await runHere('convert', at('in.geojsonl'), '-o', at('full.csv'))).toMatchObject({
      status: 1,
      err: expect.stringMatching(/cannot be written.*space/),
    });
    expect((await runHere('convert', at('in.geojsonl'), '-o', at('null.csv'))).status).toBe(0);
    expect([statSync('/dev/full').isCharacterDevice(), statSync('/dev/null').isCharacterDevice()]).toEqual([
      true,
      true,
    ]);
    expect(await runHere('inspect', folder)).toMatchObject({ status: 1, err: expect.stringContaining('is a folder') });
    const full = spawn(process.execPath, [bin, 'convert', at('in.geojsonl'), '-o', '-', '--as', 'csv'], {
      stdio: ['ignore', 'pipe', 'pipe'],
    });
    full.stdout.destroy();
    let said = '';
    full.stderr.on('data', (text: Buffer) => (said += text.toString()));
    await once(full, 'exit');
    expect(said).not.toMatch(/\n\s+at /);
  });
});

test('control characters of names and attributes are shown as such', async () => {
  const odd = 'Buoy\u001b[2J\u001b]0;owned\u0007\u009b31m\u202e';
  writeFileSync(at('odd.geojson'), JSON.stringify({ type: 'FeatureCollection', features: [JSON.parse(line(1, odd))] }));
  for (const args of [
    ['inspect', at('odd.geojson')],
    ['inspect', at('odd.geojson'), '--json'],
    ['inspect', at('gone\u001b[2J')],
  ]) {
    const { out, err } = await run(...args);
    // oxlint-disable-next-line no-control-regex
    expect(`${out}${err}`).not.toMatch(/[\u0000-\u0008\u000b-\u001f\u007f-\u009f\u202e]/);
    expect(`${out}${err}`).toContain('\\u001b[2J');
  }
});

test.each([
  ['tile', 'in.geojsonl', '-o', 'x.pmtiles', '--zooms', ''],
  ['convert', 'in.geojsonl', '-o', 'x.csv', '--simplify', ''],
  ['serve', '.', '--port', ''],
  ['serve', '.', '--per-minute', ''],
  ['find', 'x', '--near', ','],
])('%s with an empty number is refused in words', async (...args) => {
  writeFileSync(at('in.geojsonl'), lines(3));
  const { status, err } = await runHere(...args.map((text) => (/^(in|x)\./.test(text) ? at(text) : text)));
  expect(status).toBeGreaterThan(0);
  expect(err).not.toMatch(/\n\s+at /);
});

test.each([
  ['full', '> /dev/full', /standard output cannot be written/, 1],
  ['closed', '>&-', /^(?![\s\S]*\bat )/, undefined],
])('standard output that is %s ends the command in words, without a stack', (_, redirection, message, status) => {
  const { stderr, status: ended } = spawnSync(
    'bash',
    ['-c', `"${process.execPath}" "${bin}" inspect "${join(demo, 'moorings.geojson')}" ${redirection}`],
    {
      encoding: 'utf8',
    },
  );
  expect(stderr).toMatch(message);
  expect(stderr).not.toMatch(/\n\s+at |node:internal/);
  if (status !== undefined) expect(ended).toBe(status);
});
