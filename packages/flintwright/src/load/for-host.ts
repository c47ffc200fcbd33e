import { Fault } from '@flintwright/core';
import { checkOptions, valueText, type OptionTable } from '../base/check-options.js';
import { hostsOf, type RequestHook } from './request.js';

const table: OptionTable<HostKey> = { query: 'object', headers: 'object', credentials: 'text' };

/** Parameters and headers to add to requests. */
export interface HostKey {
  /** Query parameters, such as `{ key: '…' }`. */
  readonly query?: Readonly<Record<string, string>>;
  readonly headers?: Readonly<Record<string, string>>;
  readonly credentials?: RequestCredentials;
}

/**
 * Creates a `request` hook that adds a key or headers to the requests of one host only. To combine several, call one after the other in a
 * hook of the application.
 *
 * @param host host name, with its port if there is one: `tiles.example`, `localhost:5170`
 * @param key what to add
 * @throws Fault `request.host` or `option.*`. A host that receives none of the map's requests is reported once the map has settled
 */
export function forHost(host: string, key: HostKey): RequestHook {
  checkOptions('forHost', key, table, "forHost('tiles.example', { query: { key } })");
  if (typeof host !== 'string' || !/^[^\s/?#@]+$/.test(host))
    throw new Fault(
      'request.host',
      `${valueText(host)} is not a host`,
      'Write it as in an address, without scheme and path: "tiles.example" or "localhost:5170".',
    );
  const { query = {}, headers = {}, credentials } = key;
  return (plan) => {
    const url = new URL(plan.url);
    const fits = url.host === host;
    hostsOf.get(plan)?.push({ host, fits });
    if (!fits) return;
    for (const [name, value] of Object.entries(query)) url.searchParams.set(name, value);
    plan.url = url.href;
    Object.assign(plan.headers, headers);
    if (credentials) plan.credentials = credentials;
  };
}
