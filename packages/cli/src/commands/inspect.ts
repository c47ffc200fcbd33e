import { withReadingOptions } from './reading.js';
import {
  Archive,
  compressionNames,
  Fault,
  gunzip,
  isGzip,
  parseAddress,
  readTile,
  tileTypeNames,
  type FeatureBlock,
  type TileAddress,
  type Violation,
} from '@flintwright/core';
import { Command } from 'commander';
import { fileSource, readBytes } from '../input.js';
import { inspectFeatures, inspectSystems } from './inspect-features.js';
import { filtered, printLayers, reportOf, type InspectOptions } from './report.js';
import { sayFilter } from './filter.js';
import { bytesText, CallFault, degrees, paint, table, type Done, type Terminal } from '../terminal.js';

/** A count of tiles in words; 0 means that the archive does not say it. */
const known = (count: number) => (count ? count.toLocaleString('en') : 'an unknown number of');

export function inspectCommand(out: Terminal, done: Done): Command {
  return withReadingOptions(new Command('inspect'))
    .description('Summarize a file of features in any format, a tile archive or a tile')
    .argument('[file]', 'features in any supported format, a .pmtiles archive, a .mvt or .pbf tile')
    .option('--crs <text>', 'search coordinate systems by name, country or code instead')
    .option('--from <crs>', 'coordinate system of the features; overrides the file')
    .option('--tile <z/x/y>', 'summarize one tile of an archive')
    .option('--where <cql2>', 'count the features that match a filter')
    .option('--json', 'print JSON; with --where, including the ids of the features that match')
    .action(async (file: string | undefined, options: InspectOptions) => {
      if (options.crs !== undefined) return done(await inspectSystems(options.crs, options.json ?? false, out));
      if (file === undefined)
        throw new CallFault(
          'inspect.file',
          'no file was named',
          'Name a file, or search for a coordinate system with --crs.',
        );
      return done(await inspect(file, options, out));
    });
}

async function inspect(file: string, options: InspectOptions, out: Terminal): Promise<number> {
  const source = await fileSource(file);
  let head: Uint8Array;
  try {
    head = await source.read(0, 16);
    if (source.size === 0 && !/\.(mvt|pbf)$/i.test(file))
      throw new Fault(
        'inspect.empty',
        `${file} is empty`,
        'Writing it may have been interrupted; create it again.',
        file,
      );
    if (String.fromCharCode(...head.subarray(0, 7)) === 'PMTiles')
      return await inspectArchive(file, source, source.size, options, out);
  } finally {
    await source.close();
  }
  if (options.tile)
    throw new CallFault('inspect.tile', `--tile needs an archive, but ${file} is none`, 'Leave --tile out.');
  if (/\.(mvt|pbf)(\.gz)?$/i.test(file)) {
    const bytes = await readBytes(file);
    return printTile(file, gunzip(bytes, file), isGzip(bytes) ? bytes.length : undefined, options, out);
  }
  return inspectFeatures(file, source.size, options, out);
}

async function inspectArchive(
  file: string,
  source: Parameters<typeof Archive.open>[0],
  size: number,
  options: InspectOptions,
  out: Terminal,
): Promise<number> {
  const archive = await Archive.open(source);
  const { header } = archive;
  if (options.tile !== undefined) {
    const address = parseAddress(options.tile);
    if (!address)
      throw new CallFault(
        'inspect.tile',
        `--tile ${options.tile} is not a tile address`,
        'Write z/x/y, such as --tile 12/1693/1476; x and y run from 0 to 2^z − 1.',
      );
    const bytes = await archive.tile(address);
    if (!bytes)
      throw new Fault(
        'inspect.none',
        `${file} has no tile ${options.tile}`,
        `It covers zoom ${header.minZoom} to ${header.maxZoom} within ${degrees(header.bounds)}; the place may simply be empty.`,
        file,
      );
    return printTile(`${file} ${options.tile}`, gunzip(bytes, options.tile), bytes.length, options, out, address);
  }
  const metadata = await archive.metadata();
  const levels = new Map<number, { tiles: number; bytes: number; largest: number }>();
  for await (const { tile, run, length } of archive.entries()) {
    const level = levels.get(tile.z) ?? { tiles: 0, bytes: 0, largest: 0 };
    levels.set(tile.z, {
      tiles: level.tiles + run,
      bytes: level.bytes + length,
      largest: Math.max(level.largest, length),
    });
  }
  const sizes = [...levels].sort(([a], [b]) => a - b).map(([zoom, level]) => ({ zoom, ...level }));
  const deepest = await sampleLayers(archive);
  const tried = deepest && filtered(deepest.blocks, options);
  if (options.json) {
    out.say(
      JSON.stringify(
        {
          file,
          bytes: size,
          format: 'PMTiles 3',
          tileType: tileTypeNames[header.tileType],
          tileCompression: compressionNames[header.tileCompression],
          zooms: [header.minZoom, header.maxZoom],
          bounds: header.bounds,
          center: header.center,
          // A count of 0 means that it is not known (PMTiles, version 3).
          tiles: header.addressedTiles || null,
          different: header.tileContents || null,
          clustered: header.clustered,
          metadata,
          levels: sizes,
          sample: deepest && {
            tile: deepest.tile,
            layers: deepest.blocks.map((block) => reportOf(block)),
            ...(tried && { where: tried }),
          },
        },
        null,
        2,
      ),
    );
    return 0;
  }
  out.say(
    `${paint.bold(file)}  PMTiles 3, ${bytesText(size)}${metadata['name'] ? ` · ${String(metadata['name'])}` : ''}`,
  );
  out.say(
    `${known(header.addressedTiles)} ${tileTypeNames[header.tileType]} tiles (${known(header.tileContents)} different, ${compressionNames[header.tileCompression]}), zoom ${header.minZoom} to ${header.maxZoom}`,
  );
  out.say(
    `bounds ${degrees(header.bounds)} · center ${degrees(header.center)}${metadata['attribution'] ? ` · credit ${String(metadata['attribution'])}` : ''}`,
  );
  out.say('');
  out.say(
    table(
      ['zoom', 'tiles', 'stored', 'largest', ''],
      sizes.map((l) => [
        String(l.zoom),
        l.tiles,
        bytesText(l.bytes),
        bytesText(l.largest),
        bar(l.bytes, Math.max(...sizes.map((s) => s.bytes))),
      ]),
      [0, 1, 2, 3],
    ),
  );
  if (deepest) {
    out.say('');
    out.say(paint.dim(`layers as in the fullest tile, ${deepest.tile}`));
    printLayers(
      deepest.blocks.map((block) => reportOf(block)),
      out,
    );
    if (tried) sayFilter(`${options.where!}  ${paint.dim(`(tried on tile ${deepest.tile})`)}`, tried, out);
  }
  return 0;
}

const bar = (part: number, whole: number) => paint.yellow('▇'.repeat(Math.max(1, Math.round((part / whole) * 24))));

/** The layers of the largest tile of the archive. */
async function sampleLayers(archive: Archive): Promise<{ tile: string; blocks: FeatureBlock[] } | undefined> {
  if (archive.header.tileType !== 1) return undefined;
  let best: { z: number; x: number; y: number } | undefined;
  let most = 0;
  for await (const { tile, length } of archive.entries()) if (length > most) [most, best] = [length, tile];
  const bytes = best && (await archive.tile(best));
  if (!best || !bytes) return undefined;
  const blocks = readTile(gunzip(bytes), { violations: [] }).map((block) => ({ ...block, tile: best }));
  return { tile: `${best.z}/${best.x}/${best.y}`, blocks };
}

function printTile(
  name: string,
  bytes: Uint8Array,
  packed: number | undefined,
  options: InspectOptions,
  out: Terminal,
  tile?: TileAddress,
): number {
  const violations: Violation[] = [];
  const blocks = readTile(bytes, { violations }).map((block) => (tile ? { ...block, tile } : block));
  const layers = blocks.map((block) => reportOf(block));
  const tried = filtered(blocks, options);
  if (options.json)
    out.say(
      JSON.stringify(
        {
          file: name,
          format: 'MVT 2.1',
          bytes: bytes.length,
          ...(packed === undefined ? {} : { packed }),
          layers,
          violations,
          ...(tried && { where: tried }),
        },
        null,
        2,
      ),
    );
  else {
    out.say(
      `${paint.bold(name)}  vector tile, ${bytesText(bytes.length)}${packed === undefined ? '' : ` (${bytesText(packed)} packed)`}`,
    );
    printLayers(layers, out);
    if (tried) sayFilter(options.where!, tried, out);
    for (const { message, offset } of violations)
      out.warn(`${paint.red('✗')} ${message} ${paint.dim(`(byte ${offset})`)}`);
  }
  return violations.length ? 1 : 0;
}
