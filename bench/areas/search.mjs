// Searching: one key in a gazetteer of 200,000 entries, against a plain look through all names in memory.
import { buildGazetteer, foldText, Gazetteer } from '@flintwright/core/places';
import { gzipSync } from 'node:zlib';
import { labelsOf, lists, pick } from '../made-places.mjs';
import { quantile } from '../measure.mjs';

const count = 200_000;

export async function figures() {
  const all = lists(count);
  const { bytes } = buildGazetteer(all, 'bench');
  const packed = gzipSync(JSON.stringify(all)).length;
  const gazetteer = await Gazetteer.open(bytes);
  const labels = labelsOf(all);
  const folded = labels.map(foldText);
  const queries = Array.from({ length: 30 }, () => pick(labels)).flatMap((text) =>
    Array.from({ length: Math.min(14, text.length) }, (_, i) => text.slice(0, i + 1)),
  );
  const [keys, looks] = [[], []];
  // The first round reads and unpacks the pages that are asked for; a box on a page is there from then on.
  for (const round of [0, 1])
    for (const query of queries) {
      let began = performance.now();
      const found = await gazetteer.find(query, { near: [0, 45], most: 8 });
      if (round) keys.push(performance.now() - began);
      began = performance.now();
      const words = foldText(query).split(' ').filter(Boolean);
      const hits = folded.filter((label) => words.every((one) => label.includes(one)));
      if (round) looks.push(performance.now() - began);
      // The floor did the same work: where it finds a label, so does the gazetteer.
      if (hits.length && !found.length) throw new Error(`the gazetteer finds nothing for "${query}"`);
    }
  const [key, look] = [quantile(keys, 0.5), quantile(looks, 0.5)];
  const late = quantile(keys, 0.95);
  return [
    {
      name: 'a key in a gazetteer of 200,000',
      value: key,
      unit: 'ms',
      target: 10,
      detail: `95 in 100 within ${late.toFixed(1)} ms; ${(key / look).toFixed(2)} × a look through all names (${look.toFixed(1)} ms)`,
    },
    {
      name: 'size of that gazetteer',
      value: bytes.length / packed,
      unit: '×',
      limit: 1.5,
      detail: `${(bytes.length / 1e6).toFixed(2)} MB beside ${(packed / 1e6).toFixed(2)} MB of packed GeoJSON`,
    },
  ];
}
