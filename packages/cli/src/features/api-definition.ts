// The definition of the service as OpenAPI 3.0 (OGC API – Features, Part 1, 17-069r4, section 7.3).
import { defaultSystem } from './systems.js';
import { mostItems, usualItems } from './items-query.js';

/** Media type of the definition (17-069r4, requirement class OpenAPI 3.0). */
export const definitionType = 'application/vnd.oai.openapi+json;version=3.0';

const parameter = (name: string, description: string, schema: object, more: object = {}) => ({
  name,
  in: 'query',
  required: false,
  description,
  schema,
  style: 'form',
  explode: false,
  ...more,
});

const numbers = (least: number, most: number) => ({
  type: 'array',
  minItems: least,
  maxItems: most,
  items: { type: 'number' },
});
const uri = { type: 'string', format: 'uri', default: defaultSystem };
const parameters = {
  f: parameter('f', 'form of the answer; default as the header Accept asks for', {
    type: 'string',
    enum: ['json', 'html'],
  }),
  limit: parameter('limit', 'most features of the answer', {
    type: 'integer',
    minimum: 1,
    maximum: mostItems,
    default: usualItems,
  }),
  offset: parameter('offset', 'how many features are passed over', { type: 'integer', minimum: 0, default: 0 }),
  bbox: parameter(
    'bbox',
    'features whose geometry meets a box: west, south, east, north, or six numbers with heights behind south and north',
    { oneOf: [numbers(4, 4), numbers(6, 6)] },
  ),
  'bbox-crs': parameter('bbox-crs', 'coordinate system of the box', uri),
  crs: parameter('crs', 'coordinate system of the answer', uri),
  datetime: parameter('datetime', 'a day or a moment (RFC 3339), or an interval of two, open where an end is ..', {
    type: 'string',
  }),
  q: parameter('q', 'features that have all of some words in their attributes', { type: 'string' }),
};
const reference = (kind: string, name: string) => ({ $ref: `#/components/${kind}/${name}` });
const taken = (...names: (keyof typeof parameters)[]) => names.map((name) => reference('parameters', name));
const inPath = (name: string, description: string) => ({
  name,
  in: 'path',
  required: true,
  description,
  schema: { type: 'string' },
});
const collectionId = reference('parameters', 'collectionId');
const featureId = reference('parameters', 'featureId');

const link = {
  type: 'object',
  required: ['href'],
  properties: {
    href: { type: 'string' },
    rel: { type: 'string' },
    type: { type: 'string' },
    title: { type: 'string' },
  },
};
const links = { type: 'array', items: reference('schemas', 'link') };
const collection = {
  type: 'object',
  required: ['id', 'links'],
  properties: {
    id: { type: 'string' },
    title: { type: 'string' },
    description: { type: 'string' },
    links,
    extent: { type: 'object' },
    itemType: { type: 'string', default: 'feature' },
    crs: { type: 'array', items: { type: 'string' } },
    storageCrs: { type: 'string' },
  },
};
const feature = {
  type: 'object',
  required: ['type', 'geometry', 'properties'],
  properties: {
    type: { type: 'string', enum: ['Feature'] },
    id: { oneOf: [{ type: 'string' }, { type: 'number' }] },
    geometry: { type: 'object', nullable: true },
    properties: { type: 'object', nullable: true },
    links,
  },
};
const schemas = {
  link,
  landingPage: { type: 'object', required: ['links'], properties: { title: { type: 'string' }, links } },
  conformance: {
    type: 'object',
    required: ['conformsTo'],
    properties: { conformsTo: { type: 'array', items: { type: 'string' } } },
  },
  collection,
  collections: {
    type: 'object',
    required: ['links', 'collections'],
    properties: { links, collections: { type: 'array', items: reference('schemas', 'collection') } },
  },
  feature,
  features: {
    type: 'object',
    required: ['type', 'features'],
    properties: {
      type: { type: 'string', enum: ['FeatureCollection'] },
      features: { type: 'array', items: reference('schemas', 'feature') },
      links,
      timeStamp: { type: 'string', format: 'date-time' },
      numberMatched: { type: 'integer', minimum: 0 },
      numberReturned: { type: 'integer', minimum: 0 },
    },
  },
  problem: {
    type: 'object',
    properties: { title: { type: 'string' }, status: { type: 'integer' }, detail: { type: 'string' } },
  },
};

const answer = (schema: keyof typeof schemas, type = 'application/json') => ({
  description: 'as asked for',
  content: { [type]: { schema: reference('schemas', schema) }, 'text/html': { schema: { type: 'string' } } },
});
const refused = (description: string) => ({
  description,
  content: { 'application/problem+json': { schema: reference('schemas', 'problem') } },
});
const get = (summary: string, operationId: string, response: object, more: readonly object[] = []) => ({
  summary,
  operationId,
  parameters: [...more, ...taken('f')],
  responses: {
    '200': response,
    '400': refused('a parameter that is not known or cannot be read'),
    '404': refused('not there'),
  },
});
const sent = {
  required: true,
  content: { 'application/geo+json': { schema: reference('schemas', 'feature') } },
};
const written = (summary: string, operationId: string, status: string, more: object = {}) => ({
  summary,
  operationId,
  ...more,
  responses: {
    [status]: { description: 'done' },
    '400': refused('a body that is no feature'),
    '405': refused('the collection is read-only'),
    '412': refused('the feature has been changed since it was read'),
  },
});

/**
 * The definition of the service.
 *
 * @param base address of the landing page
 * @param edits whether features may be written (Part 4)
 * @param keyed whether a key is asked for
 */
export function apiDefinition(base: string, edits: boolean, keyed: boolean): object {
  const items = '/collections/{collectionId}/items';
  return {
    openapi: '3.0.3',
    info: {
      title: 'Features',
      version: '1.0.0',
      description: 'The GeoJSON files of a folder as collections of features.',
    },
    servers: [{ url: base }],
    paths: {
      '/': { get: get('landing page', 'getLandingPage', answer('landingPage')) },
      '/conformance': { get: get('requirements that are met', 'getConformance', answer('conformance')) },
      '/api': {
        get: {
          summary: 'this definition',
          operationId: 'getDefinition',
          parameters: taken('f'),
          responses: {
            '200': {
              description: 'OpenAPI 3.0',
              content: {
                [definitionType]: { schema: { type: 'object' } },
                'text/html': { schema: { type: 'string' } },
              },
            },
          },
        },
      },
      '/collections': { get: get('all collections', 'getCollections', answer('collections')) },
      '/collections/{collectionId}': {
        parameters: [collectionId],
        get: get('a collection', 'describeCollection', answer('collection')),
      },
      [items]: {
        parameters: [collectionId],
        get: get(
          'features of a collection',
          'getFeatures',
          answer('features', 'application/geo+json'),
          taken('limit', 'offset', 'bbox', 'bbox-crs', 'crs', 'datetime', 'q'),
        ),
        ...(edits ? { post: written('add a feature', 'addFeature', '201', { requestBody: sent }) } : {}),
      },
      [`${items}/{featureId}`]: {
        parameters: [collectionId, featureId],
        get: get('a feature', 'getFeature', answer('feature', 'application/geo+json'), taken('crs')),
        ...(edits
          ? {
              put: written('replace a feature', 'replaceFeature', '204', { requestBody: sent }),
              patch: written('change parts of a feature', 'updateFeature', '204', {
                requestBody: {
                  required: true,
                  content: { 'application/merge-patch+json': { schema: { type: 'object' } } },
                },
              }),
              delete: written('remove a feature', 'deleteFeature', '204'),
            }
          : {}),
      },
    },
    components: {
      parameters: {
        ...parameters,
        collectionId: inPath('collectionId', 'name of a collection'),
        featureId: inPath('featureId', 'id of a feature'),
      },
      schemas,
      ...(keyed
        ? {
            securitySchemes: {
              key: { type: 'http', scheme: 'bearer' },
              queryKey: { type: 'apiKey', in: 'query', name: 'key' },
            },
          }
        : {}),
    },
    ...(keyed ? { security: [{ key: [] }, { queryKey: [] }] } : {}),
  };
}
