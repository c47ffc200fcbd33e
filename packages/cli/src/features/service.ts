import type { Crs } from '@flintwright/core';
import type { FastifyInstance, FastifyReply, FastifyRequest } from 'fastify';
import { createHash, randomUUID } from 'node:crypto';
import { problem } from '../commands/problem.js';
import { isHost, isKnown } from '../commands/serve-tiles.js';
import { apiDefinition, definitionType } from './api-definition.js';
import { bodyOf, featureText, type Sent } from './body.js';
import { Collection, type CollectionFile } from './collection.js';
import type { CollectionState } from './collection-state.js';
import { deepest, depthOf, patchText, type FileFeature } from './feature-file.js';
import { assertParameters, featureParameters, itemsOf, plainParameters } from './items-query.js';
import { collectionsPage, featurePage, itemsPage, linkPage, listPage, termPage, type Link } from './pages.js';
import { Refusal } from './refusal.js';
import { featureIn, systemNamed, systemsOf, uriOf } from './systems.js';

export type { CollectionFile } from './collection.js';

/** Where the collections are, and whether they may be changed. */
export interface FeatureServiceFiles {
  /** Names of all collections. */
  names(): readonly string[];
  /** The file of a collection; undefined where there is none. */
  find(name: string): CollectionFile | undefined;
  /** Whether features may be added, replaced, changed and deleted. */
  readonly edits: boolean;
  /** Whether a key is wanted of everybody. */
  readonly keyed: boolean;
}

const spec = 'http://www.opengis.net/spec';
const part1 = ['core', 'geojson', 'html', 'oas30'].map((one) => `${spec}/ogcapi-features-1/1.0/conf/${one}`);
const part2 = [`${spec}/ogcapi-features-2/1.0/conf/crs`];
const part4 = ['create-replace-delete', 'update', 'optimistic-locking-etags', 'features'].map(
  (one) => `${spec}/ogcapi-features-4/1.0/conf/${one}`,
);

const [json, geoJson, html] = ['application/json', 'application/geo+json', 'text/html'];
const pageType = `${html}; charset=utf-8`;
const root = '/features';

const tagOf = (text: string) => `"${createHash('sha1').update(text).digest('base64url').slice(0, 16)}"`;

type Named = FastifyRequest<{ Params: { name: string; id: string }; Querystring: Record<string, unknown> }>;

/** How much an answer of a media type is wanted (RFC 9110, section 12.5.1): 0 for not at all. */
function qualityOf(accept: string, type: string): number {
  let [best, found] = [-1, 0];
  for (const range of accept.toLowerCase().split(',')) {
    const [name, ...parameters] = range.split(';').map((part) => part.trim());
    const [kind] = type.split('/');
    const level = name === type ? 2 : name === `${kind}/*` ? 1 : name === '*/*' ? 0 : -1;
    if (level < 0 || level < best) continue;
    const q = Number(parameters.map((part) => /^q=([\d.]+)$/.exec(part)?.[1]).find(Boolean) ?? 1);
    [best, found] = [level, q];
  }
  return found;
}

/** Whether a page is asked for, by `f` or by the header `Accept`. @throws Refusal 400, 406 */
function wantsPage({ query, headers: { accept = '*/*' } }: Named, types: readonly string[]): boolean {
  const form = query['f'];
  if (form !== undefined) {
    if (form === 'html' || form === 'json') return form === 'html';
    throw new Refusal(400, `f=${String(form)} is neither json nor html`);
  }
  const [page, plain] = [
    qualityOf(accept, html),
    Math.max(...types.map((type) => qualityOf(accept, type.split(';')[0]))),
  ];
  if (!page && !plain) throw new Refusal(406, `answers are ${[...types, html].join(' or ')}`);
  return page > plain;
}

/** Addresses of a request: of the service, and of this document. */
interface Addresses {
  readonly base: string;
  readonly self: string;
  /** This document in another form. */
  as(form: 'json' | 'html'): string;
}

function addressesOf({ protocol, host, url }: FastifyRequest): Addresses {
  const origin = `${protocol}://${host}`;
  const self = new URL(url, origin);
  // A key that opens the service is nobody else's.
  self.searchParams.delete('key');
  return {
    base: origin + root,
    self: self.href,
    as(form) {
      const other = new URL(self);
      other.searchParams.set('f', form);
      return other.href;
    },
  };
}

const link = (href: string, rel: string, type: string, title: string): Link => ({ href, rel, type, title });

/** Links to this document as it is and in its other form. */
function ownLinks({ self, as }: Addresses, isPage: boolean, type = json): Link[] {
  return [
    link(self, 'self', isPage ? html : type, 'This document'),
    isPage ? link(as('json'), 'alternate', type, 'As JSON') : link(as('html'), 'alternate', html, 'As a page'),
  ];
}

/**
 * Serves the GeoJSON files of a folder as collections of OGC API Features below `/features`: Part 1 (17-069r4), Part 2 (18-058r1), and, where
 * edits are accepted, Part 4 (20-002): create, replace, update and delete, with entity tags that tell of a change by somebody else.
 *
 * @param server the server
 * @param files the collections
 */
export function serveFeatures(server: FastifyInstance, files: FeatureServiceFiles): void {
  const collections = new Map<string, Collection>();
  const collectionOf = (name: string): Collection => {
    if (!files.find(name)) throw new Refusal(404, `there is no collection ${name}`);
    let known = collections.get(name);
    if (!known) collections.set(name, (known = new Collection(() => files.find(name))));
    return known;
  };
  const types = [json, geoJson, 'application/merge-patch+json'];
  server.removeContentTypeParser(json);
  server.addContentTypeParser(types, { parseAs: 'string' }, (_request, body, done) => {
    const text = body as string;
    try {
      const value = JSON.parse(text.replace(/^\uFEFF/, '')) as unknown;
      if (depthOf(text) > deepest) throw new SyntaxError(`it is nested more than ${deepest} deep`);
      done(null, { text: text.replace(/^\uFEFF/, ''), value } satisfies Sent);
    } catch (error) {
      done(
        Object.assign(new Error(`the body cannot be read as JSON: ${(error as Error).message}`), { statusCode: 400 }),
      );
    }
  });
  /** Answers, with refusals as problem details. */
  const answering =
    (work: (request: Named, reply: FastifyReply) => Promise<unknown>) =>
    async (request: Named, reply: FastifyReply): Promise<unknown> => {
      try {
        // Links repeat the host.
        if (!isHost(request.host)) throw new Refusal(400, 'the Host of the request cannot be one');
        return await work(request, reply);
      } catch (error) {
        if (!(error instanceof Refusal)) throw error;
        if (error.status === 405) reply.header('Allow', 'GET, HEAD, OPTIONS');
        return problem(reply, error.status, error.message);
      }
    };
  /** A path, also with a slash behind it. */
  const at = (path: string) => [`${root}${path}`, `${root}${path}/`];
  const get = (path: string, work: (request: Named, reply: FastifyReply) => Promise<unknown>) => {
    for (const one of at(path))
      server.get(
        one,
        answering((request, reply) => work(request, reply.header('Vary', 'Accept'))),
      );
  };
  const trailTo = ({ base }: Addresses, ...steps: readonly (readonly [string, string])[]) => [
    ['Features', base] as const,
    ...steps.map(([name, path]) => [name, base + path] as const),
  ];
  const pathOf = (name: string) => `/collections/${encodeURIComponent(name)}`;
  /** The description of a collection (Part 1, section 7.14; Part 2, section 6.2.1). */
  const describe = ({ base }: Addresses, name: string, { storage, box, interval, readOnly }: CollectionState) => ({
    id: name,
    title: name,
    ...(files.edits && readOnly ? { description: `Read-only: ${readOnly}.` } : {}),
    itemType: 'feature',
    ...(box || interval
      ? {
          extent: {
            ...(box ? { spatial: { bbox: [box], crs: uriOf(systemsOf(storage)[0]) } } : {}),
            ...(interval ? { temporal: { interval: [interval] } } : {}),
          },
        }
      : {}),
    crs: systemsOf(storage).map(uriOf),
    storageCrs: uriOf(storage),
    links: [
      link(`${base}${pathOf(name)}/items`, 'items', geoJson, `Features of ${name}`),
      link(`${base}${pathOf(name)}/items?f=html`, 'items', html, `Features of ${name} as a page`),
    ],
  });

  get('', async (request, reply) => {
    assertParameters(request.query, plainParameters);
    const own = addressesOf(request);
    const isPage = wantsPage(request, [json]);
    const links = [
      ...ownLinks(own, isPage),
      link(`${own.base}/api`, 'service-desc', definitionType, 'Definition of the service'),
      link(`${own.base}/api?f=html`, 'service-doc', html, 'Description of the service'),
      link(`${own.base}/conformance`, 'conformance', json, 'Standards that it follows'),
      link(`${own.base}/collections`, 'data', json, 'Collections'),
    ];
    if (isPage) return reply.type(pageType).send(linkPage({ title: 'Features', trail: [], links }));
    return { title: 'Features', description: 'The GeoJSON files of a folder as collections of features.', links };
  });
  get('/api', async (request, reply) => {
    assertParameters(request.query, plainParameters);
    const own = addressesOf(request);
    const definition = apiDefinition(own.base, files.edits, files.keyed);
    if (!wantsPage(request, [definitionType, json])) return reply.type(definitionType).send(JSON.stringify(definition));
    const { paths } = definition as { paths: Record<string, Record<string, { summary?: string }>> };
    const terms = Object.entries(paths).flatMap(([path, operations]) =>
      Object.entries(operations).flatMap(([method, { summary }]) =>
        summary === undefined ? [] : [[`${method.toUpperCase()} ${path}`, [summary]] as const],
      ),
    );
    return reply
      .type(pageType)
      .send(
        termPage(
          { title: 'Description of the service', trail: trailTo(own), links: ownLinks(own, true, definitionType) },
          terms,
        ),
      );
  });
  get('/conformance', async (request, reply) => {
    assertParameters(request.query, plainParameters);
    const own = addressesOf(request);
    const conformsTo = [...part1, ...part2, ...(files.edits ? part4 : [])];
    if (!wantsPage(request, [json])) return { conformsTo };
    return reply
      .type(pageType)
      .send(
        listPage({ title: 'Standards that it follows', trail: trailTo(own), links: ownLinks(own, true) }, conformsTo),
      );
  });
  get('/collections', async (request, reply) => {
    assertParameters(request.query, plainParameters);
    const own = addressesOf(request);
    const isPage = wantsPage(request, [json]);
    const states: (readonly [string, CollectionState | string])[] = [];
    for (const name of files.names())
      states.push([
        name,
        await collectionOf(name)
          .now()
          .catch((error: unknown) => {
            // One file that cannot be read does not hide the others.
            if (error instanceof Refusal) return error.message;
            throw error;
          }),
      ]);
    const links = ownLinks(own, isPage);
    if (isPage)
      return reply.type(pageType).send(
        collectionsPage(
          { title: 'Collections', trail: trailTo(own), links },
          states.map(([name, state]) => ({
            title: name,
            href: `${own.base}${pathOf(name)}/items?f=html`,
            content: typeof state === 'string' ? state : state.file.features.length.toLocaleString('en'),
          })),
        ),
      );
    const readable = states.flatMap(([name, state]) => (typeof state === 'string' ? [] : [[name, state] as const]));
    return {
      links,
      crs: systemsOf(systemNamed('crs', undefined, [])).map(uriOf),
      collections: readable.map(([name, state]) => {
        const described = describe(own, name, state);
        const { href } = link(`${own.base}${pathOf(name)}`, 'self', json, name);
        return { ...described, links: [link(href, 'self', json, name), ...described.links] };
      }),
    };
  });
  get('/collections/:name', async (request, reply) => {
    assertParameters(request.query, plainParameters);
    const { name } = request.params;
    const own = addressesOf(request);
    const state = await collectionOf(name).now();
    const isPage = wantsPage(request, [json]);
    const described = describe(own, name, state);
    const links = [...ownLinks(own, isPage), ...described.links];
    if (!isPage) return { ...described, links };
    const { box, interval, file } = state;
    const terms: (readonly [string, readonly string[]])[] = [
      ['Features', [file.features.length.toLocaleString('en')]],
      ...(box ? [['West, south, east, north', [box.join(', ')]] as const] : []),
      ...(interval ? [['Time', [interval.map((end) => end ?? '..').join(' to ')]] as const] : []),
      ['Coordinate systems', described.crs],
    ];
    const head = {
      title: name,
      trail: trailTo(own, ['Collections', '/collections']),
      links: links.filter(({ rel, type: media }) => rel !== 'items' || media === html),
    };
    return reply.type(pageType).send(termPage(head, terms));
  });
  get('/collections/:name/items', async (request, reply) => {
    const { name } = request.params;
    const own = addressesOf(request);
    const state = await collectionOf(name).now();
    const { found, limit, offset, crs } = itemsOf(state, request.query);
    const isPage = wantsPage(request, [geoJson, json]);
    const features = found.slice(offset, offset + limit);
    const page = (from: number) => {
      const address = new URL(own.self);
      address.searchParams.set('limit', String(limit));
      address.searchParams.set('offset', String(from));
      return address.href;
    };
    const type = isPage ? html : geoJson;
    const links = [
      ...ownLinks(own, isPage, geoJson),
      link(`${own.base}${pathOf(name)}`, 'collection', json, name),
      ...(offset > 0 ? [link(page(Math.max(0, offset - limit)), 'prev', type, 'Features before these')] : []),
      ...(offset + limit < found.length ? [link(page(offset + limit), 'next', type, 'More features')] : []),
    ];
    if (isPage) {
      const summary = features.length
        ? `${(offset + 1).toLocaleString('en')} to ${(offset + features.length).toLocaleString('en')} of ${found.length.toLocaleString('en')} features.`
        : `No features of ${found.length.toLocaleString('en')}.`;
      const trail = trailTo(own, ['Collections', '/collections'], [name, pathOf(name)]);
      const hrefOf = (id: string) => `${own.base}${pathOf(name)}/items/${encodeURIComponent(id)}`;
      return reply
        .type(pageType)
        .send(itemsPage({ title: `Features of ${name}`, trail, links }, summary, features, hrefOf));
    }
    // Features go out as they are in the file, with every digit of their numbers, unless another system is asked for.
    const texts = features.map(({ text, value }) =>
      crs.id === state.storage.id && !isTurned(crs)
        ? text
        : JSON.stringify({ ...featureIn(value, state.storage, crs) }),
    );
    const counts = `"numberMatched":${found.length},"numberReturned":${features.length},"timeStamp":"${new Date().toISOString()}"`;
    return reply
      .type(geoJson)
      .header('Content-Crs', `<${uriOf(crs)}>`)
      .send(`{"type":"FeatureCollection",${counts},"features":[${texts.join(',')}],"links":${JSON.stringify(links)}}`);
  });
  get('/collections/:name/items/:id', async (request, reply) => {
    const { name, id } = request.params;
    const { query, headers } = request;
    assertParameters(query, featureParameters);
    const own = addressesOf(request);
    const { file, storage } = await collectionOf(name).now();
    const feature = file.find(id);
    if (!feature) throw new Refusal(404, `there is no feature ${id}`);
    const crs = systemNamed('crs', query['crs'] as string | undefined, systemsOf(storage));
    const isPage = wantsPage(request, [geoJson, json]);
    const links = [...ownLinks(own, isPage, geoJson), link(`${own.base}${pathOf(name)}`, 'collection', json, name)];
    if (isPage) {
      const trail = trailTo(
        own,
        ['Collections', '/collections'],
        [name, pathOf(name)],
        ['Features', `${pathOf(name)}/items`],
      );
      return reply.type(pageType).send(featurePage({ title: `${name}: ${id}`, trail, links }, feature));
    }
    const tag = tagOf(feature.text);
    reply
      .header('ETag', tag)
      .header('Cache-Control', 'no-cache')
      .header('Content-Crs', `<${uriOf(crs)}>`);
    if (isKnown(headers['if-none-match'], tag)) return reply.code(304).send();
    const text =
      crs.id === storage.id && !isTurned(crs) ? feature.text : JSON.stringify(featureIn(feature.value, storage, crs));
    return reply.type(geoJson).send(patchText(text, { links }));
  });
  if (files.edits) writeFeatures(server, files, { collectionOf, answering, at, pathOf });
  server.all(`${root}/*`, (request, reply) => {
    const path = request.url.replace(/[?#].*$/, '');
    if (!isDocument(path)) return problem(reply, 404, `there is no ${path}`);
    const allowed = allowedMethods(path, files.edits);
    return problem(reply.header('Allow', allowed), 405, `${request.method} is not answered here, but ${allowed} are`);
  });
}

const isDocument = (path: string) =>
  /^\/features\/?$|^\/features\/(api|conformance|collections(\/[^/]+(\/items(\/[^/]+)?)?)?)\/?$/.test(path);

/**
 * Methods of a path, as the header `Allow` lists them (RFC 9110, section 10.2.1).
 *
 * @param path of a request, without its query
 * @param edits whether features may be written
 */
export function allowedMethods(path: string, edits: boolean): string {
  const [, , id] = /^\/features\/collections\/[^/]+\/(items)(?:\/([^/]+))?\/?$/.exec(path) ?? [];
  const isItems = /^\/features\/collections\/[^/]+\/items/.test(path);
  const writes = !edits || !isItems ? [] : id === undefined ? ['POST'] : ['PUT', 'PATCH', 'DELETE'];
  return ['GET', 'HEAD', 'OPTIONS', ...writes].join(', ');
}

/** Whether the authority's axes are not those of the file, in which x comes first. */
const isTurned = (crs: Crs): boolean => crs.id !== 'OGC:CRS84';

/** What the writing of features shares with the reading. */
interface Shared {
  readonly collectionOf: (name: string) => Collection;
  readonly answering: (
    work: (request: Named, reply: FastifyReply) => Promise<unknown>,
  ) => (request: Named, reply: FastifyReply) => Promise<unknown>;
  readonly at: (path: string) => readonly string[];
  readonly pathOf: (name: string) => string;
}

/** Adds, replaces, changes and removes features (Part 4, 20-002). */
function writeFeatures(
  server: FastifyInstance,
  files: FeatureServiceFiles,
  { collectionOf, answering, at, pathOf }: Shared,
): void {
  /** A page of another host may not write here in the name of the person who looks at it; a key says who writes. */
  const mayWrite = ({ headers: { origin, host } }: FastifyRequest) => {
    if (files.keyed || origin === undefined) return;
    const hostOf = (address: string) => (URL.canParse(address) ? new URL(address).host : undefined);
    if (hostOf(origin) !== undefined && hostOf(origin) === hostOf(`http://${host}`)) return;
    throw new Refusal(403, 'pages of other hosts may write only with a key; start the server with --key-from');
  };
  /** The feature that a request is about. @throws Refusal 404, 412 (RFC 9110, sections 13.1.1 and 13.1.2) */
  const matching = ({ headers }: FastifyRequest, now: FileFeature | undefined, id: string): FileFeature => {
    if (!now) throw new Refusal(404, `there is no feature ${id}`);
    const { 'if-match': expected, 'if-none-match': unexpected } = headers;
    const tag = tagOf(now.text);
    const isMet =
      (expected === undefined || expected.trim() === '*' || expected.split(',').some((one) => one.trim() === tag)) &&
      !isKnown(unexpected, tag);
    if (!isMet) throw new Refusal(412, 'the feature has been changed since it was read');
    return now;
  };
  const write = (change: (now: FileFeature, request: Named) => string | undefined) =>
    answering(async (request, reply) => {
      mayWrite(request);
      const { name, id } = request.params;
      const after = await collectionOf(name).change(id, (now) => change(matching(request, now, id), request));
      return (after === undefined ? reply : reply.header('ETag', tagOf(after))).code(204).send();
    });
  for (const path of at('/collections/:name/items'))
    server.post(
      path,
      answering(async (request, reply) => {
        mayWrite(request);
        const { name } = request.params;
        const id = randomUUID();
        const text = featureText(bodyOf(request), id);
        await collectionOf(name).change(id, () => text);
        return reply
          .code(201)
          .header('Location', `${root}${pathOf(name)}/items/${id}`)
          .header('ETag', tagOf(text))
          .send();
      }),
    );
  for (const path of at('/collections/:name/items/:id')) {
    server.put(
      path,
      write((now, request) => featureText(bodyOf(request), now.value.id!)),
    );
    server.patch(
      path,
      write((now, request) => {
        const text = patchText(now.text, bodyOf(request).value);
        return featureText({ text, value: JSON.parse(text) as unknown }, now.value.id!);
      }),
    );
    server.delete(
      path,
      write(() => undefined),
    );
  }
}
