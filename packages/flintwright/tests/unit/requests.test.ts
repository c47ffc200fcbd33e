import { createServer, type IncomingMessage, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, beforeEach, describe, expect, test } from '@jest/globals';
import { liveCounts } from '../../src/base/live-counts.js';
import { fetchBytes, fetchJson } from '../../src/load/request.js';

type Answer = readonly [status: number, headers: Record<string, string>, body?: string];
let server: Server;
let base: string;
let answers: Answer[] = [];
let seen: IncomingMessage[] = [];

beforeAll(async () => {
  server = createServer((request, response) => {
    seen.push(request);
    const [status, headers, body = ''] = answers.length > 1 ? answers.shift()! : answers[0];
    response.writeHead(status, headers).end(body);
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(() => new Promise((resolve) => server.close(resolve)));
beforeEach(() => {
  seen = [];
});

const asked = (more: object = {}) => ({ signal: new AbortController().signal, what: 'tile 3/4/5', ...more });
const text = (bytes: Uint8Array | undefined) => bytes && new TextDecoder().decode(bytes);
const faultOf = (promise: Promise<unknown>) =>
  promise.then(
    () => {
      throw new Error('nothing was refused');
    },
    (fault: { code: string; message: string; hint: string; at: string }) => fault,
  );

describe('a request', () => {
  test('goes out as the hook has it, with the range that is wanted', async () => {
    answers = [[206, {}, 'bytes']];
    const bytes = await fetchBytes(`${base}/a.pmtiles`, asked({ range: [16, 5] }), (plan) => {
      plan.url += '?key=secret';
      plan.headers['x-key'] = 'k';
    });
    expect(text(bytes)).toBe('bytes');
    expect([seen[0].url, seen[0].headers.range, seen[0].headers['x-key']]).toEqual([
      '/a.pmtiles?key=secret',
      'bytes=16-20',
      'k',
    ]);
    answers = [[200, {}, 'other']];
    const other = await fetchBytes(`${base}/a`, asked(), (plan) => ({ ...plan, url: `${base}/b` }));
    expect([text(other), seen[1].url]).toEqual(['other', '/b']);
  });

  test('is made again where that helps, as long after as the server asks', async () => {
    answers = [
      [503, { 'retry-after': '0' }],
      [429, {}],
      [200, {}, 'at last'],
    ];
    expect(text(await fetchBytes(`${base}/`, asked(), undefined))).toBe('at last');
    expect(seen).toHaveLength(3);
    answers = [[500, {}]];
    const fault = await faultOf(fetchBytes(`${base}/`, asked(), undefined));
    expect([fault.code, seen.length]).toEqual(['request.status', 6]);
  });

  test.each<[string, Answer, object, string, string]>([
    ['a web page', [200, { 'content-type': 'text/html' }, '<!doctype html>'], {}, 'request.html', 'wrong path'],
    [
      'the whole file in place of a part',
      [200, { 'content-length': '9' }, '123456789'],
      { range: [0, 4] },
      'request.range',
      'range requests',
    ],
    ['a refused key', [403, {}], {}, 'request.refused', '"request" hook'],
    ['nothing there', [404, {}], {}, 'request.status', 'Check the address'],
  ])('%s is a fault that does not show the key', async (_, answer, more, code, hint) => {
    answers = [answer];
    const fault = await faultOf(fetchBytes(`${base}/a?key=secret`, asked(more), undefined));
    expect(fault.code).toBe(code);
    expect(fault.hint).toContain(hint);
    expect(fault.message).toContain('tile 3/4/5');
    expect(`${fault.message} ${fault.hint} ${fault.at}`).not.toContain('secret');
    expect(seen).toHaveLength(1);
  });

  test('for something that may be missing takes 204 and 404 for an answer', async () => {
    for (const status of [204, 404]) {
      answers = [[status, {}]];
      expect(await fetchBytes(`${base}/`, asked(), undefined, true)).toBeUndefined();
    }
  });

  test('ends when it is no longer wanted, also between two attempts', async () => {
    answers = [[503, { 'retry-after': '20' }]];
    const leaving = new AbortController();
    const on = fetchBytes(`${base}/`, asked({ signal: leaving.signal }), undefined);
    while (!seen.length) await new Promise((resolve) => setTimeout(resolve, 5));
    leaving.abort(new Error('moved on'));
    await expect(on).rejects.toThrow('moved on');
    expect(liveCounts().requests).toBe(0);
  });

  test('without a server says what to check', async () => {
    const fault = await faultOf(fetchBytes('http://127.0.0.1:9/none', asked(), undefined));
    expect([fault.code, fault.hint]).toEqual(['request.failed', expect.stringContaining('CORS')]);
  });
});

test.each([
  ['{"a":1', 'It may be truncated.'],
  ['<xml/>', 'HTML or XML'],
  ['', 'The response is empty.'],
])('%j is not JSON, and the fault says why that may be', async (body, hint) => {
  answers = [[200, {}, body]];
  const fault = await faultOf(fetchJson(`${base}/a.json?key=secret`, asked(), undefined));
  expect([fault.code, fault.hint, fault.at]).toEqual(['request.json', expect.stringContaining(hint), `${base}/a.json`]);
});
