import { faultFrom } from '@flintwright/core/internal';
import { fetchPart } from '../base/fetch-part.js';
import { inTextWorker } from '../base/text-worker.js';
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
  const { fileWorkerText } = await fetchPart(() => import('./file-worker-text.generated.js'));
  return inTextWorker<ToFileWorker, FromFileWorker, ReadFile | ReadBlock>({
    text: fileWorkerText,
    start: { read: request },
    signal,
    heard: async (data, done, tell) => {
      if ('file' in data) done(data.file);
      else if ('read' in data) done(data.read);
      else if ('fault' in data) throw faultFrom(data.fault);
      else if ('progress' in data) progress?.(data.progress);
      else tell(await fetchFor(data.wants));
    },
  });
}

/** What a worker cannot fetch itself. */
async function fetchFor(wanted: 'register' | 'sqlite'): Promise<ToFileWorker> {
  if (wanted === 'register')
    return { register: (await fetchPart(() => import('@flintwright/core/register'))).registerTable };
  const { sqliteBase64 } = await fetchPart(() => import('./sqlite.generated.js'));
  const text = atob(sqliteBase64);
  const bytes = new Uint8Array(text.length);
  for (let i = 0; i < text.length; i++) bytes[i] = text.charCodeAt(i);
  return { sqlite: bytes };
}
