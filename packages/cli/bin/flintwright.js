#!/usr/bin/env node
import { main } from '../dist/main.js';

// A reader that has seen enough (head, less) closes the pipe; that is no failure.
process.stdout.on('error', (error) => {
  if (error.code === 'EPIPE') process.exit(0);
  throw error;
});
process.exitCode = await main(process.argv.slice(2));
