import { existsSync } from 'node:fs';
import { resolve } from 'node:path';
import {
  Archive,
  asFault,
  compileCql2,
  Fault,
  gunzip,
  joinTable,
  readTable,
  readTile,
  type CompiledLayer,
  type CompiledSheet,
  type Expression,
  type FeatureBlock,
  type JoinReport,
  type SheetData,
  type TileAddress,
} from '@flintwright/core';
import { addressesOf } from '@flintwright/core/publish';
import { hiddenMark, nearestSpelling, selectFeatures, unusableColors } from '@flintwright/core/internal';
import { LabelRoom } from './check-labels.js';
import { fileSource, readFeatures, readText } from './input.js';

/** Faults and warnings about the data of a sheet, and the reports of its joins. */
export interface DataReport {
  readonly faults: Fault[];
  readonly warnings: Fault[];
  readonly joins: Record<string, JoinReport>;
}

const missingFile = (address: string, at: string) =>
  new Fault('sheet.file', `there is no file ${address}`, 'Check the path; it is relative to the sheet.', at);

/**
 * Opens the archives, features and tables that a sheet names on this machine and compares its layers with what they hold.
 * Other addresses are taken on trust.
 */
export async function checkData({ sheet, layers }: CompiledSheet, folder: string): Promise<DataReport> {
  const report: DataReport = { faults: [], warnings: [], joins: {} };
  for (const { name, key, address } of addressesOf(sheet))
    if (key === 'icon' && !/^[a-z]+:|^\//i.test(address) && !existsSync(resolve(folder, address)))
      report.faults.push(missingFile(address, `$.icons.${name}`));
  for (const [name, data] of Object.entries(sheet.data ?? {})) {
    const own = layers.filter((layer) => layer.data === name);
    const here = (address: unknown) =>
      typeof address === 'string' && !/^[a-z]+:|\{z\}|^\//i.test(address) ? resolve(folder, address) : undefined;
    const files = [data.tiles, data.features, data.join?.table].filter((a): a is string => here(a) !== undefined);
    const missing = files.filter((address) => !existsSync(here(address)!));
    for (const address of missing) report.faults.push(missingFile(address, `$.data.${name}`));
    if (missing.length) continue;
    try {
      const tiles = here(data.tiles);
      if (tiles && /\.pmtiles$/i.test(tiles)) await checkArchive(tiles, data.tiles!, own, report);
      else if (data.features !== undefined)
        await checkFeatures(name, data, here, own, report, sheet.view?.surface === 'plan');
    } catch (error) {
      const fault = asFault(error, 'sheet.data', 'Check the data.');
      report.faults.push(new Fault(fault.code, fault.message, fault.hint, `$.data.${name}`, error));
    }
  }
  return report;
}

async function checkArchive(
  path: string,
  address: string,
  layers: readonly CompiledLayer[],
  report: DataReport,
): Promise<void> {
  const source = await fileSource(path);
  try {
    const archive = await Archive.open(source);
    const metadata = await archive.metadata();
    const held = (metadata['vector_layers'] ?? []) as { id: string; fields?: Record<string, unknown> }[];
    for (const layer of layers) {
      const found = held.find(({ id }) => id === layer.from);
      if (found) {
        if (found.fields) checkAttributes(layer, Object.keys(found.fields), report);
        continue;
      }
      const names = held.map(({ id }) => id);
      const near = nearestSpelling(layer.from, names);
      report.faults.push(
        new Fault(
          'sheet.from',
          `layer "${layer.id}" draws "${layer.source.of}", and ${address} has no layer "${layer.from}"`,
          near ? `Did you mean "${layer.data}/${near}"?` : `It has: ${names.join(', ')}.`,
          `$.layers[${layer.index}].of`,
        ),
      );
    }
    await checkLabelsOf(archive, layers, report);
  } finally {
    await source.close();
  }
}

/** Most tiles that are looked into for labels without room. */
const mostTiles = 600;

/** Looks for labels without room in the deepest level of an archive that has not too many tiles; lines are the longer there. */
async function checkLabelsOf(archive: Archive, layers: readonly CompiledLayer[], report: DataReport): Promise<void> {
  const { header } = archive;
  const rooms = new Map(
    layers
      .filter((layer) => layer.rules.some(({ symbols }) => symbols.label?.along))
      .map((layer) => [layer, new LabelRoom(layer)]),
  );
  if (!rooms.size || header.tileType !== 1) return;
  const levels = new Map<number, TileAddress[]>();
  const seen = new Set<number>();
  for await (const { tile, offset } of archive.entries()) {
    if (seen.has(offset)) continue;
    seen.add(offset);
    const level = levels.get(tile.z) ?? [];
    if (level.length <= mostTiles) level.push(tile);
    levels.set(tile.z, level);
  }
  const [, deep = []] = [...levels].filter(([, { length }]) => length <= mostTiles).sort(([a], [b]) => b - a)[0] ?? [];
  for (const tile of deep) {
    const bytes = await archive.tile(tile);
    if (!bytes) continue;
    for (const block of readTile(header.tileCompression === 2 ? gunzip(bytes) : bytes))
      for (const [layer, room] of rooms) if (layer.from === block.name) room.take({ ...block, tile });
  }
  for (const room of rooms.values()) report.warnings.push(...room.warnings());
}

async function checkFeatures(
  name: string,
  data: SheetData,
  here: (address: unknown) => string | undefined,
  layers: readonly CompiledLayer[],
  report: DataReport,
  plan: boolean,
): Promise<void> {
  const path = here(data.features);
  if (!path) return;
  let block: FeatureBlock = await readFeatures(path, name, plan ? 'plan' : 'lonlat', data);
  const { join } = data;
  if (join) {
    const table = here(join.table);
    if (typeof join.table === 'string' && !table) return;
    const read = readTable(
      typeof join.table === 'string' ? await readText(table!) : join.table,
      typeof join.table === 'string' ? join.table : `${name}.join`,
    );
    const joined = joinTable(block, read, join.match, `$.data.${name}.join`);
    block = joined.block;
    report.joins[name] = joined.report;
  }
  const names = block.columns.map((column) => column.name).filter((column) => !column.startsWith(hiddenMark));
  for (const layer of layers) {
    checkAttributes(layer, names, report);
    report.warnings.push(...unusableColors(layer, block, (is) => compileCql2(is as string | Expression)));
    // Clusters take the place of points that stand together.
    if (!data.cluster) {
      const room = new LabelRoom(layer);
      room.take(block);
      report.warnings.push(...room.warnings());
    }
    if (!block.count || selectFeatures(layer, block).length) continue;
    report.warnings.push(
      new Fault(
        'warn.nothing',
        `layer "${layer.id}" draws none of the ${block.count} features of "${name}"`,
        `Try its filter with flintwright inspect ${String(data.features)} --where "…", and check that the symbols fit the kind of geometry.`,
        `$.layers[${layer.index}]`,
      ),
    );
  }
}

/** Attributes that a layer goes by and the data do not have: a filter on one passes nothing, a scale gives only `other`. */
function checkAttributes(layer: CompiledLayer, known: readonly string[], { warnings }: DataReport): void {
  for (const name of layer.properties) {
    if (known.includes(name)) continue;
    const near = nearestSpelling(name, known);
    warnings.push(
      new Fault(
        'warn.attribute',
        `layer "${layer.id}" references the attribute "${name}", and no feature has it`,
        near ? `Did you mean "${near}"?` : `Available: ${known.join(', ') || 'none'}.`,
        `$.layers[${layer.index}]`,
      ),
    );
  }
}
