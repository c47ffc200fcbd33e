import { Fault, getCrs } from '@flintwright/core';
import { formatToWrite, writeFeatureFile, type FileFeature, type FileLayer } from '@flintwright/core/files';
import { Gazetteer, wordsOf, type Candidate, type FindOptions } from '@flintwright/core/places';
import { Command } from 'commander';
import { basename } from 'node:path';
import { fileSource, readFeaturesFile, warningText } from '../input.js';
import { writeFiles } from '../output.js';
import { CallFault, explain, paint, table, type Done, type Terminal } from '../terminal.js';

interface CallOptions {
  readonly near?: string;
  readonly reverse?: string;
  readonly batch?: string;
  readonly column?: string;
  readonly bounds?: string;
  readonly kinds?: string;
  readonly language?: string;
  readonly within: string;
  readonly most: string;
  readonly o: string;
  readonly json?: boolean;
}

export function findCommand(out: Terminal, done: Done): Command {
  return new Command('find')
    .description('Search a gazetteer by name, address, crossing or location')
    .argument('<gazetteer>', 'a .gazetteer file, made by flintwright convert FEATURES… -o NAME.gazetteer')
    .argument('[text...]', 'search text, such as 12 Hawser Yard')
    .option('--near <lon,lat>', 'rank results near this location higher')
    .option('--reverse <lon,lat>', 'find what lies at or near this location instead')
    .option('--within <meters>', 'search radius of --reverse', '1000')
    .option('--batch <file>', 'search for each row of a table instead')
    .option(
      '--column <name>',
      'column of the table with the search text; by default its first text column, or an address',
    )
    .option('-o <file>', 'file that --batch writes; its extension sets the format; - for CSV on standard output', '-')
    .option('--bounds <west,south,east,north>', 'restrict to a bounding box, in degrees')
    .option('--kinds <names>', 'restrict to these kinds, separated by commas, such as town,street,address')
    .option('--language <code>', 'language of the names, if the data has it')
    .option('--most <count>', 'maximum number of results', '5')
    .option('--json', 'print JSON')
    .action(async (file: string, words: string[], options: CallOptions) =>
      done(await find(file, words.join(' '), options, out)),
    );
}

async function find(file: string, text: string, options: CallOptions, out: Terminal): Promise<number> {
  const ways = [text !== '', options.reverse !== undefined, options.batch !== undefined].filter(Boolean).length;
  if (ways !== 1)
    throw new CallFault(
      'find.call',
      ways
        ? 'expected one of a text, --reverse and --batch, got several'
        : 'expected a text, --reverse or --batch, got none',
      'Give a text, or --reverse lon,lat, or --batch FILE.',
    );
  const search = searchOptions(options);
  const source = await fileSource(file);
  try {
    const gazetteer = await opened(file, source);
    if (options.batch !== undefined) return await findAll(gazetteer, options.batch, search, options, out);
    const place = options.reverse === undefined ? undefined : numbersOf('--reverse', options.reverse, 2);
    const found = place
      ? await gazetteer.reverse([place[0], place[1]], {
          ...search,
          within: numbersOf('--within', options.within, 1)[0],
        })
      : await gazetteer.find(text, { ...search, typing: false });
    const candidates = place || found.length ? found : await gazetteer.find(text, search);
    if (options.json) out.say(JSON.stringify({ query: text || place, candidates }, null, 2));
    else print(candidates, text || options.reverse!, out);
    return candidates.length ? 0 : 1;
  } finally {
    await source.close();
  }
}

async function opened(file: string, source: Awaited<ReturnType<typeof fileSource>>): Promise<Gazetteer> {
  try {
    return await Gazetteer.open(source);
  } catch (error) {
    if (error instanceof Fault) throw new Fault(error.code, `${file}: ${error.message}`, error.hint, file, error);
    throw error;
  }
}

function searchOptions({ near, bounds, kinds, language, most }: CallOptions): FindOptions {
  const place = near === undefined ? undefined : numbersOf('--near', near, 2);
  const box = bounds === undefined ? undefined : numbersOf('--bounds', bounds, 4);
  return {
    most: numbersOf('--most', most, 1)[0],
    ...(place ? { near: [place[0], place[1]] as const } : {}),
    ...(box ? { bounds: [box[0], box[1], box[2], box[3]] as const } : {}),
    ...(kinds === undefined ? {} : { kinds: kinds.split(',').map((kind) => kind.trim()) }),
    ...(language === undefined ? {} : { language }),
  };
}

/** So many numbers, parted by commas. @throws CallFault `find.number` */
function numbersOf(option: string, text: string, count: number): number[] {
  const parts = text.split(',').map((part) => part.trim());
  const numbers = parts.map(Number);
  const fits = parts.length === count && parts.every((part, i) => part !== '' && Number.isFinite(numbers[i]));
  const forms = ['a number', 'lon,lat', '', 'west,south,east,north'];
  if (!fits || (count === 1 && numbers[0] <= 0))
    throw new CallFault(
      'find.number',
      `${option} ${text || '""'} is not ${forms[count - 1]}`,
      count === 1 ? 'Write a number above 0.' : 'Write decimal degrees, longitude first, such as -31.18,44.63.',
    );
  if (count > 1 && numbers.some((value, i) => Math.abs(value) > (i % 2 ? 90 : 540)))
    throw new CallFault(
      'find.number',
      `${option} ${text} lies beyond the world`,
      'Longitude comes first, then latitude, in decimal degrees.',
    );
  return numbers;
}

const meters = (value: number) =>
  value < 1000 ? `${value.toFixed(0)} m` : `${(value / 1000).toFixed(value < 10000 ? 1 : 0)} km`;

/** Why a candidate was found: words that are not as they were written, and those that it lacks. */
function reason({ why }: Candidate, query: string): string {
  const turned = why.flatMap(({ query, found, how, errors }) =>
    how === 'errors'
      ? [`${query} → ${found} (${errors} error${errors === 1 ? '' : 's'})`]
      : how === 'beginning'
        ? [`${query}… → ${found}`]
        : [],
  );
  const lacking = wordsOf(query).filter((word) => why.length && !why.some((one) => one.query === word));
  if (lacking.length) turned.push(`without ${lacking.join(', ')}`);
  return turned.join(', ') || (why.length ? 'as written' : '');
}

function print(candidates: readonly Candidate[], query: string, out: Terminal): void {
  if (!candidates.length) {
    out.warn(
      `${paint.yellow('!')} nothing was found for ${query}\n  ${paint.cyan('→')} Try fewer words, or look wider.`,
    );
    return;
  }
  const far = candidates.some(({ distance }) => distance !== undefined);
  const rows = candidates.map((one) => [
    one.score.toFixed(2),
    one.name,
    one.within,
    one.kind || one.role,
    `${one.at[0].toFixed(5)}, ${one.at[1].toFixed(5)}`,
    ...(far ? [one.distance === undefined ? '' : meters(one.distance)] : []),
    reason(one, query),
  ]);
  out.say(table(['score', 'name', 'in', 'kind', 'lon, lat', ...(far ? ['away'] : []), 'why'], rows, [0, far ? 5 : 0]));
}

/** Columns that say what is looked for, first choice first. */
const queryNames = /^(address|adresse|direccion|query|search|place|location|name)$/i;

async function findAll(
  gazetteer: Gazetteer,
  file: string,
  search: FindOptions,
  options: CallOptions,
  out: Terminal,
): Promise<number> {
  const target = options.o === '-' ? 'found.csv' : options.o;
  formatToWrite(target);
  const { layers, warnings } = await readFeaturesFile(file);
  const rows = layers.flatMap(({ features }) => features);
  const names = [...new Set(rows.flatMap(({ properties }) => Object.keys(properties)))];
  if (options.column !== undefined && !names.includes(options.column))
    throw new CallFault(
      'find.column',
      `${file} has no column "${options.column}"`,
      names.length ? `Columns: ${names.join(', ')}.` : 'It has no columns with a text.',
    );
  const columns = [options.column ?? names.find((name) => queryNames.test(name))].filter((name) => name !== undefined);
  if (!columns.length)
    columns.push(...names.filter((name) => rows.some((row) => typeof row.properties[name] === 'string')));
  let hits = 0;
  const features: FileFeature[] = [];
  for (const [i, row] of rows.entries()) {
    if (i % 100 === 0) out.progress(`looked up ${i} of ${rows.length}`);
    const query = columns
      .map((name) => String(row.properties[name] ?? ''))
      .join(' ')
      .trim();
    const [best] = query ? await gazetteer.find(query, { ...search, most: 1, typing: false }) : [];
    if (best) hits++;
    features.push({
      type: 'Feature',
      geometry: best ? { type: 'Point', coordinates: best.at } : null,
      properties: {
        ...row.properties,
        found: best ? [best.name, best.within].filter(Boolean).join(', ') : null,
        found_kind: best ? best.kind || best.role : null,
        score: best?.score ?? null,
      },
    });
  }
  out.progress('');
  const layer: FileLayer = {
    name: basename(file).replace(/\.[^.]*$/, ''),
    features,
    crs: getCrs('OGC:CRS84'),
    crsSource: 'the gazetteer',
  };
  const { files, warnings: lost } = await writeFeatureFile([layer], target);
  const allWarnings = [...warnings, ...lost, ...(await writeFiles(options.o, files))];
  const said = `${hits.toLocaleString('en')} of ${rows.length.toLocaleString('en')} rows found, by ${columns.join(', ')}`;
  const tell = options.o === '-' ? out.warn : out.say;
  if (options.json && options.o !== '-')
    out.say(
      JSON.stringify({ written: options.o, rows: rows.length, found: hits, columns, warnings: allWarnings }, null, 2),
    );
  else {
    tell(`${paint.green('✓')} ${said}`);
    for (const warning of allWarnings)
      if (warning.code !== 'doubtful.no-place') out.warn(explain(warningText(warning), 'warning'));
  }
  return hits ? 0 : 1;
}
