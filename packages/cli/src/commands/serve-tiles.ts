import { Archive, Fault, gunzip, parseAddress } from '@flintwright/core';
import type { FastifyInstance, FastifyReply, FastifyRequest } from 'fastify';
import { createHash } from 'node:crypto';
import { statSync } from 'node:fs';
import { fileSource } from '../input.js';

const mediaTypes = [
  'application/octet-stream',
  'application/vnd.mapbox-vector-tile',
  'image/png',
  'image/jpeg',
  'image/webp',
  'image/avif',
];

/** Greatest longitude and latitude, in degrees. */
const limits = [180, 90];

/** An archive, and a stamp that changes with its file. */
export interface ArchiveFile {
  readonly path: string;
  readonly stamp: string;
}

interface Opened {
  readonly stamp: string;
  readonly source: ReturnType<typeof fileSource>;
  readonly archive: Promise<Archive>;
}

/** Whether an encoding may be answered with (RFC 9110, section 12.5.3). */
export function accepts(header: string | undefined, encoding: string): boolean {
  let star: boolean | undefined;
  for (const part of (header ?? '').toLowerCase().split(',')) {
    const [name, ...parameters] = part.split(';').map((text) => text.trim());
    const q = parameters.map((text) => /^q\s*=\s*([\d.]+)$/.exec(text)?.[1]).find((text) => text !== undefined);
    const wanted = q === undefined || Number(q) > 0;
    if (name === encoding) return wanted;
    if (name === '*') star = wanted;
  }
  return star ?? false;
}

/** Whether one of the tags of `If-None-Match` is that of what stands here: lists, weak tags and the star (RFC 9110, section 13.1.2). */
export const isKnown = (header: string | undefined, tag: string): boolean =>
  header?.trim() === '*' || (header?.match(/(?:W\/)?"[^"]*"/g) ?? []).some((one) => one.replace(/^W\//, '') === tag);

/** Whether a host is one that may be repeated in an answer (RFC 3986, section 3.2.2). */
export const isHost = (host: string) => /^(\[[\da-f:.]+\]|[a-z\d._-]+)(:\d{1,5})?$/i.test(host);

/** How long after a change a file is taken to be under way, in milliseconds. */
const settling = 10_000;

/**
 * Serves the archives of a folder: a TileJSON 3 document at `/tiles/NAME.json`, and tiles at `/tiles/NAME/{z}/{x}/{y}`. An archive that
 * is written anew is opened anew; while it is being written, the answer is 503, and never a torn tile.
 *
 * @param server the server
 * @param find the archive of a name; undefined where there is none
 */
export function serveTiles(server: FastifyInstance, find: (name: string) => ArchiveFile | undefined): void {
  const opened = new Map<string, Opened>();
  const close = async (name: string) => {
    const known = opened.get(name);
    opened.delete(name);
    // One that could not be opened has nothing to close; whoever asked for it was told.
    await (await known?.source.catch(() => undefined))?.close();
  };
  const open = async (name: string): Promise<{ readonly archive: Archive; readonly stamp: string } | undefined> => {
    const file = find(name);
    if (opened.get(name)?.stamp !== file?.stamp) await close(name);
    if (!file) return undefined;
    let known = opened.get(name);
    if (!known) {
      const source = fileSource(file.path);
      known = { stamp: file.stamp, source, archive: source.then((bytes) => Archive.open(bytes)) };
      opened.set(name, known);
    }
    return { archive: await known.archive, stamp: known.stamp };
  };
  server.addHook('onClose', async () => {
    for (const name of [...opened.keys()]) await close(name);
  });
  /** Answers from an archive that stays the same meanwhile; 503 from one that somebody is writing. */
  const steady = async (
    reply: FastifyReply,
    name: string,
    work: (archive: Archive) => Promise<() => unknown>,
  ): Promise<unknown> => {
    const later = () =>
      reply
        .code(503)
        .header('Retry-After', 1)
        .send({ message: `the archive ${name}.pmtiles is being written` });
    try {
      const found = await open(name);
      if (!found) return await reply.code(404).send({ message: `there is no archive ${name}.pmtiles` });
      const answer = await work(found.archive);
      return find(name)?.stamp === found.stamp ? answer() : await later();
    } catch (error) {
      const file = find(name);
      const fresh = file && Date.now() - statSync(file.path).mtimeMs < settling;
      // What is damaged and has just changed is not written to its end yet; it is opened anew the next time.
      if (!fresh || !(error instanceof Fault || (error as { code?: string }).code === 'EBADF')) throw error;
      await close(name);
      return later();
    }
  };
  server.get<{ Params: { name: string } }>('/tiles/:name.json', ({ params, protocol, host }, reply) => {
    if (!isHost(host)) return reply.code(400).send({ message: 'the Host of the request cannot be one' });
    return steady(reply, params.name, async (archive) => {
      const { header } = archive;
      const metadata = await archive.metadata();
      return () => ({
        tilejson: '3.0.0',
        ...metadata,
        tiles: [`${protocol}://${host}/tiles/${encodeURIComponent(params.name)}/{z}/{x}/{y}`],
        minzoom: header.minZoom,
        maxzoom: header.maxZoom,
        // Archives of others may say more than there is (TileJSON 3.0.0, section 3.4).
        bounds: header.bounds.map((value, i) => Math.max(-limits[i % 2], Math.min(limits[i % 2], value))),
        center: [...header.center, header.centerZoom],
      });
    });
  });
  type TileRequest = FastifyRequest<{ Params: { name: string; '*': string } }>;
  server.get('/tiles/:name/*', ({ params, headers }: TileRequest, reply) => {
    const address = parseAddress(params['*'].replace(/\.[a-z]+$/, ''));
    if (!address) return reply.code(400).send({ message: 'that is not a tile address z/x/y' });
    return steady(reply, params.name, async (archive) => {
      const bytes = await archive.tile(address);
      if (!bytes) return () => reply.code(204).send();
      const isPacked = archive.header.tileCompression === 2;
      // Unpacked in any case: its checksum says whether it is whole.
      const plain = isPacked ? gunzip(bytes) : bytes;
      const packed = isPacked && accepts(headers['accept-encoding'], 'gzip');
      const hash = createHash('sha1').update(bytes).digest('base64url').slice(0, 16);
      // What is sent in another encoding is another thing to caches.
      const tag = packed ? `"${hash}-gzip"` : `"${hash}"`;
      return () => {
        reply
          .header('ETag', tag)
          .header('Cache-Control', 'no-cache')
          .type(mediaTypes[archive.header.tileType] ?? mediaTypes[0]);
        if (isPacked) reply.header('Vary', 'Accept-Encoding');
        if (isKnown(headers['if-none-match'], tag)) return reply.code(304).send();
        if (packed) return reply.header('Content-Encoding', 'gzip').send(Buffer.from(bytes));
        return reply.send(Buffer.from(plain));
      };
    });
  });
}
