import { Fault, type Crs } from '@flintwright/core';
import {
  assertField,
  fieldNames,
  PartWriter,
  withFields,
  withRenamed,
  type FeatureFile,
  type FileLayer,
  type FileWarning,
} from '@flintwright/core/files';
import { writePieces } from '../output.js';
import type { Terminal } from '../terminal.js';

/** What is done to each part of a file on its way. */
export interface PartSteps {
  /** Only features that pass; undefined for all. */
  readonly where: ((layer: FileLayer) => FileLayer) | undefined;
  readonly select: readonly string[] | undefined;
  readonly rename: ReadonlyMap<string, string>;
  /** Into the coordinate system that it is written in. */
  readonly move: (layer: FileLayer) => FileLayer;
}

/** What came of converting a file. */
export interface Converted {
  readonly from: readonly string[];
  readonly to: readonly string[];
  readonly layers: readonly { readonly layer: string; readonly features: number }[];
  /** Names of the files, where there are several. */
  readonly files?: readonly string[] | undefined;
  readonly warnings: readonly FileWarning[];
}

const idOf = (crs: Crs | undefined) => crs?.id ?? 'an unknown system';

/**
 * Converts a file part by part: each is read, changed and written before the next, so that the file need not fit into memory.
 *
 * @param parts of the file
 * @param target name that says the format
 * @param path where to write; `-` is standard output
 * @param steps what is done to each
 * @param out shows how far it is
 */
export async function convertParts(
  parts: AsyncIterable<FeatureFile>,
  { target, path, steps, out }: { target: string; path: string; steps: PartSteps; out: Terminal },
): Promise<Converted> {
  const writer = new PartWriter(target);
  const [from, to] = [new Set<string>(), new Set<string>()];
  const warnings = new Map<string, FileWarning>();
  /** Attributes that some feature had, as one without geometry, for the messages of those that none had. */
  const seen = new Set<string>();
  let [features, name] = [0, ''];
  const pieces = async function* () {
    for await (const file of parts) {
      const [layer] = file.layers;
      name ||= layer.name;
      from.add(idOf(layer.crs));
      for (const warning of file.warnings) warnings.set(warning.code, together(warnings.get(warning.code), warning));
      for (const field of fieldNames([layer])) seen.add(field);
      let changed = steps.where ? steps.where(layer) : layer;
      if (steps.select) changed = withFields(changed, steps.select);
      if (steps.rename.size) changed = withRenamed(changed, steps.rename);
      const moved = steps.move(changed);
      to.add(idOf(moved.crs));
      features += moved.features.length;
      out.progress(`converted ${features.toLocaleString('en')} features`);
      yield await writer.add(moved);
    }
    const named: FileLayer = {
      name,
      features: [{ type: 'Feature', geometry: null, properties: Object.fromEntries([...seen].map((key) => [key, 1])) }],
      crs: undefined,
      crsSource: '',
    };
    for (const field of [...(steps.select ?? []), ...steps.rename.keys()]) assertField(field, [named]);
    if (steps.where && !features)
      throw new Fault(
        'convert.nothing',
        'no feature matches --where',
        'Try the filter with flintwright inspect --where.',
      );
    yield writer.end();
  };
  await writePieces(path, pieces());
  out.progress('');
  const all = [...warnings.values(), ...writer.warnings.list];
  return { from: [...from], to: [...to], layers: [{ layer: name, features }], warnings: all };
}

/** One warning of two parts; what says no place is of the whole file, and is not counted twice. */
function together(before: FileWarning | undefined, next: FileWarning): FileWarning {
  if (!before) return next;
  const count = next.places.length ? before.count + next.count : Math.max(before.count, next.count);
  return { ...before, count, places: [...before.places, ...next.places].slice(0, 5) };
}
