import { asFault } from '@flintwright/core';
import {
  blockOfLayers,
  crsByCode,
  provideRegister,
  provideSqlite,
  readFeatureFile,
  type StartEngine,
} from '@flintwright/core/files';
import { buffersOf } from '@flintwright/core/internal';
import init from 'sql.js/dist/sql-wasm-browser.js';
import { readLayer } from './layer-report.js';
import type { FromFileWorker, ReadRequest, ToFileWorker } from './messages.js';

const scope = self as unknown as {
  postMessage(message: FromFileWorker, transfer?: ArrayBuffer[]): void;
  onmessage: ((event: MessageEvent<ToFileWorker>) => void) | null;
};

/** What the page was asked for, and who waits for it. */
const waiting: { register?: (table: readonly string[]) => void; sqlite?: (bytes: Uint8Array) => void } = {};

provideRegister(
  () =>
    new Promise((resolve) => {
      waiting.register = resolve;
      scope.postMessage({ wants: 'register' });
    }),
);
provideSqlite(async () => {
  const wasmBinary = await new Promise<Uint8Array>((resolve) => {
    waiting.sqlite = resolve;
    scope.postMessage({ wants: 'sqlite' });
  });
  return () => init({ wasmBinary }) as ReturnType<StartEngine>;
});

/** The worker that reads one file. */
async function read({ name, bytes, siblings, crs, x, y, block: wanted }: ReadRequest): Promise<void> {
  try {
    const system = crs === undefined ? undefined : await crsByCode(crs);
    const progress = (share: number) => scope.postMessage({ progress: share });
    const file = await readFeatureFile({ name, bytes, siblings }, { crs: system, progress, x, y });
    const { format, warnings } = file;
    if (wanted) {
      const block = blockOfLayers(file.layers, wanted.name, wanted.id);
      scope.postMessage({ read: { format, block, warnings } }, buffersOf(block));
    } else scope.postMessage({ file: { format, layers: file.layers.map(readLayer), warnings } });
  } catch (error) {
    scope.postMessage({
      fault: asFault(error, 'file.read', 'The file may be damaged; write or fetch it again.').toJSON(),
    });
  }
}

scope.onmessage = ({ data }) => {
  if ('read' in data) void read(data.read);
  else if ('register' in data) waiting.register?.(data.register);
  else waiting.sqlite?.(data.sqlite);
};
