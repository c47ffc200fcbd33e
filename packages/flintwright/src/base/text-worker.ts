import { countLive } from './live-counts.js';
import { notStarted, startWorker } from './start-worker.js';

/** One job of a worker that is started for it. */
export interface TextWorkerJob<In, Out, Answer> {
  /** Text of the worker. */
  readonly text: string;
  /** What it is to do. */
  readonly start: In;
  /** Ends the work. */
  readonly signal?: AbortSignal | undefined;
  /** Takes what the worker says; whoever has the answer hands it to `done`. */
  readonly heard: (message: Out, done: (answer: Answer) => void, tell: (message: In) => void) => void | Promise<void>;
}

/**
 * Has a worker of its own do one job, and lets it go.
 *
 * @param job text, message, and what to do with what it says
 * @throws Fault `worker.start`, what `heard` throws, or the signal's reason
 */
export async function inTextWorker<In, Out, Answer>(job: TextWorkerJob<In, Out, Answer>): Promise<Answer> {
  const { text, start, signal, heard } = job;
  signal?.throwIfAborted();
  const address = URL.createObjectURL(new Blob([text], { type: 'text/javascript' }));
  const worker = startWorker(address);
  countLive('workers', 1);
  try {
    return await new Promise<Answer>((resolve, reject) => {
      signal?.addEventListener('abort', () => reject(signal.reason as Error), { once: true });
      worker.onerror = (event) => {
        event.preventDefault();
        reject(notStarted(event.message));
      };
      const tell = (message: In) => worker.postMessage(message);
      worker.onmessage = ({ data }: MessageEvent<Out>) => {
        // What goes wrong in hearing is what went wrong with the job.
        void (async () => heard(data, resolve, tell))().catch(reject);
      };
      tell(start);
    });
  } finally {
    worker.terminate();
    URL.revokeObjectURL(address);
    countLive('workers', -1);
  }
}
