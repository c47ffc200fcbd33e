// Runs one area of the bench in a process of its own, and writes its figures to the file named: node bench/area.mjs AREA FILE
import { writeFileSync } from 'node:fs';

const [, , area, file] = process.argv;
const { figures } = await import(`./areas/${area}.mjs`);
writeFileSync(file, JSON.stringify(await figures()));
// A browser's pipes may keep the process.
process.exit(0);
