import { Fault } from '@flintwright/core';
import { countLive } from '../base/live-counts.js';
import { shown, type RequestHook, type RequestPlan } from '../load/request.js';

/** Options of requests to a service. */
export interface ServiceOptions {
  /** Called before every request, to add a key or headers. */
  readonly request?: RequestHook;
  /** Timeout in milliseconds; default 8000. */
  readonly patience?: number;
}

/**
 * Asks a service for JSON, once.
 *
 * @param address whole address
 * @param options key, and patience
 * @param signal ends it
 * @throws Fault `search.limited`, `search.key`, `search.slow`, `search.down` or `search.form`
 */
export async function askJson(
  address: string,
  { request, patience = 8000 }: ServiceOptions,
  signal: AbortSignal,
): Promise<unknown> {
  const plan: RequestPlan = { url: address, headers: { Accept: 'application/geo+json, application/json' } };
  const { url, headers, credentials } = (await request?.(plan)) ?? plan;
  const at = shown(url);
  const ending = new AbortController();
  let late = false;
  const timer = setTimeout(() => {
    late = true;
    ending.abort();
  }, patience);
  const stop = () => ending.abort(signal.reason);
  signal.addEventListener('abort', stop);
  let answer: Response;
  countLive('requests', 1);
  try {
    answer = await fetch(url, {
      headers,
      signal: ending.signal,
      ...(credentials ? { credentials } : {}),
    });
    if (answer.ok) return readJson(await answer.text(), at);
  } catch (error) {
    if (error instanceof Fault) throw error;
    signal.throwIfAborted();
    if (late)
      throw new Fault(
        'search.slow',
        `the search service did not respond within ${patience / 1000} s`,
        'Try again; or raise "patience".',
        at,
        error,
      );
    throw new Fault(
      'search.down',
      'the search service cannot be reached',
      'Check the connection, and whether the service allows cross-origin requests (CORS).',
      at,
      error,
    );
  } finally {
    clearTimeout(timer);
    signal.removeEventListener('abort', stop);
    countLive('requests', -1);
  }
  throw refusal(answer, at);
}

function refusal({ status, headers }: Response, at: string): Fault {
  if (status === 429) {
    const wait = Number(headers.get('Retry-After'));
    return new Fault(
      'search.limited',
      'the search service limits the number of requests',
      wait > 0 ? `Try again in ${wait} s.` : 'Try again later.',
      at,
    );
  }
  if (status === 401 || status === 403)
    return new Fault(
      'search.key',
      `the search service refused the key (${status})`,
      'Add the key with "request", such as forHost(host, { query: { key } }).',
      at,
    );
  return new Fault(
    'search.down',
    `the search service responded with ${status}`,
    status === 404 ? 'Check its address.' : 'Try again later.',
    at,
  );
}

function readJson(text: string, at: string): unknown {
  try {
    return JSON.parse(text) as unknown;
  } catch (error) {
    throw new Fault(
      'search.form',
      /^\s*</.test(text) ? 'the search service returned a web page' : 'the response of the search service is not JSON',
      'Check its address; many servers answer with a page for a wrong path.',
      at,
      error,
    );
  }
}

/** An answer without a list of features. */
export const formless = (at: string): Fault =>
  new Fault(
    'search.form',
    'the response of the search service is not a FeatureCollection',
    'The service must respond with GeocodeJSON or GeoJSON.',
    shown(at),
  );
