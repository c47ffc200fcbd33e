import { Fault, readSheet, SheetFault, type Sheet } from '@flintwright/core';
import { crsByCode, fieldNames, inLonLat, PartWriter, withFields, type FileWarning } from '@flintwright/core/files';
import {
  addressesOf,
  attributesUsed,
  checkPublishedPage,
  publishedFolder,
  publishedPagePieces,
  type PublishedMap,
  type StreamedFile,
} from '@flintwright/core/publish';
import { Command, Option } from 'commander';
import { existsSync, readdirSync, realpathSync, rmSync, statSync } from 'node:fs';
import { mkdir, readFile } from 'node:fs/promises';
import { basename, dirname, join, resolve, sep } from 'node:path';
import { fileURLToPath } from 'node:url';
import { checkData } from '../check-data.js';
import { featureParts, readBytes, readText, warningText } from '../input.js';
import { writeWhole } from '../output.js';
import { bytesText, CallFault, explain, paint, type Done, type Terminal } from '../terminal.js';

interface PublishOptions {
  readonly o: string;
  readonly title?: string;
  readonly language: string;
  readonly script?: string;
  readonly replace?: boolean;
  readonly json?: boolean;
  readonly attributes: 'used' | 'all';
  readonly allow: readonly string[];
}

export function publishCommand(out: Terminal, done: Done): Command {
  return new Command('publish')
    .description('Publish a map as one HTML file that opens from a disk, or as a folder for any static host')
    .argument('<sheet>', 'a .sheet.json file with its data in the same folder')
    .requiredOption('-o <path>', 'file to write, ending in .html, or a folder')
    .option('--title <text>', 'title of the page; by default that of the sheet')
    .option('--language <code>', 'language of the page', 'en')
    .option(
      '--script <file>',
      'JavaScript to run when the map is ready: the body of an async function with the parameters map and flintwright',
    )
    .option('--replace', 'overwrite an existing page, or write into a folder that is not empty')
    .addOption(
      new Option('--attributes <which>', 'attributes to publish: those that the sheet uses, or all')
        .choices(['used', 'all'])
        .default('used'),
    )
    .option(
      '--allow <folder>',
      'also publish files from this folder; may be given several times',
      (folder: string, before: readonly string[]) => [...before, folder],
      [] as readonly string[],
    )
    .option('--json', 'print the written files as JSON')
    .action(async (sheet: string, options: PublishOptions) => done(await publish(sheet, options, out)));
}

async function publish(path: string, options: PublishOptions, out: Terminal): Promise<number> {
  const single = /\.html?$/i.test(options.o);
  assertFree(options.o, single, options.replace ?? false);
  const { sheet } = readSheet(await readText(path));
  const library = await libraryFile('flintwright.js');
  const attributes = options.attributes === 'used' ? await attributesUsed(sheet) : undefined;
  const leftOut: Record<string, readonly string[]> = {};
  const files = new FilesOfSheet(dirname(path), options.allow, attributes, single, out);
  const map: PublishedMap = {
    title: options.title ?? sheet.title ?? basename(path).replace(/\.sheet\.json$|\.json$/, ''),
    sheet: files.adopt(sheet),
    files: await files.read(),
    library,
    language: options.language,
    script: options.script === undefined ? undefined : await scriptText(options.script),
    attributes,
    leftOut: (name, names) => (leftOut[name] = names),
  };
  const written = new Map<string, number>();
  if (single) {
    await mkdir(dirname(options.o), { recursive: true });
    await writeWhole(options.o, publishedPagePieces(map));
    written.set(options.o, statSync(options.o).size);
  } else {
    const { files: content } = await publishedFolder(map, await libraryFile('worker.bundle.js'));
    for (const [name, one] of content) {
      const target = join(options.o, name);
      await mkdir(dirname(target), { recursive: true });
      await writeWhole(target, typeof one === 'string' || one instanceof Uint8Array ? [one] : one);
      written.set(name, statSync(target).size);
    }
  }
  files.warn();
  Object.assign(leftOut, files.leftOut);
  await checkWritten(options.o, single);
  const total = [...written.values()].reduce((sum, size) => sum + size, 0);
  if (options.json)
    out.say(
      JSON.stringify(
        { written: options.o, title: map.title, files: Object.fromEntries(written), bytes: total, leftOut },
        null,
        2,
      ),
    );
  else {
    out.say(
      `${paint.green('✓')} ${paint.bold(options.o)}  ${map.title}, ${written.size === 1 ? 'one page' : `${written.size} files`}, ${bytesText(total)}`,
    );
    for (const [name, names] of Object.entries(leftOut))
      out.say(
        paint.dim(
          `  left out of ${name}, as the sheet does not use them: ${names.join(', ')} (--attributes all keeps them)`,
        ),
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

/** Checks what was written, as a reader would find it; removes a page that is not complete. @throws Fault `publish.incomplete` and others */
async function checkWritten(target: string, single: boolean): Promise<void> {
  try {
    if (single) {
      await checkPublishedPage(await readFile(target, 'utf8'));
      return;
    }
    const { faults } = await checkData(readSheet(await readText(join(target, 'sheet.json'))), target);
    if (faults.length) throw new SheetFault(faults);
  } catch (error) {
    if (single) rmSync(target, { force: true });
    throw error;
  }
}

/** The files that a sheet names, as they are published. */
class FilesOfSheet {
  readonly leftOut: Record<string, readonly string[]> = {};
  private readonly folders: readonly string[];
  private readonly warnings: FileWarning[] = [];
  private sheet!: Sheet;

  /**
   * @param folder of the sheet; addresses are relative to it
   * @param allowed other folders whose files may be published
   * @param attributes that are kept, by data entry; all without it
   * @param single whether features go into one page
   */
  constructor(
    private readonly folder: string,
    allowed: readonly string[],
    private readonly attributes: ReadonlyMap<string, ReadonlySet<string>> | undefined,
    private readonly single: boolean,
    private readonly out: Terminal,
  ) {
    this.folders = [folder, ...allowed].map((one) => {
      if (existsSync(one)) return realpathSync(one);
      throw new CallFault('publish.allow', `there is no folder ${one}`, 'Name a folder that exists after --allow.');
    });
  }

  /** The sheet as it is published. Features that are rewritten are in longitude and latitude, so their entries no longer name a system. */
  adopt(sheet: Sheet): Sheet {
    this.sheet = sheet;
    const data = Object.entries(sheet.data ?? {}).map(([name, entry]) => {
      const { crs: _crs, x: _x, y: _y, ...rest } = entry;
      return [name, typeof entry.features === 'string' && this.isRewritten ? rest : entry] as const;
    });
    return sheet.data ? { ...sheet, data: Object.fromEntries(data) } : sheet;
  }

  private get isRewritten(): boolean {
    return this.single || this.attributes !== undefined;
  }

  /** @throws Fault `publish.elsewhere` for a file outside the folders */
  async read(): Promise<Map<string, Uint8Array | StreamedFile>> {
    const files = new Map<string, Uint8Array | StreamedFile>();
    for (const { name, key, address } of addressesOf(this.sheet)) {
      const file = /^[a-z][a-z0-9+.-]+:/i.test(address) ? undefined : resolve(this.folder, address);
      // What is not a file is refused, with its place in the sheet, when the page is made.
      if (file === undefined || !existsSync(file) || !statSync(file).isFile()) continue;
      this.assertAllowed(file, address);
      files.set(
        address,
        key === 'features' && this.isRewritten
          ? { stream: this.features(name, file), ending: '.geojson' }
          : await readBytes(file),
      );
    }
    return files;
  }

  private assertAllowed(file: string, address: string): void {
    const real = realpathSync(file);
    if (this.folders.some((folder) => real.startsWith(folder.endsWith(sep) ? folder : folder + sep))) return;
    throw new Fault(
      'publish.elsewhere',
      `${address} is not in the folder of the sheet, but at ${real}`,
      `Move it beside the sheet, or add --allow ${dirname(real)} if it may be published.`,
      address,
    );
  }

  /** The features of a file of any format as GeoJSON with the attributes that are used, part by part. */
  private async *features(name: string, file: string): AsyncGenerator<Uint8Array> {
    const used = this.attributes?.get(name);
    const plan = this.sheet.view?.surface === 'plan';
    const { crs, x, y } = this.sheet.data![name];
    const stated = crs === undefined ? undefined : await crsByCode(crs);
    const writer = new PartWriter('page.geojson');
    const seen = new Set<string>();
    for await (const part of featureParts(file, { crs: stated, x, y })) {
      this.warnings.push(...part.warnings);
      for (const layer of part.layers) {
        for (const field of fieldNames([layer])) seen.add(field);
        const kept = used ? withFields(layer, [...used]) : layer;
        yield await writer.add(plan || !kept.crs ? kept : inLonLat(kept));
      }
    }
    yield writer.end();
    const left = [...seen].filter((field) => used && !used.has(field));
    if (left.length) this.leftOut[name] = left;
  }

  /** Prints what the readers reported. */
  warn(): void {
    for (const warning of this.warnings) this.out.warn(explain(warningText(warning), 'warning'));
  }
}

/** The text of a script. @throws Fault `publish.script` for one with imports or exports, which a published page cannot resolve */
async function scriptText(path: string): Promise<string> {
  const text = await readText(path);
  if (/^\s*(?:import\s*[\w{*"']|export\s)/m.test(text))
    throw new Fault(
      'publish.script',
      `${path} has imports or exports`,
      'Bundle it into one script without them, with esbuild for example; `map` and `flintwright` are there.',
      path,
    );
  return text;
}

/** A file of the browser's package. @throws Fault `publish.package` */
async function libraryFile(name: string): Promise<string> {
  try {
    const text = await readFile(join(dirname(fileURLToPath(import.meta.resolve('flintwright/whole'))), name), 'utf8');
    // The source map stays with the package.
    return text.replace(/^\/\/# sourceMappingURL=.*$/m, '');
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
