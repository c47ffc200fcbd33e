import { execFile } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { main } from '@flintwright/cli';

/** The command's own file. */
export const bin = fileURLToPath(new URL('../bin/flintwright.js', import.meta.url));

/** The folder of the demo data. */
export const demo = fileURLToPath(new URL('../../../demo/data', import.meta.url));

/** Runs the command as a shell does: exit status, and what it printed. */
export const run = (
  ...args: string[]
): Promise<{ readonly status: number; readonly out: string; readonly err: string }> =>
  new Promise((resolve) =>
    execFile(
      process.execPath,
      [bin, ...args],
      { maxBuffer: 1 << 26, env: { ...process.env, NO_COLOR: '1' } },
      (error, out, err) => resolve({ status: error ? Number(error.code) : 0, out, err }),
    ),
  );

/** Runs the command within this process, which is quicker, with what it prints taken down. */
export async function runHere(...args: string[]): Promise<{ status: number; out: string; err: string }> {
  const [out, err]: [string[], string[]] = [[], []];
  const status = await main(args, { say: (t) => out.push(t), warn: (t) => err.push(t), progress: () => {} });
  // oxlint-disable-next-line no-control-regex
  const plain = (lines: string[]) => lines.join('\n').replace(/\u001b\[\d+m/g, '');
  return { status, out: plain(out), err: plain(err) };
}
