import { Fault } from '@flintwright/core';
import { cutAtAntimeridian, type EditConflict, type EditDocument, type EditFeature } from '@flintwright/core/edit';
import { checkOptions, type OptionTable } from '../base/check-options.js';
import { countLive } from '../base/live-counts.js';
import { shown, type RequestHook, type RequestPlan } from '../load/request.js';

/** A collection of OGC API Features. */
export interface RemoteFeaturesOptions {
  /** URL of the collection, such as `https://host/collections/moorings`. */
  readonly address: string;
  /** Called before every request, to add a key or headers. */
  readonly request?: RequestHook;
}

/** Result of saving. */
export interface SaveReport {
  readonly created: number;
  readonly replaced: number;
  readonly deleted: number;
  /** Changes that conflict with changes on the server; nothing was overwritten. */
  readonly conflicts: readonly EditConflict[];
  /** Changes that could not be saved, with the reason; they are tried again at the next save. */
  readonly faults: readonly { readonly key: string; readonly fault: Fault }[];
}

/** A feature as it is on the server, as far as it is known. */
interface Known {
  /** Its id there. */
  readonly id: string;
  readonly feature: EditFeature;
}

const table: OptionTable<RemoteFeaturesOptions> = { address: 'text', request: 'function' };

/** JSON whose keys are in order, to compare by. */
const ordered = (value: unknown): string =>
  JSON.stringify(value, (_, part: unknown) =>
    typeof part === 'object' && part !== null && !Array.isArray(part)
      ? Object.fromEntries(Object.entries(part).toSorted(([a], [b]) => (a < b ? -1 : 1)))
      : part,
  );
const contentOf = ({ geometry, properties }: EditFeature) => ordered([geometry, properties]);
const bodyOf = ({ geometry, properties }: EditFeature, more: object = {}) =>
  JSON.stringify({ ...more, type: 'Feature', geometry: cutAtAntimeridian(geometry), properties });

/**
 * Features of a server that are corrected and saved there: OGC API Features, Part 1 (17-069r4) to read, and Part 4 (20-002) to write.
 * Changes that others made in the meantime are never overwritten; they are reported as conflicts.
 */
export class RemoteFeatures {
  private readonly items: string;
  /** By the keys of the document. */
  private readonly known = new Map<string, Known>();

  /** Prepares access to a collection. @param options URL of the collection, and a key */
  constructor(private readonly options: RemoteFeaturesOptions) {
    checkOptions(
      'new RemoteFeatures',
      options,
      table,
      "new RemoteFeatures({ address: 'https://host/collections/moorings' })",
    );
    this.items = new URL(`${options.address.replace(/\/$/, '')}/items`, document.baseURI).href;
  }

  /**
   * Fetches all features, page by page.
   *
   * @returns GeoJSON for a `DrawBar`
   * @throws Fault `save.*`
   */
  async load(): Promise<{ readonly type: 'FeatureCollection'; readonly features: readonly EditFeature[] }> {
    const features = await this.fetchAll();
    this.known.clear();
    for (const feature of features) this.known.set(String(feature.id), { id: String(feature.id), feature });
    return { type: 'FeatureCollection', features };
  }

  private async fetchAll(): Promise<readonly EditFeature[]> {
    const features: EditFeature[] = [];
    let next: string | undefined = `${this.items}?limit=1000`;
    for (const seen = new Set<string>(); next !== undefined && !seen.has(next);) {
      seen.add(next);
      const answer = await this.ask('GET', next);
      const page = (await jsonOf(answer, next)) as {
        readonly features?: readonly (Omit<EditFeature, 'geometry'> & {
          readonly geometry: EditFeature['geometry'] | null;
        })[];
        readonly links?: readonly { readonly rel?: string; readonly href?: string }[];
      };
      if (!Array.isArray(page.features)) throw formless(next);
      for (const { id, geometry, properties } of page.features as typeof page.features & object)
        // What has no id cannot be named to the server, and what has no place cannot be corrected on a map.
        if (geometry && id !== undefined)
          features.push({ type: 'Feature', id, geometry, properties: properties ?? {} });
      const href = page.links?.find(({ rel }) => rel === 'next')?.href;
      next = href === undefined ? undefined : new URL(href, next).href;
    }
    return features;
  }

  /**
   * Fetches and applies changes that were made on the server since the last call.
   *
   * @param document the edited document
   * @returns unresolved conflicts
   * @throws Fault `save.*`
   */
  async refresh(document: EditDocument): Promise<readonly EditConflict[]> {
    const now = new Map((await this.fetchAll()).map((feature) => [String(feature.id), feature]));
    const keys = new Map([...this.known].map(([key, { id }]) => [id, key]));
    const changes = new Map<string, EditFeature | undefined>();
    for (const [id, feature] of now) {
      const key = keys.get(id) ?? id;
      const before = this.known.get(key);
      if (before && contentOf(before.feature) === contentOf(feature)) continue;
      this.known.set(key, { id, feature });
      changes.set(key, feature);
    }
    for (const [key, { id }] of this.known)
      if (!now.has(id)) {
        this.known.delete(key);
        changes.set(key, undefined);
      }
    return document.merge(changes);
  }

  /**
   * Saves added, changed and deleted features. Each feature is saved separately, so that one refusal does not block the others.
   *
   * @param document the edited document
   */
  async save(document: EditDocument): Promise<SaveReport> {
    const report = { created: 0, replaced: 0, deleted: 0 };
    const faults: { key: string; fault: Fault }[] = [];
    /** As they are on the server by now, by us or by somebody else. */
    const settled = new Map<string, EditFeature | undefined>();
    const open = new Set(document.conflicts.map(({ key }) => key));
    for (const key of new Set([...document.features.keys(), ...this.known.keys()])) {
      const [mine, there] = [document.features.get(key), this.known.get(key)];
      if (open.has(key) || (mine && there && contentOf(mine) === contentOf(there.feature))) continue;
      try {
        if (!there) {
          if (!mine) continue;
          await this.create(key, mine);
          report.created++;
          settled.set(key, mine);
          continue;
        }
        const met = mine ? await this.replace(key, there, mine) : await this.delete(key, there);
        if (met) settled.set(key, met.now);
        else {
          report[mine ? 'replaced' : 'deleted']++;
          settled.set(key, mine);
        }
      } catch (error) {
        if (!(error instanceof Fault)) throw error;
        faults.push({ key, fault: error });
      }
    }
    return { ...report, conflicts: document.merge(settled), faults };
  }

  private async create(key: string, feature: EditFeature): Promise<void> {
    const answer = await this.ask('POST', this.items, bodyOf(feature));
    const at = answer.headers.get('Location');
    if (at === null)
      throw new Fault(
        'save.form',
        'the server does not say where the new feature is',
        'It must respond with a Location that pages may read (Access-Control-Expose-Headers).',
        shown(this.items),
      );
    const id = decodeURIComponent(new URL(at, this.items).pathname.replace(/^.*\//, ''));
    this.known.set(key, { id, feature });
  }

  private addressOf = (id: string) => `${this.items}/${encodeURIComponent(id)}`;

  /** A feature as it is on the server, with its tag and what else the server keeps of it; nothing where it is gone. */
  private async look(
    id: string,
  ): Promise<{ readonly feature: EditFeature; readonly tag: string | null; readonly more: object } | undefined> {
    const at = this.addressOf(id);
    const answer = await this.ask('GET', at, undefined, {}, [404, 410]);
    if (!answer.ok) return undefined;
    const whole = (await jsonOf(answer, at)) as EditFeature & { readonly links?: unknown };
    // Links are those of the answer, not of the feature.
    const { geometry, properties, links: _, ...more } = whole;
    const feature: EditFeature = { type: 'Feature', id, geometry, properties: properties ?? {} };
    return { feature, tag: answer.headers.get('ETag'), more };
  }

  /** Remembers that a feature is other than was thought. */
  private met(key: string, id: string, feature: EditFeature | undefined): { readonly now: EditFeature | undefined } {
    if (feature) this.known.set(key, { id, feature });
    else this.known.delete(key);
    return { now: feature };
  }

  private async replace(key: string, { id, feature }: Known, mine: EditFeature) {
    return this.write(key, id, feature, 'PUT', mine);
  }

  private async delete(key: string, { id, feature }: Known) {
    return this.write(key, id, feature, 'DELETE', undefined);
  }

  /** Replaces or deletes a feature, if it still is as it was thought; answers what it is if not. */
  private async write(
    key: string,
    id: string,
    before: EditFeature,
    method: 'PUT' | 'DELETE',
    mine: EditFeature | undefined,
  ): Promise<{ readonly now: EditFeature | undefined } | undefined> {
    const there = await this.look(id);
    if (!there && !mine) this.known.delete(key);
    if (!there) return mine ? this.met(key, id, undefined) : undefined;
    if (contentOf(there.feature) !== contentOf(before)) return this.met(key, id, there.feature);
    // If-Match compares strongly, so a weak tag, as proxies that compress make them, never matches (RFC 9110, section 13.1.1).
    const isStrong = there.tag !== null && !there.tag.startsWith('W/');
    const headers: Record<string, string> = isStrong ? { 'If-Match': there.tag } : {};
    const answer = await this.ask(method, this.addressOf(id), mine && bodyOf(mine, there.more), headers, [412]);
    if (answer.status === 412) return this.met(key, id, (await this.look(id))?.feature);
    if (mine) this.known.set(key, { id, feature: mine });
    else this.known.delete(key);
    return undefined;
  }

  /** @throws Fault `save.*`, but for statuses that are answers */
  private async ask(
    method: string,
    address: string,
    body?: string,
    more: Readonly<Record<string, string>> = {},
    answers: readonly number[] = [],
  ): Promise<Response> {
    const type: Record<string, string> = body === undefined ? {} : { 'Content-Type': 'application/geo+json' };
    const plan: RequestPlan = { url: address, headers: { Accept: 'application/geo+json', ...type, ...more } };
    const { url, headers, credentials } = (await this.options.request?.(plan)) ?? plan;
    let answer: Response;
    countLive('requests', 1);
    try {
      answer = await fetch(url, {
        method,
        headers,
        cache: 'no-store',
        ...(body === undefined ? {} : { body }),
        ...(credentials ? { credentials } : {}),
      });
    } catch (error) {
      throw new Fault(
        'save.down',
        'the server cannot be reached',
        'Check the connection, and whether the server allows cross-origin writes (CORS). Nothing is lost; save again.',
        shown(url),
        error,
      );
    } finally {
      countLive('requests', -1);
    }
    if (answer.ok || answers.includes(answer.status)) return answer;
    throw await refusal(answer, shown(url));
  }
}

async function jsonOf(answer: Response, at: string): Promise<unknown> {
  try {
    return (await answer.json()) as unknown;
  } catch (error) {
    throw formless(at, error);
  }
}

const formless = (at: string, cause?: unknown) =>
  new Fault(
    'save.form',
    'the server did not answer with GeoJSON',
    'The address must be that of a collection of OGC API Features.',
    shown(at),
    cause,
  );

/** What a server says is wrong: problem details (RFC 9457), the exception of OGC API Common, or plain text. */
function saidIn(text: string): string {
  try {
    const { detail, description, message, title } = JSON.parse(text) as Readonly<Record<string, unknown>>;
    const said = [detail, description, message, title].find((one) => typeof one === 'string' && one !== '');
    return said === undefined ? '' : String(said);
  } catch {
    // Not JSON: short plain text is shown as it is, a page of HTML is not.
    return text.length <= 300 && !/^\s*</.test(text) ? text.trim() : '';
  }
}

async function refusal(answer: Response, at: string): Promise<Fault> {
  const { status } = answer;
  const said = saidIn(await answer.text());
  if (status === 401 || status === 403)
    return new Fault(
      'save.key',
      `the server refused the key (${status})`,
      'Add the key with "request", such as forHost(host, { headers }).',
      at,
    );
  if (status === 405 || status === 501 || status === 404)
    return new Fault(
      'save.readonly',
      `the server does not support this change (${status})`,
      'It must support OGC API Features, Part 4, for this collection.',
      at,
    );
  if (status === 400 || status === 422)
    return new Fault(
      'save.invalid',
      `the server refused the feature: ${said || status}`,
      'Correct it, and save again.',
      at,
    );
  return new Fault('save.down', `the server responded with ${status}`, 'Try again later; nothing is lost.', at);
}
