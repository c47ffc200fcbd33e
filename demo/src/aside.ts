// What is made beside the rest, on a thread of its own: the pictures of the relief, whose heights it is handed, and the planet.
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { workerData } from 'node:worker_threads';
import type { Field } from './contour.js';
import { buildOrrin, orrinSheet } from './orrin.js';
import { reliefTiles } from './pictures.js';
import { out, putFeatures, putGazetteer, say } from './put.js';

let pictures = 0;
for (const { z, x, y, bytes } of reliefTiles(workerData as Field, [8, 12])) {
  mkdirSync(join(out, 'relief', String(z), String(x)), { recursive: true });
  writeFileSync(join(out, 'relief', String(z), String(x), `${y}.png`), bytes);
  pictures++;
}
say(`${pictures} pictures of the relief`);

const orrin = buildOrrin();
putFeatures('orrin', orrin);
putGazetteer('orrin', 'Orrin', { cities: [...orrin.cities], nations: [...orrin.nations] });
writeFileSync(join(out, 'orrin.sheet.json'), JSON.stringify(orrinSheet(), null, 2));
say(`the planet Orrin: ${orrin.nations.length} nations, ${orrin.cities.length} cities`);
