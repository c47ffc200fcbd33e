#!/usr/bin/env node
import { main } from '../dist/main.js';

// A reader that has seen enough (head, less) closes the pipe; that is no failure.
process.stdout.on('error', (error) => {
  if (error.code === 'EPIPE') process.exit(0);
  process.stderr.write(
    `✗ standard output cannot be written: ${error.message}\n  → Check where it leads, and the space left there.\n`,
  );
  process.exit(1);
});
// Where even standard error is closed, there is nobody to tell.
process.stderr.on('error', () => process.exit(1));
process.exitCode = await main(process.argv.slice(2));
