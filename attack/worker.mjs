// Tries inputs of one area, one after the other, and says of each when it began, so that whoever waits sees one that never ends.
import { parentPort, workerData } from 'node:worker_threads';
import { Fault, SheetFault } from '@flintwright/core';
import { makeAreas } from './areas.mjs';
import { randomFrom } from './mutate.mjs';

const { name, seed, from, most, lasts, beat } = workerData;
const clock = new Float64Array(beat);
const { make, attempt } = (await makeAreas())[name];
// Begins the count of memory behind what was loaded.
const before = process.memoryUsage().rss;
const result = { tried: 0, faults: 0, crashes: [], slowest: 0, memory: 0, next: from };
const until = Date.now() + lasts;
for (let k = from; k < most && Date.now() < until; k++) {
  const input = make(randomFrom(seed + k));
  clock[1] = k;
  clock[0] = Date.now();
  const began = performance.now();
  try {
    await attempt(input);
  } catch (error) {
    result.faults++;
    if (!(error instanceof Fault || error instanceof SheetFault))
      result.crashes.push(`${name} ${seed + k}: ${String(error?.stack ?? error).slice(0, 400)}`);
  }
  clock[0] = 0;
  result.tried++;
  result.next = k + 1;
  result.slowest = Math.max(result.slowest, performance.now() - began);
  if (k % 64 === 0) result.memory = Math.max(result.memory, (process.memoryUsage().rss - before) / 1e6);
  if (result.crashes.length > 20) break;
}
parentPort.postMessage({ ...result, spent: Date.now() - until + lasts });
process.exit();
