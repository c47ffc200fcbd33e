import { Fault, type FeatureBlock } from '@flintwright/core';
import type { ReadRequest } from './messages.js';
import { readInWorker } from './read-in-worker.js';

/**
 * The features of a file in any format as a block for the map; what was mended is told.
 *
 * @param request the file, and the data entry that it is for
 * @param signal ends the read
 * @param tell takes a fault that lists what was mended or looks wrong
 */
export async function readBlock(
  request: { readonly siblings?: ReadRequest['siblings'] | undefined } & Pick<
    ReadRequest,
    'name' | 'bytes' | 'crs' | 'x' | 'y'
  > &
    Required<Pick<ReadRequest, 'block'>>,
  signal: AbortSignal,
  tell: (fault: Fault) => void,
): Promise<FeatureBlock> {
  const read = await readInWorker({ ...request, siblings: request.siblings ?? {} }, { signal });
  const { block, warnings, format } = read as Extract<typeof read, { block: unknown }>;
  const placeless = warnings.find(({ code }) => code === 'doubtful.no-place');
  if (placeless) throw new Fault('table.place', placeless.message, placeless.hint, `data "${request.block!.name}"`);
  if (warnings.length) {
    const words = warnings.map(({ message, count, hint }) => `${message}${count > 1 ? ` (${count}×)` : ''}. ${hint}`);
    const entry = request.block!.name;
    tell(
      new Fault(
        'features.mended',
        `the features "${entry}" (${format}) were read with warnings: ${words.join(' ')}`,
        `flintwright inspect ${request.name} lists the places.`,
        `data "${entry}"`,
      ),
    );
  }
  return block;
}
