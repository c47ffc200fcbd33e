import { gzipSync } from 'node:zlib';
import {
  ArchiveWriter,
  BlockBuilder,
  boundsOfBlocks,
  Fault,
  kindNames,
  pyramid,
  vectorLayers,
  writeTile,
  type FeatureBlock,
  type WrittenArchive,
} from '@flintwright/core';
import { Command } from 'commander';
import { blockOfLayers } from '@flintwright/core/files';
import { crsNamed, layerName, readFeaturesFile, warningText } from '../input.js';
import { readingOf, withReadingOptions, type ReadingOptions } from './reading.js';
import { writeWhole } from '../output.js';
import { bytesText, CallFault, degrees, explain, paint, table, type Done, type Terminal } from '../terminal.js';

export interface TileOptions extends ReadingOptions {
  readonly output: string;
  readonly from?: string;
  readonly layer?: string;
  readonly zooms: string;
  readonly name?: string;
  readonly credit?: string;
  readonly json?: boolean;
}

export function tileCommand(out: Terminal, done: Done): Command {
  return withReadingOptions(new Command('tile'))
    .description('Cut features into a tile archive, with one layer per file or layer of a file')
    .argument('<files...>', 'features in any supported format, gzipped or not')
    .requiredOption('-o, --output <file>', 'archive to write (.pmtiles)')
    .option('--from <crs>', 'coordinate system of the features; overrides the files')
    .option('--layer <name>', 'put all files into one layer of this name')
    .option('--zooms <first-last>', 'zoom levels', '0-14')
    .option('--name <text>', 'name of the archive')
    .option('--credit <text>', 'attribution text')
    .option('--json', 'print the summary as JSON')
    .action(async (files: string[], options: TileOptions) => done(await tile(files, options, out)));
}

async function tile(files: readonly string[], options: TileOptions, out: Terminal): Promise<number> {
  const zooms = readZooms(options.zooms);
  if (!/\.pmtiles$/i.test(options.output))
    throw new CallFault(
      'tile.output',
      `${options.output} does not end in .pmtiles`,
      'Archives are written in the PMTiles format: -o NAME.pmtiles.',
    );
  const began = performance.now();
  const from = options.from === undefined ? undefined : await crsNamed(options.from);
  const blocks: FeatureBlock[] = [];
  for (const file of files) {
    out.progress(`reading ${file}`);
    const { layers: read, warnings } = await readFeaturesFile(file, readingOf(options, from));
    for (const warning of warnings) out.warn(explain(warningText(warning), 'warning'));
    for (const layer of read) {
      const name = options.layer ?? (read.length > 1 ? layer.name : layerName(file));
      if (!options.layer && blocks.some((block) => block.name === name))
        throw new CallFault(
          'tile.twin',
          `two files create a layer "${name}"`,
          'Rename one of them, or use --layer for a single layer.',
        );
      blocks.push(blockOfLayers([layer], name));
    }
  }
  const solid = blocks.filter((block) => block.coords.length > 0);
  if (!solid.length)
    throw new Fault('tile.empty', 'none of the files has a feature with a geometry', 'Give at least one.');
  const merged = options.layer ? [mergeBlocks(solid, options.layer)] : solid;
  const { archive, count, largest } = cutArchive(merged, zooms, options, (text) => out.progress(text));
  out.progress('');
  await writeWhole(options.output, archive.pieces);
  const seconds = (performance.now() - began) / 1000;
  const { header } = archive;
  const layers = merged.map((block) => ({
    layer: block.name,
    features: block.count,
    kinds: kindsOf(block),
    attributes: block.columns.map((column) => column.name),
  }));
  if (options.json) {
    out.say(
      JSON.stringify(
        {
          file: options.output,
          bytes: archive.length,
          tiles: count,
          different: header.tileContents,
          zooms: [header.minZoom, header.maxZoom],
          bounds: header.bounds,
          largest,
          layers,
        },
        null,
        2,
      ),
    );
    return 0;
  }
  out.say(
    table(
      ['layer', 'features', 'kinds', 'attributes'],
      layers.map((l) => [paint.bold(l.layer), l.features, l.kinds, l.attributes.join(', ') || '–']),
      [1],
    ),
  );
  out.say('');
  out.say(
    `${paint.green('✓')} ${paint.bold(options.output)}  ${bytesText(archive.length)}, ${count.toLocaleString('en')} tiles (${header.tileContents.toLocaleString('en')} different), zoom ${header.minZoom} to ${header.maxZoom}`,
  );
  out.say(
    paint.dim(
      `  bounds ${degrees(header.bounds)} · largest tile ${largest.tile}, ${bytesText(largest.bytes)} packed · ${seconds.toFixed(1)} s`,
    ),
  );
  return 0;
}

/**
 * Cuts blocks into a tile archive in memory.
 *
 * @param blocks one block for each layer
 * @param zooms lowest and highest zoom level
 * @param details name, attribution and the rest of the metadata
 * @param progress called with the number of finished tiles and of all tiles
 */
export function cutArchive(
  blocks: readonly FeatureBlock[],
  zooms: readonly [number, number],
  details: { readonly name?: string; readonly credit?: string },
  progress: (text: string) => void = () => {},
): { archive: WrittenArchive; count: number; largest: { tile: string; bytes: number } } {
  const writer = new ArchiveWriter();
  const packed = new WeakMap<object, Uint8Array>();
  let largest = { tile: '–', bytes: 0 };
  for (const { tile, blocks: layers } of pyramid(blocks, zooms)) {
    let bytes = packed.get(layers);
    if (!bytes) packed.set(layers, (bytes = packTile(writeTile(layers))));
    writer.add(tile, bytes);
    if (bytes.length > largest.bytes) largest = { tile: `${tile.z}/${tile.x}/${tile.y}`, bytes: bytes.length };
    if (writer.size % 200 === 0) progress(`${writer.size.toLocaleString('en')} tiles`);
  }
  const bounds = boundsOfBlocks(blocks);
  const archive = writer.finish({
    metadata: {
      ...(details.name ? { name: details.name } : {}),
      ...(details.credit ? { attribution: details.credit } : {}),
      vector_layers: vectorLayers(blocks, zooms),
    },
    bounds,
  });
  return { archive, count: writer.size, largest };
}

/** Packs a tile; the compressor's room is fitted to it, as most tiles are small (zlib, `windowBits` and `memLevel`). */
function packTile(tile: Uint8Array): Uint8Array {
  const windowBits = Math.max(9, Math.min(15, Math.ceil(Math.log2(tile.length + 262))));
  return new Uint8Array(gzipSync(tile, { windowBits, memLevel: Math.max(3, Math.min(8, windowBits - 6)) }));
}

function readZooms(text: string): [number, number] {
  const match = /^(\d{1,2})(?:-(\d{1,2}))?$/.exec(text);
  const zooms: [number, number] = match ? [Number(match[1]), Number(match[2] ?? match[1])] : [1, 0];
  if (zooms[0] > zooms[1] || zooms[1] > 22)
    throw new CallFault(
      'tile.zooms',
      `--zooms ${text} is not a range of levels`,
      'Write first-last, from 0 to 22, such as --zooms 0-14.',
    );
  return zooms;
}

function kindsOf(block: FeatureBlock): string {
  const counts = [0, 0, 0, 0];
  for (const kind of block.kinds) counts[kind]++;
  return counts
    .map((n, kind) => (n ? `${n.toLocaleString('en')} ${kindNames[kind]}${n > 1 ? 's' : ''}` : ''))
    .filter(Boolean)
    .join(', ');
}

function mergeBlocks(blocks: readonly FeatureBlock[], name: string): FeatureBlock {
  const builder = new BlockBuilder(name, 'lonlat');
  for (const block of blocks) for (let f = 0; f < block.count; f++) builder.copy(block, f);
  return builder.finish();
}
