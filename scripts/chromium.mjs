// Makes sure that the tests have a Chromium: the one named in CHROMIUM, Debian's, or one from the package manager.
import { execFileSync } from 'node:child_process';
import { existsSync } from 'node:fs';

const wanted = process.env.CHROMIUM ?? '/usr/bin/chromium';
if (!existsSync(wanted)) {
  const root = process.getuid?.() === 0;
  console.log(`${wanted} is missing; asking the package manager for it`);
  try {
    const apt = (...args) =>
      execFileSync(root ? 'apt-get' : 'sudo', root ? args : ['-n', 'apt-get', ...args], {
        stdio: 'inherit',
        env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
      });
    apt('update', '-qq');
    apt('install', '-y', '-qq', 'chromium');
  } catch {
    console.error(
      'Chromium could not be installed. Install it (Debian: apt-get install chromium), or name another in the environment variable CHROMIUM.',
    );
    process.exit(1);
  }
}
