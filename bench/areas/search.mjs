// Searching: one key in a gazetteer of 200,000 entries, against a plain look through all names in memory.
import { buildGazetteer, foldText, Gazetteer } from '@flintwright/core/places';
import { gzipSync } from 'node:zlib';
import { quantile } from '../measure.mjs';

const count = 200_000;
let state = 20261126;
const random = () => {
  state ^= state << 13;
  state ^= state >>> 17;
  state ^= state << 5;
  return (state >>> 0) / 4294967296;
};
const pick = (list) => list[Math.floor(random() * list.length)];
const syllables =
  'ba co du fen gar hol jas kel lor mar nes os pal quin ros sal tor ul ver wyn yar zel eth ing ham'.split(' ');
const word = () => {
  const text = Array.from({ length: 2 + Math.floor(random() * 2) }, () => pick(syllables)).join('');
  return text[0].toUpperCase() + text.slice(1);
};

/** Made-up towns, places and addresses. */
function lists() {
  const towns = Array.from({ length: 300 }, () => ({ name: word(), at: [random() * 20 - 10, 40 + random() * 10] }));
  const streets = Array.from({ length: 4000 }, () => ({
    name: `${word()} ${pick(['Lane', 'Row', 'Hill', 'Yard'])}`,
    town: pick(towns),
  }));
  const near = ([x, y]) => [x + random() / 10, y + random() / 10].map((v) => Number(v.toFixed(6)));
  const point = (coordinates, properties) => ({
    type: 'Feature',
    geometry: { type: 'Point', coordinates },
    properties,
  });
  const places = Array.from({ length: 40_000 }, () => {
    const town = pick(towns);
    return point(near(town.at), { name: `${word()} ${word()}`, kind: pick(['quay', 'park', 'inn']), town: town.name });
  });
  const addresses = Array.from({ length: count - 40_300 }, () => {
    const { name, town } = pick(streets);
    return point(near(town.at), { number: String(1 + Math.floor(random() * 200)), street: name, town: town.name });
  });
  return [
    { name: 'towns', features: towns.map(({ name, at }) => point(at, { name, kind: 'town' })) },
    { name: 'places', features: places },
    { name: 'addresses', features: addresses },
  ];
}

export async function figures() {
  const all = lists();
  const { bytes } = buildGazetteer(all, 'bench');
  const packed = gzipSync(JSON.stringify(all)).length;
  const gazetteer = await Gazetteer.open(bytes);
  const labels = all.flatMap(({ features }) =>
    features.map(({ properties: { name, number, street, town = '' } }) => `${name ?? `${number} ${street}`} ${town}`),
  );
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
