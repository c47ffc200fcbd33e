// npm run versions: turns the files in .changeset into a section of CHANGELOG.md and raises the versions of the packages.
// A file begins its text with the section of the changelog, as in "Added: Add `whole` to patterns."; npx changeset writes one.
import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import readChangesets from '@changesets/read';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const sections = ['Added', 'Changed', 'Fixed', 'Removed', 'Security'];

const entries = (await readChangesets(root)).map(({ id, summary }) => {
  const [, section, text] = /^(\w+): ([^]+)$/.exec(summary.trim()) ?? [];
  if (!sections.includes(section))
    throw new Error(
      `.changeset/${id}.md: expected a text that begins with one of ${sections.join(', ')} and a colon, got "${summary.trim()}"`,
    );
  return { section, text: text.replaceAll(/\s+/g, ' ') };
});
if (!entries.length) throw new Error('there is nothing in .changeset: describe the changes with npx changeset');

execFileSync('npx', ['changeset', 'version'], { cwd: root, stdio: 'inherit' });
const { version } = JSON.parse(readFileSync(join(root, 'packages/core/package.json'), 'utf8'));
execFileSync('npm', ['pkg', 'set', `version=${version}`], { cwd: root, stdio: 'inherit' });
execFileSync('npm', ['install', '--package-lock-only', '--ignore-scripts'], { cwd: root, stdio: 'ignore' });
const parts = sections
  .map((section) => [section, entries.filter((entry) => entry.section === section).map(({ text }) => `- ${text}`)])
  .filter(([, lines]) => lines.length)
  .map(([section, lines]) => `### ${section}\n\n${lines.join('\n')}\n`);
const file = join(root, 'CHANGELOG.md');
const text = readFileSync(file, 'utf8');
const first = text.indexOf('\n## ');
writeFileSync(
  file,
  `${text.slice(0, first)}\n## ${version} (${new Date().toISOString().slice(0, 10)})\n\n${parts.join('\n')}${text.slice(first)}`,
);
console.log(`${entries.length} changes are now in CHANGELOG.md as ${version}; read them, then commit.`);
