// Builds a gazetteer and measures it: node build-gazetteer.mjs FOLDER COUNT; prints time and memory as JSON.
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { buildGazetteer, foldText } from '@flintwright/core/places';
import { labelsOf, lists } from './made-places.mjs';

const [folder, count] = [process.argv[2], Number(process.argv[3])];
const all = lists(count);
const megabytesOf = () => process.resourceUsage().maxRSS / 1000;
// Memory of the features themselves is no part of building.
const before = megabytesOf();
let began = performance.now();
const { bytes } = buildGazetteer(all, 'bench');
const seconds = (performance.now() - began) / 1000;
const megabytes = megabytesOf();
writeFileSync(join(folder, 'places.gazetteer'), bytes);
began = performance.now();
const labels = labelsOf(all);
const sorted = labels.map(foldText).sort();
const floor = (performance.now() - began) / 1000;
if (sorted.length !== count) throw new Error(`${sorted.length} labels of ${count}`);
writeFileSync(join(folder, 'labels.txt'), labels.join('\n'));
process.stdout.write(JSON.stringify({ seconds, megabytes, before, floor, count: sorted.length }));
