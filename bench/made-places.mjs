// Made-up towns, places and addresses for measures of searching.
let state = 20261126;
const random = () => {
  state ^= state << 13;
  state ^= state >>> 17;
  state ^= state << 5;
  return (state >>> 0) / 4294967296;
};
export const pick = (list) => list[Math.floor(random() * list.length)];
const syllables =
  'ba co du fen gar hol jas kel lor mar nes os pal quin ros sal tor ul ver wyn yar zel eth ing ham'.split(' ');
const word = () => {
  const text = Array.from({ length: 2 + Math.floor(random() * 2) }, () => pick(syllables)).join('');
  return text[0].toUpperCase() + text.slice(1);
};

/**
 * Lists of features for a gazetteer.
 *
 * @param count entries in all
 */
export function lists(count) {
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

/** The text of each feature that a search may find. */
export const labelsOf = (all) =>
  all.flatMap(({ features }) =>
    features.map(({ properties: { name, number, street, town = '' } }) => `${name ?? `${number} ${street}`} ${town}`),
  );
