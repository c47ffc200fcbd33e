import { Fault } from '@flintwright/core';
import Table from 'cli-table3';
import colors from 'picocolors';

/** Output of commands: results to standard output, notes and progress to standard error. */
export interface Terminal {
  say(text: string): void;
  warn(text: string): void;
  /** Shows progress on one line, only on an interactive terminal. */
  progress(text: string): void;
}

export const paint = colors;

/** The colors that `paint` writes; what else begins with an escape came with the data. */
// oxlint-disable-next-line no-control-regex
const own = paint.isColorSupported ? /^\u001b\[(?:[012]|22|3[1-6]|39)m/ : /^(?!)/;

/** A text with the control characters of names and attributes shown as such, so that none of them reaches a terminal. */
export const shownPlain = (text: string): string =>
  // oxlint-disable-next-line no-control-regex
  text.replace(/\u001b\[[\d;]*m|[\u0000-\u0008\u000b-\u001f\u007f-\u009f\u202a-\u202e\u2066-\u2069]/g, (sign) =>
    own.test(sign)
      ? sign
      : [...sign]
          .map((one) => (one < ' ' || one > '~' ? `\\u${one.charCodeAt(0).toString(16).padStart(4, '0')}` : one))
          .join(''),
  );

export const terminal: Terminal = {
  say: (text) => void process.stdout.write(`${shownPlain(text)}\n`),
  warn: (text) => void process.stderr.write(`${shownPlain(text)}\n`),
  progress: (text) => {
    if (process.stderr.isTTY) process.stderr.write(`\r\u001b[2K${shownPlain(text)}`);
  },
};

/** A fault in the call itself, for exit status 2. */
export class CallFault extends Fault {}

export type Done = (status: number) => void;

/** Rows under headings, numbers to the right. */
export function table(
  head: readonly string[],
  rows: readonly (readonly (string | number)[])[],
  right: readonly number[] = [],
): string {
  const plain = {
    top: '',
    'top-mid': '',
    'top-left': '',
    'top-right': '',
    bottom: '',
    'bottom-mid': '',
    'bottom-left': '',
    'bottom-right': '',
    left: '',
    'left-mid': '',
    mid: '',
    'mid-mid': '',
    right: '',
    'right-mid': '',
    middle: '  ',
  };
  const out = new Table({
    head: head.map((text) => paint.dim(text)),
    chars: plain,
    style: { 'padding-left': 0, 'padding-right': 0, head: [], border: [] },
    colAligns: head.map((_, i) => (right.includes(i) ? 'right' : 'left')),
  });
  for (const row of rows) out.push(row.map((cell) => (typeof cell === 'number' ? cell.toLocaleString('en') : cell)));
  return out
    .toString()
    .split('\n')
    .map((line) => line.trimEnd())
    .join('\n');
}

/** A size in bytes as people read it. */
export function bytesText(bytes: number): string {
  if (bytes < 1000) return `${bytes} B`;
  return bytes < 1e6 ? `${(bytes / 1e3).toFixed(1)} kB` : `${(bytes / 1e6).toFixed(1)} MB`;
}

export const degrees = (box: readonly number[]) => box.map((v) => v.toFixed(4)).join(', ');

/** A fault or a warning as a person reads it: what, where, and the hint. */
export function explain({ message, at, hint }: Fault, kind: 'fault' | 'warning' = 'fault'): string {
  const sign = kind === 'fault' ? paint.red('✗') : paint.yellow('!');
  return `${sign} ${message}${at ? paint.dim(` (${at})`) : ''}\n  ${paint.cyan('→')} ${hint}`;
}
