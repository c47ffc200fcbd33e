// Writes THIRD-PARTY-NOTICES.txt into the `dist` of the packages that contain code of others: names, versions, licenses and their texts.
import { readdirSync, readFileSync, realpathSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const readJson = (path) => JSON.parse(readFileSync(path, 'utf8'));

/** The folder of an installed package, as seen from another. */
function folderOf(name, from) {
  for (const folder of createRequire(join(from, 'package.json')).resolve.paths(name)) {
    try {
      return realpathSync(dirname(realpathSync(join(folder, name, 'package.json'))));
    } catch (error) {
      if (error.code !== 'ENOENT') throw error;
    }
  }
  throw new Error(`the package ${name} is not installed`);
}

/** Packages that a package needs at run time, with theirs; our own are left out. */
function dependenciesOf(folder, found = new Map()) {
  for (const name of Object.keys(readJson(join(folder, 'package.json')).dependencies ?? {})) {
    const at = folderOf(name, folder);
    const own = /^(@flintwright\/|flintwright$)/.test(name);
    if (found.has(at)) continue;
    if (!own) found.set(at, readJson(join(at, 'package.json')));
    dependenciesOf(at, found);
  }
  return found;
}

/** What is compiled into our files although no package depends on it at run time. */
const compiledIn = ['epsg-index', 'sql.js'];

/** Writes the notices of all packages that bundle code. @throws Error for a package without a license text */
export function writeNotices() {
  const all = dependenciesOf(join(root, 'packages/flintwright'));
  for (const name of compiledIn) {
    const at = folderOf(name, root);
    all.set(at, readJson(join(at, 'package.json')));
  }
  const notices = [...all]
    .sort(([, one], [, other]) => (one.name < other.name ? -1 : 1))
    .map(([folder, { name, version, license }]) => {
      const files = readdirSync(folder).filter((file) => /^(licen[cs]e|copying|notice)/i.test(file));
      const texts = files.map((file) => readFileSync(join(folder, file), 'utf8').trim());
      if (!license && !texts.length) throw new Error(`${name} ${version} names no license`);
      return [`${name} ${version} (${license ?? 'see below'})`, ...texts].join('\n\n');
    });
  const text = `Flintwright contains code or data of these packages.\n\n${notices.join(`\n\n${'-'.repeat(80)}\n\n`)}\n`;
  for (const name of ['core', 'flintwright', 'cli'])
    writeFileSync(join(root, 'packages', name, 'dist/THIRD-PARTY-NOTICES.txt'), text);
  return all.size;
}
