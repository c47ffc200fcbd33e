// Clusters of a million points: the index, and what one view asks of it.
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import KDBush from 'kdbush';
import { ClusterIndex } from '@flintwright/core';
import { data, ms, quantile, timed } from '../measure.mjs';

export function figures() {
  // The demo's sightings, scattered about their places until there are a million.
  const seen = readFileSync(join(data, 'sightings.csv'), 'utf8').trim().split('\n').slice(1);
  const count = 1e6;
  const places = new Float64Array(2 * count);
  let seed = 7;
  const random = () => (seed = (seed * 16807) % 2147483647) / 2147483647;
  for (let i = 0; i < count; i++) {
    const [lon, lat] = seen[i % seen.length].split(',');
    places[2 * i] = Number(lon) + (random() - 0.5) * 0.02;
    places[2 * i + 1] = Number(lat) + (random() - 0.5) * 0.015;
  }
  let index;
  const builds = [1, 2, 3].map(() => [
    timed(() => (index = ClusterIndex.build(places))),
    timed(() => {
      const tree = new KDBush(count, 64, Float64Array);
      for (let i = 0; i < count; i++) tree.add(places[2 * i], places[2 * i + 1]);
      tree.finish();
    }),
  ]);
  const [subject, floor] = [0, 1].map((k) =>
    quantile(
      builds.map((pair) => pair[k]),
      0.5,
    ),
  );
  const asks = [];
  for (let round = 0; round < 20; round++)
    for (let zoom = 8; zoom < 15; zoom++) asks.push(timed(() => index.query([-31.3, 44.55, -31, 44.68], zoom)));
  return [
    {
      name: 'index of 1,000,000 points',
      value: subject / floor,
      unit: '×',
      target: 3,
      detail: `${ms(subject)} against ${ms(floor)} for the spatial tree alone on the same points`,
    },
    {
      name: 'clusters of one view',
      value: quantile(asks, 0.5),
      unit: 'ms',
      target: 2,
      detail: 'the Reach at zoom 8 to 14, out of a million points',
    },
  ];
}
