import { Fault } from '@flintwright/core';

interface ScriptPolicy {
  createScriptURL(address: string): unknown;
}

/** What a page has where it demands trusted addresses (Trusted Types). */
interface Demanding {
  readonly trustedTypes?: { createPolicy(name: string, rules: object): ScriptPolicy };
  /** The policy, made once, as its name may be used once; by whatever copy of this module is there first. */
  flintwrightPolicy?: ScriptPolicy | undefined;
}

const page = globalThis as Demanding;

/** Lets through what a worker may be started from at all: texts of this page, and files of its host. */
function createScriptURL(address: string): string {
  if (address.startsWith('blob:') || new URL(address, location.href).origin === location.origin) return address;
  throw new TypeError(`a worker cannot be started from ${address}`);
}

/**
 * Starts a worker, also in a page that demands trusted addresses: those of the library's own workers, and the one that the application
 * named, pass through the policy `flintwright`.
 *
 * @param address of the worker
 * @throws Fault `worker.start` where the page forbids it
 */
export function startWorker(address: string | URL): Worker {
  try {
    const text = String(address);
    page.flintwrightPolicy ??= page.trustedTypes?.createPolicy('flintwright', { createScriptURL });
    return new Worker((page.flintwrightPolicy?.createScriptURL(text) ?? text) as string);
  } catch (error) {
    throw notStarted((error as Error).message, error);
  }
}

/** The fault of a worker that could not be started, or failed. */
export const notStarted = (why: string, cause?: unknown): Fault =>
  new Fault(
    'worker.start',
    `a worker failed: ${why || 'it could not be started'}`,
    'Allow worker-src blob: in the content security policy (and the policy "flintwright" in trusted-types, where that is set), or serve flintwright/worker yourself and name it in the option "worker".',
    undefined,
    cause,
  );
