// Where what is made is put, and what is said of it.
import { mkdirSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { buildGazetteer } from '@flintwright/core/places';
import type { DemoFeature } from './frame.js';

/** The folder of the demo data. */
export const out = join(dirname(fileURLToPath(import.meta.url)), '..', 'data');
/** Says what is made, and after how many seconds. */
export const say = (text: string) => process.stdout.write(`${process.uptime().toFixed(1).padStart(5)} s  ${text}\n`);

export const collection = (features: readonly DemoFeature[]) => ({ type: 'FeatureCollection', features });

/** Writes a GeoJSON file for each list of features. */
export function putFeatures(folder: string, lists: object): void {
  mkdirSync(join(out, folder), { recursive: true });
  for (const [name, features] of Object.entries(lists) as [string, DemoFeature[]][])
    writeFileSync(join(out, folder, `${name}.geojson`), JSON.stringify(collection(features)));
}

/** Writes a gazetteer of some lists. */
export function putGazetteer(name: string, title: string, parts: Readonly<Record<string, DemoFeature[]>>): void {
  const lists = Object.entries(parts).map(([list, features]) => ({ name: list, features }));
  const { bytes, count } = buildGazetteer(lists, title);
  mkdirSync(out, { recursive: true });
  writeFileSync(join(out, `${name}.gazetteer`), bytes);
  say(`a gazetteer of ${count} places, ${(bytes.length / 1e3).toFixed(0)} kB, in demo/data/${name}.gazetteer`);
}
