// Whether something was built from the present files.
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join, relative } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const stamp = join(root, 'node_modules/.cache/flintwright/built-from');
/** What the packages are built from. */
const sources = [
  ...['core', 'flintwright', 'cli'].flatMap((name) => [`packages/${name}/src`, `packages/${name}/package.json`]),
  ...['build', 'generated', 'register', 'worker'].map((name) => `scripts/${name}.mjs`),
  'demo/src',
  'tsconfig.base.json',
  'package-lock.json',
];
const outputs = ['packages/core/dist', 'packages/flintwright/dist/flintwright.js', 'packages/cli/dist/main.js'];

/**
 * A digest of the names, sizes and times of files, without generated ones.
 *
 * @param paths files and folders, relative to the root of the repository
 * @param except an absolute path to leave out
 */
export function digestOf(paths, except) {
  const digest = createHash('sha256');
  const add = (path) => {
    if (path === except || path.endsWith('node_modules') || /\.generated\.[a-z]+$/.test(path)) return;
    const stat = statSync(path);
    if (stat.isDirectory()) for (const name of readdirSync(path).sort()) add(join(path, name));
    else digest.update(`${relative(root, path)} ${stat.size} ${stat.mtimeMs}\n`);
  };
  for (const path of paths) add(join(root, path));
  return digest.digest('hex');
}

/** Whether the packages were built from the present sources. */
export const isBuilt = () =>
  outputs.every((path) => existsSync(join(root, path))) &&
  existsSync(stamp) &&
  readFileSync(stamp, 'utf8') === digestOf(sources);

/** Notes that the packages have been built. */
export function markBuilt() {
  mkdirSync(dirname(stamp), { recursive: true });
  writeFileSync(stamp, digestOf(sources));
}
