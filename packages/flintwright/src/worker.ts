import {
  asFault,
  boundsOfAll,
  buffersOfPrepared,
  compileSheet,
  Fault,
  gunzip,
  prepareTile,
  readGeoJson,
  readTile,
  TileCutter,
  type CompiledSheet,
  type FeatureBlock,
  type Violation,
} from '@flintwright/core';
import type { FromWorker, ToWorker } from './load/messages.js';

/** The side of the map that runs in workers: bytes in, prepared tiles out. */
const scope = globalThis as unknown as {
  onmessage: ((event: MessageEvent<ToWorker>) => void) | null;
  postMessage(message: FromWorker, transfer?: Transferable[]): void;
};

let sheet: CompiledSheet | undefined;
let version = 0;
let sprites = new Map<string, number>();
const cutters = new Map<string, TileCutter>();

const spriteNumber = (name: string) => sprites.get(name) ?? 0;

function answer(message: ToWorker): { reply: FromWorker; transfer: Transferable[] } | undefined {
  switch (message.kind) {
    case 'sheet':
      // The map has checked the sheet and written its schemes out.
      sheet = compileSheet(message.sheet, () => {});
      version = message.version;
      sprites = new Map(message.sprites.map((name, i) => [name, i]));
      return undefined;
    case 'forget':
      cutters.delete(message.data);
      return undefined;
    case 'features': {
      const block = readGeoJson(message.source, {
        name: message.data,
        ...(message.idName === undefined ? {} : { id: message.idName }),
      });
      cutters.set(message.data, new TileCutter(block, message.maxZoom));
      return {
        reply: { id: message.id, ok: true, version, bounds: block.coords.length ? boundsOfAll(block) : undefined },
        transfer: [],
      };
    }
    case 'tile': {
      const violations: Violation[] = [];
      const { tile, data } = message;
      let blocks: FeatureBlock[];
      if (message.bytes) blocks = readTile(gunzip(message.bytes), { violations });
      else {
        const cutter = cutters.get(data);
        if (!cutter) throw new Fault('worker.data', `the worker holds no features "${data}"`, 'Add the data again.');
        const block = cutter.tile(tile);
        blocks = block ? [block] : [];
      }
      const layers = sheet?.layers.filter((layer) => layer.data === data) ?? [];
      const names = blocks.map((block) => block.name);
      const wanted = new Set(layers.map((layer) => layer.from));
      // Blocks that no layer draws stay behind.
      if (!wanted.has('')) blocks = blocks.filter((block) => wanted.has(block.name));
      const prepared = prepareTile(tile, blocks, layers, message.zoom, spriteNumber, message.shown);
      const notes = violations
        .slice(0, 20)
        .map(({ code, message: text, offset }) =>
          new Fault(code, text, 'That feature is left out; have the tile written again.', `byte ${offset}`).toJSON(),
        );
      return {
        reply: { id: message.id, ok: true, version, tile: prepared, names, notes },
        transfer: buffersOfPrepared(prepared),
      };
    }
  }
}

scope.onmessage = ({ data }) => {
  try {
    const answered = answer(data);
    if (answered) scope.postMessage(answered.reply, answered.transfer);
  } catch (error) {
    const fault = asFault(error, 'worker.failed', 'Please report this with the data that brings it about.').toJSON();
    if ('id' in data) scope.postMessage({ id: data.id, ok: false, fault });
    else throw error;
  }
};
