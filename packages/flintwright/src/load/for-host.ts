import type { RequestHook } from './request.js';

/** Additions to requests. */
export interface HostKey {
  /** Parameters of the address, such as `{ key: '…' }`. */
  readonly query?: Readonly<Record<string, string>>;
  readonly headers?: Readonly<Record<string, string>>;
  readonly credentials?: RequestCredentials;
}

/**
 * A `request` hook that adds a key or headers to the requests of one host, and to no others. Several are handed to the map by
 * calling one after the other in a hook of the application's own.
 *
 * @param host as in an address, with its port where there is one: `tiles.example`, `localhost:5170`
 * @param key what to add
 */
export function forHost(host: string, { query = {}, headers = {}, credentials }: HostKey): RequestHook {
  return (plan) => {
    const url = new URL(plan.url);
    if (url.host !== host) return;
    for (const [name, value] of Object.entries(query)) url.searchParams.set(name, value);
    plan.url = url.href;
    Object.assign(plan.headers, headers);
    if (credentials) plan.credentials = credentials;
  };
}
