// Source maps of the installed packages: each leads to a source that is in a package, and the stack of a fault leads to its line.
import { TraceMap, originalPositionFor } from '@jridgewell/trace-mapping';
import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { dirname, join, relative } from 'node:path';
import { withPage } from './applications.mjs';

/** Checks that the sources of all maps exist. @returns the number of maps */
export function checkMaps(home) {
  let count = 0;
  for (const name of ['flintwright', '@flintwright/core', '@flintwright/cli']) {
    const folder = join(home, 'node_modules', name, 'dist');
    for (const path of readdirSync(folder, { recursive: true })) {
      const file = join(folder, path);
      if (!/\.(js|ts)$/.test(path)) continue;
      const named = /^\/\/# sourceMappingURL=(?!data:)(.*)$/m.exec(readFileSync(file, 'utf8').slice(-200))?.[1];
      if (!named) continue;
      const map = join(dirname(file), named);
      if (!existsSync(map))
        throw new Error(`${relative(home, file)} names the map ${named}, which is not in the package`);
      const { sources, sourcesContent = [], sourceRoot = '' } = JSON.parse(readFileSync(map, 'utf8'));
      for (const [index, source] of sources.entries()) {
        // Generated modules are in the package as scripts only; sources of dependencies are in the map.
        if (/\.generated\.ts$/.test(source) || typeof sourcesContent[index] === 'string') continue;
        if (!existsSync(join(dirname(map), sourceRoot, source)))
          throw new Error(`${relative(home, map)} names the source ${source}, which is not installed`);
      }
      count++;
    }
  }
  return count;
}

/** Makes a mistake on a published page and follows the stack of its fault into the sources. @returns the place of the line */
export async function traceFault(home) {
  const stack = await withPage(home, (opened) =>
    opened.evaluate(() => {
      try {
        globalThis.createMap('#none', {});
      } catch (error) {
        return error.stack;
      }
      throw new Error('a map was made in an element that does not exist');
    }),
  );
  const folder = join(home, 'node_modules/flintwright/dist');
  const map = new TraceMap(readFileSync(join(folder, 'flintwright.js.map'), 'utf8'));
  for (const [, line, column] of stack.matchAll(/flintwright\.js:(\d+):(\d+)/g)) {
    const place = originalPositionFor(map, { line: Number(line), column: Number(column) - 1 });
    if (!place.source) continue;
    const file = join(folder, place.source);
    const text = readFileSync(file, 'utf8').split('\n')[place.line - 1];
    if (/\bthrow\b/.test(text)) return `${relative(join(home, 'node_modules'), file)}:${place.line} "${text.trim()}"`;
  }
  throw new Error(`no line of the stack leads to a source that throws:\n${stack}`);
}
