// What is made beside the rest, on a thread of its own: the pictures of the relief, whose heights it is handed, and the planet.
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { workerData } from 'node:worker_threads';
import type { Field } from './contour.js';
import { buildPlanet, planetSheet } from './planet.js';
import { reliefTiles } from './pictures.js';
import { out, putFeatures, putGazetteer, say } from './put.js';

let pictures = 0;
for (const { z, x, y, bytes } of reliefTiles(workerData as Field, [8, 12])) {
  mkdirSync(join(out, 'relief', String(z), String(x)), { recursive: true });
  writeFileSync(join(out, 'relief', String(z), String(x), `${y}.png`), bytes);
  pictures++;
}
say(`${pictures} pictures of the relief`);

const zeblune = buildPlanet();
putFeatures('zeblune', zeblune);
putGazetteer('zeblune', 'Zeblune', { cities: [...zeblune.cities], nations: [...zeblune.nations] });
writeFileSync(join(out, 'zeblune.sheet.json'), JSON.stringify(planetSheet(), null, 2));
say(`the planet Zeblune: ${zeblune.nations.length} nations, ${zeblune.cities.length} cities`);
