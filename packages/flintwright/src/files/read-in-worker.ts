import { Fault } from '@flintwright/core';
import { faultFrom } from '@flintwright/core/internal';
import { countLive } from '../base/live-counts.js';
import type { FromFileWorker, ReadBlock, ReadFile, ReadRequest, ToFileWorker } from './messages.js';

/** How a read is watched and stopped. */
export interface ReadWatch {
  /** Ends the read. */
  readonly signal?: AbortSignal | undefined;
  /** Called with the share done, 0 to 1, where the format can tell. */
  readonly progress?: ((share: number) => void) | undefined;
}

/**
 * Reads a file in a worker of its own.
 *
 * @param request name, bytes and what belongs to them; the bytes are copied
 * @param watch signal and progress
 * @throws Fault of the readers; the signal's reason when it was aborted
 */
export async function readInWorker(
  request: ReadRequest,
  { signal, progress }: ReadWatch = {},
): Promise<ReadFile | ReadBlock> {
  signal?.throwIfAborted();
  const { fileWorkerText } = await import('./file-worker-text.generated.js');
  signal?.throwIfAborted();
  const address = URL.createObjectURL(new Blob([fileWorkerText], { type: 'text/javascript' }));
  const worker = new Worker(address);
  countLive('workers', 1);
  const tell = (message: ToFileWorker) => worker.postMessage(message);
  try {
    return await new Promise((resolve, reject) => {
      signal?.addEventListener('abort', () => reject(signal.reason as Error), { once: true });
      worker.onerror = (event) => {
        event.preventDefault();
        reject(
          new Fault(
            'worker.start',
            `a worker failed: ${event.message || 'it could not be started'}`,
            'Allow worker-src blob: in the content security policy.',
          ),
        );
      };
      worker.onmessage = ({ data }: MessageEvent<FromFileWorker>) => {
        if ('file' in data) resolve(data.file);
        else if ('read' in data) resolve(data.read);
        else if ('fault' in data) reject(faultFrom(data.fault));
        else if ('progress' in data) progress?.(data.progress);
        else void fetchFor(data.wants).then(tell, reject);
      };
      tell({ read: request });
    });
  } finally {
    worker.terminate();
    URL.revokeObjectURL(address);
    countLive('workers', -1);
  }
}

/** What a worker cannot fetch itself. */
async function fetchFor(wanted: 'register' | 'sqlite'): Promise<ToFileWorker> {
  if (wanted === 'register') return { register: (await import('@flintwright/core/register')).registerTable };
  const { sqliteBase64 } = await import('./sqlite.generated.js');
  const text = atob(sqliteBase64);
  const bytes = new Uint8Array(text.length);
  for (let i = 0; i < text.length; i++) bytes[i] = text.charCodeAt(i);
  return { sqlite: bytes };
}
