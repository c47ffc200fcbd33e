import { Fault, readSheet, type Sheet } from '@flintwright/core';
import { readFeatureFile, writeFeatureFile } from '@flintwright/core/files';
import { addressesOf, publishedFolder, publishedPage, type PublishedMap } from '@flintwright/core/publish';
import { Command } from 'commander';
import { existsSync, readdirSync, statSync } from 'node:fs';
import { mkdir, readFile } from 'node:fs/promises';
import { basename, dirname, isAbsolute, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { readBytes, readText, warningText } from '../input.js';
import { writeWhole } from '../output.js';
import { bytesText, CallFault, explain, paint, type Done, type Terminal } from '../terminal.js';

interface PublishOptions {
  readonly o: string;
  readonly title?: string;
  readonly language: string;
  readonly replace?: boolean;
  readonly json?: boolean;
}

export function publishCommand(out: Terminal, done: Done): Command {
  return new Command('publish')
    .description('Make a map that opens anywhere: one page that opens from a disk, or a folder for any host')
    .argument('<sheet>', 'a .sheet.json, its data beside it')
    .requiredOption('-o <path>', 'where to write: a name that ends in .html for one page, else a folder')
    .option('--title <text>', 'title of the page; default that of the sheet')
    .option('--language <code>', 'language of the page', 'en')
    .option('--replace', 'write into a folder that is not empty, or over a page that is there')
    .option('--json', 'print what was written as JSON')
    .action(async (sheet: string, options: PublishOptions) => done(await publish(sheet, options, out)));
}

async function publish(path: string, options: PublishOptions, out: Terminal): Promise<number> {
  const single = /\.html?$/i.test(options.o);
  assertFree(options.o, single, options.replace ?? false);
  const { sheet } = readSheet(await readText(path));
  const library = await libraryFile('flintwright.js');
  const map: PublishedMap = {
    title: options.title ?? sheet.title ?? basename(path).replace(/\.sheet\.json$|\.json$/, ''),
    sheet,
    files: await dataOf(sheet, dirname(path), single, out),
    library,
    language: options.language,
  };
  const written = new Map<string, number>();
  if (single) {
    const page = await publishedPage(map);
    await mkdir(dirname(options.o), { recursive: true });
    await writeWhole(options.o, [page]);
    written.set(options.o, Buffer.byteLength(page));
  } else {
    const { files } = await publishedFolder(map, await libraryFile('worker.bundle.js'));
    for (const [name, content] of files) {
      const target = join(options.o, name);
      await mkdir(dirname(target), { recursive: true });
      await writeWhole(target, [content]);
      written.set(name, typeof content === 'string' ? Buffer.byteLength(content) : content.length);
    }
  }
  const total = [...written.values()].reduce((sum, size) => sum + size, 0);
  if (options.json)
    out.say(
      JSON.stringify(
        { written: options.o, title: map.title, files: Object.fromEntries(written), bytes: total },
        null,
        2,
      ),
    );
  else {
    out.say(
      `${paint.green('✓')} ${paint.bold(options.o)}  ${map.title}, ${written.size === 1 ? 'one page' : `${written.size} files`}, ${bytesText(total)}`,
    );
    out.say(
      single
        ? `${paint.cyan('→')} Open it in a browser, from a disk or any host. It fetches nothing.`
        : `${paint.cyan('→')} Put the folder on any host; to try it: flintwright serve ${options.o}`,
    );
  }
  return 0;
}

/** Refuses to write over what is there, unless that was asked for. @throws Fault `publish.there` */
function assertFree(target: string, single: boolean, replace: boolean): void {
  if (!existsSync(target) || replace) return;
  const folder = statSync(target).isDirectory();
  if (single === folder)
    throw new CallFault(
      'publish.kind',
      folder ? `${target} is a folder` : `${target} is a file`,
      'Name a page that ends in .html, or a folder.',
    );
  if (!folder || readdirSync(target).length)
    throw new Fault(
      'publish.there',
      folder ? `the folder ${target} is not empty` : `there is a file ${target} already`,
      'Name another, or add --replace. Nothing was written.',
      target,
    );
}

/** The bytes behind every address of a sheet, which are files beside it. */
async function dataOf(sheet: Sheet, folder: string, single: boolean, out: Terminal): Promise<Map<string, Uint8Array>> {
  const files = new Map<string, Uint8Array>();
  for (const { key, address } of addressesOf(sheet)) {
    const file = isAbsolute(address) || /^[a-z]+:/i.test(address) ? undefined : resolve(folder, address);
    // What is not a file beside the sheet is refused, with its place, when the page is made.
    if (file === undefined || !existsSync(file) || !statSync(file).isFile()) continue;
    const bytes = await readBytes(file);
    if (key !== 'features' || !single) files.set(address, bytes);
    else {
      // One page holds features as GeoJSON, whatever they came as.
      const read = await readFeatureFile({ name: basename(file), bytes });
      for (const warning of read.warnings) out.warn(explain(warningText(warning), 'warning'));
      files.set(address, (await writeFeatureFile(read.layers, 'page.geojson')).bytes);
    }
  }
  return files;
}

/** A file of the browser's package. @throws Fault `publish.package` */
async function libraryFile(name: string): Promise<string> {
  try {
    return await readFile(join(dirname(fileURLToPath(import.meta.resolve('flintwright'))), name), 'utf8');
  } catch (error) {
    throw new Fault(
      'publish.package',
      `the package flintwright has no ${name}, or is not installed`,
      'Install it beside the command: npm install flintwright.',
      undefined,
      error,
    );
  }
}
