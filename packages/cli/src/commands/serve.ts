import { existsSync, readdirSync, realpathSync, rmSync, statSync } from 'node:fs';
import { join, posix, relative, resolve, sep } from 'node:path';
import { Fault } from '@flintwright/core';
import { fileFormats } from '@flintwright/core/files';
import { Command } from 'commander';
import type { FastifyInstance } from 'fastify';
import { createHash, timingSafeEqual } from 'node:crypto';
import { allowedMethods, serveFeatures } from '../features/service.js';
import { problem } from './problem.js';
import { serveTiles } from './serve-tiles.js';
import { servePlaces, type PlaceServiceOptions } from './serve-places.js';
import { CallFault, paint, type Done, type Terminal } from '../terminal.js';

interface ServeOptions {
  readonly port: string;
  readonly host: string;
  readonly log?: boolean;
  readonly keyFrom?: string;
  readonly perMinute?: string;
  readonly delay?: string;
  readonly failEvery?: string;
  readonly acceptEdits?: boolean;
  readonly allowOrigin?: readonly string[];
  readonly allowHost?: readonly string[];
}

export function serveCommand(out: Terminal, done: Done): Command {
  return new Command('serve')
    .description('Serve a folder: files with range requests, tiles of archives, searches, features')
    .argument('[folder]', 'the folder', '.')
    .option('--port <number>', 'port; 0 for any free port', '5170')
    .option('--host <name>', 'host to listen on', 'localhost')
    .option('--key-from <variable>', 'require the key in this environment variable for tiles and data')
    .option('--per-minute <count>', 'maximum number of searches per minute; others get status 429')
    .option('--delay <milliseconds>', 'delay every search, to test with a slow service')
    .option('--fail-every <count>', 'make every Nth search fail, to test with an unreliable service')
    .option(
      '--accept-edits',
      'allow clients to add, change and delete features of GeoJSON files (OGC API Features, Part 4)',
    )
    .option(
      '--allow-origin <origin>',
      'allow only pages of this origin to read tiles and data, such as https://maps.example; may be given several times',
      (origin: string, before: readonly string[] = []) => [...before, origin],
    )
    .option(
      '--allow-host <name>',
      'also accept requests for this host name, such as maps.example; may be given several times',
      (name: string, before: readonly string[] = []) => [...before, name],
    )
    .option('--log', 'log every request to standard error')
    .action(async (folder: string, options: ServeOptions) => done(await serve(folder, options, out)));
}

async function serve(folder: string, options: ServeOptions, out: Terminal): Promise<number> {
  const { port, host, log, keyFrom, acceptEdits = false } = options;
  if (!/^\d{1,5}$/.test(port) || Number(port) > 65535)
    throw new CallFault('serve.port', `--port ${port} is not a port`, 'Write a number from 0 to 65535.');
  if (!existsSync(folder) || !statSync(folder).isDirectory())
    throw new Fault(
      'serve.folder',
      `there is no folder ${folder}`,
      'Name a folder with tile archives, sheets or pages.',
      folder,
    );
  const key = keyFrom === undefined ? undefined : process.env[keyFrom];
  if (keyFrom !== undefined && !key)
    throw new Fault(
      'serve.key',
      `the environment variable ${keyFrom} is empty`,
      `Set it before, as in ${keyFrom}=… flintwright serve, so that the key is not in files or in the process list.`,
    );
  const isLocal = isLoopback(host) || host === 'localhost';
  if (acceptEdits && !isLocal && !key && !options.allowHost?.length)
    throw new CallFault(
      'serve.edits',
      `--accept-edits on ${host} lets any web page write to this server`,
      'Add --key-from with a key, or name the hosts of this server with --allow-host.',
    );
  const hosts = [...(options.allowHost ?? []), ...(isLocal || options.allowHost ? [host] : [])];
  const places = {
    perMinute: countOf('--per-minute', options.perMinute),
    delay: countOf('--delay', options.delay),
    failEvery: countOf('--fail-every', options.failEvery),
  };
  const server = await serveFolder(folder, {
    ...{ log: log ?? false, places, edits: acceptEdits, allowOrigins: options.allowOrigin?.map(originOf), hosts },
    ...(key ? { key } : {}),
  });
  let address: string;
  try {
    address = await server.listen({ port: Number(port), host });
  } catch (error) {
    throw new Fault(
      'serve.listen',
      `port ${port} on ${host} cannot be used: ${(error as Error).message}`,
      'Choose another port with --port.',
      undefined,
      error,
    );
  }
  const named = address.replace('127.0.0.1', 'localhost').replace('[::1]', 'localhost');
  const which = folder === '.' ? ' (the folder you are in)' : '';
  out.say(`${paint.green('✓')} serving ${paint.bold(resolve(folder))}${which} at ${paint.bold(named)}`);
  for (const [name, path] of filesIn(folder, 'pmtiles'))
    out.say(`  ${named}/tiles/${name}.json  ${paint.dim(relative(folder, path))}`);
  for (const [name, path] of filesIn(folder, 'gazetteer'))
    out.say(`  ${named}/places/${name}?q=…  ${paint.dim(relative(folder, path))}`);
  for (const [name, path] of filesIn(folder, 'geojson'))
    out.say(`  ${named}/features/collections/${name}  ${paint.dim(relative(folder, path))}`);
  out.say(
    paint.dim(
      `  pages of ${options.allowOrigin?.join(', ') ?? 'any host'} may read tiles, searches, features and map files`,
    ),
  );
  if (acceptEdits) out.say(paint.dim('  features may be added, changed and deleted'));
  if (key)
    out.say(
      paint.dim(`  tiles, searches, features and data files need the key as "Authorization: Bearer …" or "?key=…"`),
    );
  out.say(paint.dim('  Ctrl+C ends it'));
  await new Promise<void>((ended) => {
    for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, () => void server.close().then(ended));
  });
  return 0;
}

/** An origin as browsers send it. @throws CallFault `serve.origin` */
function originOf(text: string): string {
  const { origin } = URL.canParse(text) ? new URL(text) : { origin: 'null' };
  if (origin === 'null' || !/^https?:/.test(text) || text.replace(/\/$/, '') !== origin)
    throw new CallFault('serve.origin', `--allow-origin ${text} is not an origin`, 'Write it as https://maps.example.');
  return origin;
}

/** A whole number above 0; undefined where none was given. @throws CallFault `serve.count` */
function countOf(option: string, text: string | undefined): number | undefined {
  if (text === undefined) return undefined;
  if (!/^[1-9]\d{0,8}$/.test(text))
    throw new CallFault('serve.count', `${option} ${text} is not a count`, 'Write a whole number above 0.');
  return Number(text);
}

/**
 * Files of an ending below a folder, by their names without it. Folders that hold modules, what is hidden, and links that lead out of the
 * folder are passed over.
 */
function filesIn(folder: string, ending: string): Map<string, string> {
  const found = new Map<string, string>();
  const root = realpathSync(folder);
  const visit = (path: string) => {
    for (const entry of readdirSync(path, { withFileTypes: true })) {
      if (entry.name === 'node_modules' || entry.name.startsWith('.')) continue;
      const own = join(path, entry.name);
      const isWanted = entry.name.toLowerCase().endsWith(`.${ending}`);
      if (entry.isDirectory()) visit(own);
      else if (isWanted && isInside(root, own) && statSync(own).isFile()) {
        const name = entry.name.slice(0, -ending.length - 1);
        if (!found.has(name)) found.set(name, own);
      }
    }
  };
  visit(folder);
  return found;
}

/** Whether a path leads to a file in a folder, links followed. */
function isInside(root: string, path: string): boolean {
  try {
    const real = realpathSync(path);
    return real === root || real.startsWith(root + sep);
  } catch (error) {
    // A link that leads nowhere.
    if ((error as NodeJS.ErrnoException).code === 'ENOENT') return false;
    throw error;
  }
}

/** The name of a file that is being written; see `writeWhole`. */
const partial = /\.(\d+)-[\da-f]{8}\.part$/;

/** Removes files that a process left half written, if it is gone. */
function removePartial(folder: string): void {
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    const path = join(folder, entry.name);
    if (entry.isDirectory() && entry.name !== 'node_modules' && !entry.name.startsWith('.')) removePartial(path);
    const writer = entry.isFile() ? partial.exec(entry.name)?.[1] : undefined;
    if (writer !== undefined && !isRunning(Number(writer))) rmSync(path, { force: true });
  }
}

function isRunning(pid: number): boolean {
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'EPERM';
  }
}

const isLoopback = (address: string): boolean =>
  /^(127\.\d+\.\d+\.\d+|::1|\[::1\]|::ffff:127\.\d+\.\d+\.\d+)$/.test(address);

/** The host of a request without its port, in lower case. */
const hostName = (host: string | undefined): string =>
  (host ?? '').replace(/:\d+$/, '').replace(/\.$/, '').toLowerCase();

export interface FolderOptions {
  /** Whether to write every request to standard error, without keys; default false. */
  readonly log?: boolean;
  /** Whether data files can be fetched without the key; default false, since they contain everything that it protects. */
  readonly openFiles?: boolean;
  /** Origins whose pages may read tiles, searches, features and data files, such as `https://maps.example`; default all. */
  readonly allowOrigins?: readonly string[] | undefined;
  /** Whether clients may add, change and delete features of the GeoJSON files; default false. */
  readonly edits?: boolean;
  /**
   * Host names that requests may use beside `localhost`, `127.0.0.1` and `[::1]`, against DNS rebinding. Default: any name on addresses
   * that other machines can reach, none on loopback.
   */
  readonly hosts?: readonly string[];
  /** Options of searches in gazetteers. */
  readonly places?: PlaceServiceOptions;
  /** The key that tiles and searches require, sent as `Authorization: Bearer KEY` or as `?key=KEY`; default none. */
  readonly key?: string;
}

/** The path of a request, decoded: without host, query, doubled and dotted steps; undefined for one that cannot be read. */
function pathOf(url: string): string | undefined {
  try {
    const plain = url.replace(/^[a-z][a-z0-9+.-]*:\/\/[^/?#]*/i, '').replace(/[?#].*$/, '');
    return posix.normalize(`/${decodeURIComponent(plain)}`).replace(/\/+/g, '/');
  } catch {
    // A percent sign that stands for nothing.
    return undefined;
  }
}

/** Whether a path leads to a file that begins with a dot or is half written, or by a link out of the folder. */
function isHidden(root: string, path: string): boolean {
  if (path.split('/').some((step) => step.startsWith('.') && step !== '.well-known')) return true;
  if (partial.test(path)) return true;
  const file = join(root, path);
  return existsSync(file) && !isInside(root, file);
}

/** What is sent without the key: pages, scripts, styles and fonts, and folders, which are pages. */
function isPageFile(root: string, path: string): boolean {
  if (/\.(html?|m?js|css|woff2?|ttf|otf|ico)$/i.test(path)) return true;
  const file = join(root, path);
  return existsSync(file) && statSync(file).isDirectory();
}

/** What a map on another host's page is made of: what is worked out, and files of data, sheets, pictures and fonts. */
const shared = new RegExp(
  `^/(tiles|places|features)(/|$)|\\.(${[
    // A text may be anything.
    ...fileFormats.flatMap(({ endings }) => endings).filter((ending) => ending !== 'txt'),
    // What stands beside data, and what is drawn.
    ...['shx', 'dbf', 'prj', 'cpg', 'gz', 'sld', 'svg', 'png', 'jpg', 'jpeg', 'webp', 'avif', 'woff', 'woff2'],
  ].join('|')})$`,
  'i',
);
const isShared = (path: string) => shared.test(path);

/** Facts that change when a file is written anew. */
function stampOf(path: string): string {
  const { ino, size, mtimeMs } = statSync(path);
  return `${ino} ${size} ${mtimeMs}`;
}

/** Whether a file could not be written because the disk, or what this process may write, is full. */
function isFull(error: unknown): boolean {
  const { code, cause } = error as { code?: string; cause?: unknown };
  return ['ENOSPC', 'EDQUOT', 'EFBIG'].includes(code ?? '') || (cause instanceof Error && isFull(cause));
}

/** Compares without telling by its time how much of a key was right. */
const isSame = (one: string, other: string) => {
  const [a, b] = [one, other].map((text) => createHash('sha256').update(text).digest());
  return timingSafeEqual(a, b);
};

/**
 * Creates a server for a folder: its files (with range requests); for each archive NAME.pmtiles a TileJSON 3 document at `/tiles/NAME.json`
 * and tiles at `/tiles/NAME/{z}/{x}/{y}`; for each NAME.gazetteer searches at `/places/NAME?q=…` as GeocodeJSON; for each NAME.geojson a
 * collection of OGC API Features at `/features/collections/NAME`. Pages of other origins may read (CORS) tiles, searches, features, and
 * files of data, sheets and pictures.
 *
 * @param folder path of the folder
 * @param options key to be asked for, and whether requests are logged
 */
export async function serveFolder(
  folder: string,
  { log = false, key, places = {}, openFiles = false, edits = false, ...given }: FolderOptions = {},
): Promise<FastifyInstance> {
  // Loaded only when a server starts.
  const [{ default: fastify }, { default: cors }, { serveFiles }] = await Promise.all([
    import('fastify'),
    import('@fastify/cors'),
    import('./serve-files.js'),
  ]);
  const allowOrigins = given.allowOrigins ? [...given.allowOrigins] : '*';
  const server = fastify({
    requestTimeout: 30_000,
    // Node looks for slow senders only every 30 s by itself.
    http: { headersTimeout: 10_000, requestTimeout: 30_000, connectionsCheckingInterval: 1000 },
    bodyLimit: 8 * 2 ** 20,
    logger: log
      ? {
          stream: process.stderr,
          serializers: {
            req: ({ method, url }: { method: string; url: string }) => ({
              method,
              // A key may be spelt in many ways; no value of a query is written.
              url: url.replace(/([?&][^=&]*=)[^&]*/g, '$1…'),
            }),
          },
        }
      : false,
  });
  const root = realpathSync(folder);
  removePartial(root);
  const hosts = new Set(['localhost', '127.0.0.1', '[::1]', ...(given.hosts ?? []).map((name) => hostName(name))]);
  server.addHook('onRequest', async ({ headers, socket }, reply) => {
    // A name that leads here may be anybody's; a page of that name could otherwise read and write (DNS rebinding).
    const isChecked = (given.hosts?.length ?? 0) > 0 || isLoopback(socket.localAddress ?? '127.0.0.1');
    if (isChecked && !hosts.has(hostName(headers.host)))
      await reply.code(421).send({ message: 'this server does not answer for that host; name it with --allow-host' });
  });
  server.addHook('onRequest', async ({ url, method }, reply) => {
    const path = pathOf(url);
    if (path === undefined) return reply.code(400).send({ message: 'the path of the address cannot be read' });
    if (method === 'OPTIONS' || !isHidden(root, path)) return;
    await reply.code(404).send({ message: 'there is no such file' });
  });
  // What may be done at an address, for those who ask without being a page of another host (RFC 9110, section 9.3.7).
  server.addHook('onRequest', async ({ url, method, headers }, reply) => {
    if (method !== 'OPTIONS' || headers['access-control-request-method'] !== undefined) return;
    await reply
      .code(204)
      .header('Allow', allowedMethods(pathOf(url) ?? '', edits))
      .send();
  });
  // Before the key is asked for, so that a page can read that it is wanted.
  await server.register(cors, {
    delegator: ({ url }, settle) =>
      settle(null, {
        origin: isShared(pathOf(url) ?? '') && allowOrigins,
        exposedHeaders: ['Content-Range', 'Content-Crs', 'ETag', 'Location'],
        methods: edits ? ['GET', 'HEAD', 'POST', 'PUT', 'PATCH', 'DELETE'] : ['GET', 'HEAD'],
      }),
  });
  if (key !== undefined)
    server.addHook('onRequest', async ({ url, headers, method, query }, reply) => {
      // What is decided on is the path as it is served, however it was written.
      const path = pathOf(url) ?? '';
      const guarded = /^\/(tiles|places|features)(\/|$)/i.test(path) || (!openFiles && !isPageFile(root, path));
      if (!guarded || method === 'OPTIONS') return;
      const bearer = /^Bearer (.+)$/.exec(headers.authorization ?? '')?.[1];
      const sent = bearer ?? (query as { key?: unknown }).key;
      if (typeof sent === 'string' && isSame(sent, key)) return;
      await reply
        .code(sent ? 403 : 401)
        .header('WWW-Authenticate', 'Bearer')
        .send({ message: sent ? 'this key opens nothing here' : 'answers are given only to those who send a key' });
    });
  const isFeatures = (url: string) => /^\/features(\/|$)/.test(pathOf(url) ?? '');
  server.setErrorHandler(async (error, request, reply) => {
    if (isFull(error)) return reply.code(507).send({ message: 'there is no room left to write; nothing was changed' });
    // Answers do not disclose paths of this machine.
    if (error instanceof Fault && error.code.startsWith('file.'))
      return reply.code(500).send({ code: error.code, message: 'a file of the server cannot be read or written' });
    if (error instanceof Fault) return reply.code(500).send({ ...error.toJSON() });
    const { statusCode = 500, message } = error as Error & { statusCode?: number };
    if (isFeatures(request.url)) return problem(reply, statusCode, message);
    return reply.code(statusCode).send({ message });
  });
  const fileOf = (ending: string) => (name: string) => {
    const path = filesIn(folder, ending).get(name);
    return path === undefined ? undefined : { path, stamp: stampOf(path) };
  };
  serveTiles(server, fileOf('pmtiles'));
  servePlaces(server, fileOf('gazetteer'), places);
  serveFeatures(server, {
    names: () => [...filesIn(folder, 'geojson').keys()],
    find: fileOf('geojson'),
    edits,
    keyed: key !== undefined,
  });
  serveFiles(server, resolve(folder));
  return server;
}
