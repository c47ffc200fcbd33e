// Names of real places that the generator could come upon. It refuses them.

/** Real towns and villages among all names that the parts of Orrin's names make, and names once used that turned out to be real. */
const real = new Set([
  ...[
    'Araria',
    'Aroona',
    'Belhaven',
    'Belton',
    'Brindle',
    'Corbridge',
    'Corby',
    'Dunham',
    'Eston',
    'Faleria',
    'Graham',
  ],
  ...[
    'Graton',
    'Holeby',
    'Holoby',
    'Holton',
    'Lorton',
    'Marton',
    'Oreland',
    'Pelham',
    'Pelton',
    'Roseland',
    'Rosemere',
  ],
  ...['Rosenheim', 'Rosport', 'Thornholm', 'Verton', 'Weston'],
]);

export const isReal = (name: string): boolean => real.has(name);

/** @throws where a name is that of a real place */
export function madeUp(name: string): string {
  const found = name.split(' ').find((word) => real.has(word));
  if (found) throw new Error(`"${name}" holds the name of a real place, ${found}: choose another`);
  return name;
}
