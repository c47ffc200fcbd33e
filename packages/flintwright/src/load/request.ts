import { Fault } from '@flintwright/core';
import { joined, nearestSpelling } from '@flintwright/core/internal';
import { countLive } from '../base/live-counts.js';
import { Patience } from './patience.js';

/** A request before it is sent; the application may change it, for example to add a key or headers. */
export interface RequestPlan {
  url: string;
  headers: Record<string, string>;
  credentials?: RequestCredentials;
  /** Timeout in milliseconds without a received byte, after which the request is retried; default 30000. */
  patience?: number;
}

/** Called before each request; changes the plan or returns another. Keys then appear neither in the sheet nor in messages. */
export type RequestHook = (plan: RequestPlan) => RequestPlan | void | Promise<RequestPlan | void>;

/** A host that a hook asked for, and whether the request went there. */
export interface HostTried {
  readonly host: string;
  readonly fits: boolean;
}

/** Hosts that hooks looked for, by the request that they were handed. */
export const hostsOf = new WeakMap<RequestPlan, HostTried[]>();

/** Notes which hosts the hooks of a map look for, and tells of those that none of its requests goes to. */
export class HostsTried {
  private readonly asked = new Map<string, boolean>();
  private readonly told = new Set<string>();
  private readonly seen = new Set<string>();

  /** A hook that notes, around one of the application's. */
  noting(hook: RequestHook): RequestHook {
    return async (plan) => {
      const tried: HostTried[] = [];
      hostsOf.set(plan, tried);
      const out = await hook(plan);
      this.seen.add(new URL((out ?? plan).url).host);
      for (const { host, fits } of tried) this.asked.set(host, fits || (this.asked.get(host) ?? false));
      return out;
    };
  }

  /** Hosts that nothing was asked of so far, each once. */
  faults(): Fault[] {
    return [...this.asked].flatMap(([host, fits]) => {
      if (fits || this.told.has(host)) return [];
      this.told.add(host);
      const hosts = [...this.seen];
      const near = nearestSpelling(host, hosts);
      return [
        new Fault(
          'request.host',
          `forHost adds to requests to "${host}", but no request went there`,
          near ? `Did you mean "${near}"?` : `Requests went to: ${hosts.join(', ')}.`,
        ),
      ];
    });
  }
}

export interface Asked {
  readonly signal: AbortSignal;
  readonly range?: readonly [number, number];
  /** Name of the thing wanted, for messages: "the archive", "tile 3/4/5". */
  readonly what: string;
}

/** Waits some milliseconds, or until a signal aborts. */
export const pause = (ms: number, signal: AbortSignal) =>
  new Promise<void>((resolve, reject) => {
    const timer = setTimeout(resolve, ms);
    signal.addEventListener('abort', () => (clearTimeout(timer), reject(signal.reason as Error)), { once: true });
  });

const usualPatience = 30_000;

/** An address without its query, where keys live. */
export const shown = (url: string) => url.replace(/[?#].*$/, '');

/**
 * Fetches bytes. Tries up to three times where trying again may help (no answer, 429, 500, 502, 503, 504), waiting
 * 0.4 s, then 1.6 s, or as long as `Retry-After` asks (up to 20 s). A request from which nothing comes for 30 s is given up, too.
 *
 * @returns undefined for 204 and 404 when `optional` is set
 * @throws Fault `request.*`
 */
export async function fetchBytes(
  address: string,
  asked: Asked,
  hook: RequestHook | undefined,
  optional = false,
): Promise<Uint8Array | undefined> {
  const pieces = await fetchPieces(address, asked, hook, optional);
  return pieces && joined(pieces);
}

/** As {@link fetchBytes}, in the pieces that came: large files are not copied together here. */
export async function fetchPieces(
  address: string,
  asked: Asked,
  hook: RequestHook | undefined,
  optional = false,
): Promise<Uint8Array[] | undefined> {
  const plan: RequestPlan = { url: address, headers: {} };
  const { signal, range, what } = asked;
  if (range) plan.headers['Range'] = `bytes=${range[0]}-${range[0] + range[1] - 1}`;
  const final = (await hook?.(plan)) ?? plan;
  signal.throwIfAborted();
  const at = shown(final.url);
  for (let attempt = 1; ; attempt++) {
    const last = attempt === 3;
    let wait = 400 * 4 ** (attempt - 1);
    countLive('requests', 1);
    const patience = new Patience(signal, final.patience ?? usualPatience);
    try {
      const response = await fetch(final.url, {
        headers: final.headers,
        signal: patience.signal,
        ...(final.credentials ? { credentials: final.credentials } : {}),
      });
      if (response.ok) {
        const type = response.headers.get('content-type') ?? '';
        if (type.startsWith('text/html')) {
          throw new Fault(
            'request.html',
            `${what} is a web page`,
            'The address leads to a page, not to data; many servers respond like this to a wrong path.',
            at,
          );
        }
        if (range && response.status !== 206 && Number(response.headers.get('content-length') ?? Infinity) > range[1]) {
          throw new Fault(
            'request.range',
            `the server sent all of ${what} instead of the requested part`,
            'Tile archives need a server that supports range requests; flintwright serve does.',
            at,
          );
        }
        return response.status === 204 && optional ? undefined : await patience.all(response);
      }
      if (response.status === 404 && optional) return undefined;
      if (response.status === 401 || response.status === 403) {
        throw new Fault(
          'request.refused',
          `${what} was refused (${response.status})`,
          'Add a valid key or header in the map\'s "request" hook.',
          at,
        );
      }
      if (last || ![429, 500, 502, 503, 504].includes(response.status)) {
        throw new Fault(
          'request.status',
          `${what} failed with status ${response.status} ${response.statusText}`.trim(),
          response.status === 404 ? 'Check the address.' : 'The server is at fault; try again later.',
          at,
        );
      }
      const after = response.headers.get('retry-after');
      if (after)
        wait = Math.min(
          20000,
          (/^\d+$/.test(after) ? Number(after) : (Date.parse(after) - Date.now()) / 1000) * 1000 || wait,
        );
    } catch (error) {
      signal.throwIfAborted();
      if (error instanceof Fault) throw error;
      if (last && patience.late)
        throw new Fault(
          'request.slow',
          `no data arrived from ${what} for ${(final.patience ?? usualPatience) / 1000} s`,
          'Check the server, or raise "patience" in the map\'s "request" hook.',
          at,
          error,
        );
      if (last)
        throw new Fault(
          'request.failed',
          `${what} could not be fetched: ${(error as Error).message}`,
          'Check the address and the connection; from another host the server must allow this page (CORS).',
          at,
          error,
        );
    } finally {
      patience.end();
      countLive('requests', -1);
    }
    await pause(wait, signal);
  }
}

/** As {@link fetchBytes}, for JSON. */
export async function fetchJson(address: string, asked: Asked, hook: RequestHook | undefined): Promise<unknown> {
  const bytes = (await fetchBytes(address, asked, hook))!;
  const text = new TextDecoder().decode(bytes);
  try {
    return JSON.parse(text);
  } catch (error) {
    throw new Fault(
      'request.json',
      `${asked.what} is not JSON: ${(error as Error).message}`,
      text.trimStart().startsWith('<')
        ? 'It begins like HTML or XML; the address may be wrong.'
        : text
          ? 'It may be truncated.'
          : 'The response is empty.',
      shown(address),
      error,
    );
  }
}
