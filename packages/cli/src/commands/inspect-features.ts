import { readingOf } from './reading.js';
import { type Crs, type FeatureBlock, readGeoJson } from '@flintwright/core';
import { findSystems, inLonLat, type FeatureFile, type FileLayer } from '@flintwright/core/files';
import { crsNamed, readFeaturesFile, warningText } from '../input.js';
import { bytesText, explain, paint, table, type Terminal } from '../terminal.js';
import { sayFilter } from './filter.js';
import { filtered, printLayers, reportOf, type InspectOptions, type LayerReport } from './report.js';

interface FileLayerReport extends LayerReport {
  readonly crs: string | undefined;
  readonly crsSource: string;
}

/** Features of a layer as a block, in degrees where its system is known, else as the numbers stand. */
function blockOf(layer: FileLayer): FeatureBlock {
  const placed = layer.crs ? inLonLat(layer) : layer;
  return readGeoJson(
    { type: 'FeatureCollection', features: placed.features },
    { name: layer.name, space: layer.crs ? 'lonlat' : 'plan' },
  );
}

/** Says what is in a file of features: format, layers, coordinate system, fields, what was mended, and what to do next. */
export async function inspectFeatures(
  file: string,
  size: number,
  options: InspectOptions,
  out: Terminal,
): Promise<number> {
  const crs: Crs | undefined = options.from === undefined ? undefined : await crsNamed(options.from);
  const read = await readFeaturesFile(file, readingOf(options, crs));
  const blocks = read.layers.map(blockOf);
  const layers = blocks.map((block, i): FileLayerReport => ({
    ...reportOf(block, read.layers[i].features),
    // Parts of a geometry collection are counted as one feature here, as the file has them.
    features: read.layers[i].features.length,
    crs: read.layers[i].crs?.id,
    crsSource: read.layers[i].crsSource,
  }));
  const tried = filtered(blocks, options);
  const next = verdict(file, size, read);
  if (options.json) {
    const [first] = layers;
    const summary = layers.length === 1 ? first : { ...overall(layers), layers };
    out.say(
      JSON.stringify(
        {
          file,
          bytes: size,
          format: read.format,
          ...summary,
          warnings: read.warnings,
          verdict: next,
          ...(tried && { where: tried }),
        },
        null,
        2,
      ),
    );
    return 0;
  }
  out.say(`${paint.bold(file)}  ${read.format}, ${bytesText(size)}`);
  for (const layer of layers) {
    printLayers([layer], out);
    out.say(`  ${paint.dim('system')} ${layer.crs ?? 'not known'} ${paint.dim(`(${layer.crsSource})`)}`);
  }
  if (read.warnings.length) out.say('');
  for (const warning of read.warnings) out.say(explain(warningText(warning), 'warning'));
  if (tried) sayFilter(options.where!, tried, out);
  else out.say(`\n${paint.green('→')} ${next}`);
  return 0;
}

/** What the layers of a file come to together. */
function overall(layers: readonly FileLayerReport[]): object {
  const kinds: Record<string, number> = {};
  for (const layer of layers) for (const [kind, n] of Object.entries(layer.kinds)) kinds[kind] = (kinds[kind] ?? 0) + n;
  const boxes = layers.flatMap(({ bounds }) => (bounds ? [bounds] : []));
  const edge = (k: number, pick: (...values: number[]) => number) => pick(...boxes.map((box) => box[k]));
  const systems = [...new Set(layers.map(({ crs }) => crs))];
  return {
    features: layers.reduce((sum, { features }) => sum + features, 0),
    kinds,
    ...(boxes.length ? { bounds: [edge(0, Math.min), edge(1, Math.min), edge(2, Math.max), edge(3, Math.max)] } : {}),
    ...(systems.length === 1 ? { crs: systems[0] } : {}),
  };
}

/** What to do with a file next. */
function verdict(file: string, size: number, { layers, warnings }: FeatureFile): string {
  const features = layers.reduce((sum, layer) => sum + layer.features.length, 0);
  const placed = layers.some((layer) => layer.features.some(({ geometry }) => geometry));
  if (!features) return 'There is nothing in it to draw.';
  if (!placed)
    return `It has no places. Join it to shapes: flintwright convert SHAPES -o OUT.geojson --join ${file} --match attribute=column.`;
  if (layers.some(({ crs }) => !crs))
    return 'Name its coordinate system with --from; search for it with flintwright inspect --crs "country or name".';
  if (
    warnings.some(
      ({ code }) =>
        code.startsWith('doubtful.') && !['doubtful.rows', 'doubtful.pieces', 'doubtful.datum'].includes(code),
    )
  )
    return 'Look into the warnings first; it can be drawn, but perhaps not where it belongs.';
  if (features > 50000 || size > 2e7) return `It is large. Cut it into tiles: flintwright tile ${file} -o OUT.pmtiles.`;
  return 'It is ready. Name it as "features" of a sheet, or cut it into tiles.';
}

/** Lists coordinate systems of the register that a text asks for. */
export async function inspectSystems(text: string, json: boolean, out: Terminal): Promise<number> {
  const found = await findSystems(text, 25);
  if (json) {
    out.say(JSON.stringify(found, null, 2));
    return found.length ? 0 : 1;
  }
  if (!found.length) {
    out.warn(
      `${paint.red('✗')} no coordinate system has all of: ${text}\n  ${paint.cyan('→')} Try fewer words, such as the name of a country, a city or "utm 25n".`,
    );
    return 1;
  }
  out.say(
    table(
      ['code', 'name', 'area', 'west, south, east, north'],
      found.map(({ id, name, areaName, area }) => [
        id,
        name,
        areaName.length > 48 ? `${areaName.slice(0, 47)}…` : areaName,
        area.join(', '),
      ]),
    ),
  );
  if (found.length === 25) out.say(paint.dim('the first 25; add a word to narrow it down'));
  return 0;
}
