// Checks what would be published: entry points, types and files of each package.
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { publint } from 'publint';
import { formatMessage } from 'publint/utils';
import { readFileSync } from 'node:fs';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
let faults = 0;
for (const name of ['core', 'flintwright', 'cli']) {
  const pkgDir = join(root, 'packages', name);
  const { messages } = await publint({ pkgDir, strict: true });
  const pkg = JSON.parse(readFileSync(join(pkgDir, 'package.json'), 'utf8'));
  for (const message of messages) console.log(`${pkg.name}: ${formatMessage(message, pkg)}`);
  faults += messages.filter((message) => message.type !== 'suggestion').length;
  if (!messages.length) console.log(`${pkg.name}: no problems`);
}
process.exit(faults ? 1 : 0);
