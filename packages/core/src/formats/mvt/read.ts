import { describeValue } from '../../base/describe-value.js';
import { Fault } from '../../base/fault.js';
import { Kind, type Column, type FeatureBlock, type Value } from '../../features/block.js';
import { readGeometry, type GeometrySink } from './geometry.js';
import { repacked } from './repack.js';
import { truncated, WireReader } from './wire.js';

/** A violation of the specification in a tile. */
export interface Violation {
  readonly code: string;
  readonly message: string;
  /** Offset in bytes from the start of the tile. */
  readonly offset: number;
}

export interface ReadTileOptions {
  /** Names of the layers to read; default all. */
  readonly layers?: readonly string[];
  /**
   * Receives violations of the specification. With a list, a faulty feature or layer is left out and listed, and the rest is read; without
   * one, the first violation throws.
   */
  readonly violations?: Violation[];
}

/**
 * Reads a vector tile (open vector tile encoding 2.1) into one {@link FeatureBlock} for each layer, in tile space: integer units, y down,
 * `extent` units along a side.
 *
 * @param bytes the uncompressed tile
 * @param options names of layers, and a list for violations
 * @throws Fault `mvt.truncated` or `mvt.wire` for bytes that are not a tile, `mvt.*` for a violation if there is no list
 */
export function readTile(bytes: Uint8Array, options: ReadTileOptions = {}): FeatureBlock[] {
  if (!(bytes instanceof Uint8Array))
    throw new Fault('mvt.bytes', `${describeValue(bytes)} is not the bytes of a tile`, 'Pass a Uint8Array.');
  const reader = new WireReader(bytes);
  const report = (code: string, message: string, offset: number) => {
    if (!options.violations)
      throw new Fault(
        code,
        message,
        'Write the tile again with an encoder that follows the specification.',
        `byte ${offset}`,
      );
    options.violations.push({ code, message, offset });
  };
  const blocks: FeatureBlock[] = [];
  const names = new Set<string>();
  while (reader.pos < reader.end) {
    const key = reader.varint();
    if (key !== ((3 << 3) | 2)) {
      reader.skip(key & 7);
      continue;
    }
    const start = reader.pos;
    const length = reader.length('a layer');
    const next = reader.pos + length;
    const block = readLayer(new WireReader(bytes, reader.pos, next), start, options.layers, report);
    reader.pos = next;
    if (!block) continue;
    if (names.has(block.name))
      report('mvt.layer.twice', `two layers are named "${block.name}" (4.1: names are unique)`, start);
    else blocks.push(block);
    names.add(block.name);
  }
  return blocks;
}

/** Cells of a table of attributes that any layer may have, and those that it may have for each of its bytes: a small tile takes no large memory. */
const fewCells = 2 ** 22;
const cellsPerByte = 32;

type Report = (code: string, message: string, offset: number) => void;

function readLayer(
  reader: WireReader,
  start: number,
  wanted: readonly string[] | undefined,
  report: Report,
): FeatureBlock | undefined {
  let name: string | undefined;
  let version: number | undefined;
  let extent = 4096;
  const keys: string[] = [];
  const values: Value[] = [];
  const features: number[] = [];
  let geometryBytes = 0;
  while (reader.pos < reader.end) {
    const field = reader.varint();
    switch (field) {
      case (2 << 3) | 2: {
        const length = reader.length('a feature');
        features.push(reader.pos, reader.pos + length);
        geometryBytes += length;
        reader.pos += length;
        break;
      }
      case (3 << 3) | 2:
        keys.push(reader.text(reader.length('a key')));
        break;
      case (4 << 3) | 2: {
        const at = reader.pos;
        const length = reader.length('a value');
        const end = reader.pos + length;
        values.push(readValue(new WireReader(reader.bytes, reader.pos, end), at, report));
        reader.pos = end;
        break;
      }
      case (1 << 3) | 2:
        name = reader.text(reader.length('a layer name'));
        if (wanted && !wanted.includes(name)) return undefined;
        break;
      case (5 << 3) | 0:
        extent = reader.varint();
        break;
      case (15 << 3) | 0:
        version = reader.varint();
        break;
      default:
        reader.skip(field & 7);
    }
  }
  if (name === undefined) return void report('mvt.layer.name', 'a layer has no name (4.1)', start);
  if (version === undefined) report('mvt.layer.version', `layer "${name}" has no version (4.1)`, start);
  else if (version !== 1 && version !== 2)
    return void report('mvt.layer.version', `layer "${name}" is of version ${version}; 1 and 2 are known`, start);
  const cells = (features.length / 2) * keys.length;
  if (cells > Math.max(fewCells, cellsPerByte * (reader.end - start)))
    return void report(
      'mvt.layer.cells',
      `layer "${name}" has ${features.length / 2} features and names ${keys.length} attributes, more than it can hold`,
      start,
    );
  if (extent === 0) return void report('mvt.layer.extent', `layer "${name}" has extent 0 (4.1)`, start);
  const parts = { name, version, extent, keys, values, features, geometryBytes };
  const block = readFeatures(reader.bytes, parts, report);
  if (block) return block;
  const plain = repacked(reader.bytes, features);
  return readFeatures(plain.bytes, { ...parts, features: plain.features, origins: features }, report);
}

let scratch: GeometrySink | undefined;

/** Room for the geometry of a layer, used again from layer to layer: what is kept is copied out. */
function scratchFor(bytes: number): GeometrySink {
  if (!scratch || scratch.coords.length < bytes) {
    const size = Math.max(bytes, 1 << 16);
    scratch = {
      coords: new Int32Array(size),
      ringStarts: new Uint32Array((size >> 1) + 2),
      partRings: new Uint32Array((size >> 1) + 2),
      vertices: 0,
      rings: 0,
      parts: 0,
    };
  }
  scratch.vertices = scratch.rings = scratch.parts = 0;
  return scratch;
}

/** The header of a layer, and the places of its features in the bytes. */
interface LayerParts {
  readonly name: string;
  readonly version: number | undefined;
  readonly extent: number;
  readonly keys: readonly string[];
  readonly values: readonly Value[];
  /** First byte and end of each feature, by turns. */
  readonly features: readonly number[];
  /** Where the features are in the tile, for messages; default as in `features`. Without them, lists in several pieces end the read. */
  readonly origins?: readonly number[];
  /** Bytes of all features, which hold no more numbers of geometry than that. */
  readonly geometryBytes: number;
}

/** The features of a layer; undefined where lists of numbers are not in one piece each. */
function readFeatures(
  bytes: Uint8Array,
  { name, version, extent, keys, values, features, origins, geometryBytes }: LayerParts,
  report: Report,
): FeatureBlock | undefined {
  const reader = new WireReader(bytes);
  // Told at the end, when it is clear that nothing is read again.
  const faults: Parameters<Report>[] = [];
  const note: Report = (...fault) => void faults.push(fault);
  const total = features.length / 2;
  const sink = scratchFor(geometryBytes);
  const codes = new Uint32Array(total * keys.length);
  const kinds = new Uint8Array(total);
  const ids = new Float64Array(total);
  const featureParts = new Uint32Array(total + 1);
  let count = 0;
  for (let f = 0; f < total; f++) {
    const at = (origins ?? features)[2 * f];
    const end = features[2 * f + 1];
    let pos = features[2 * f];
    let id = NaN;
    let kind: number = Kind.none;
    let geometryAt = -1;
    let geometryEnd = 0;
    let hasTags = false;
    let sound = true;
    reader.end = end;
    while (pos < end) {
      const field = bytes[pos++];
      if (field === ((2 << 3) | 2) || field === ((4 << 3) | 2)) {
        let length = bytes[pos++];
        if (length > 127 || pos > end) {
          reader.pos = pos - 1;
          length = reader.varint();
          pos = reader.pos;
        }
        const until = pos + length;
        if (until > end) truncated(pos, field === 18 ? 'tags' : 'geometry');
        if (field === ((4 << 3) | 2)) {
          if (geometryAt >= 0) return undefined;
          geometryAt = pos;
          geometryEnd = pos = until;
          continue;
        }
        if (hasTags) return undefined;
        hasTags = true;
        while (pos < until) {
          let key = bytes[pos++];
          if (key > 127) {
            reader.pos = pos - 1;
            key = reader.varint();
            pos = reader.pos;
          }
          if (pos >= until) {
            if (!origins) return undefined;
            note('mvt.tags.odd', `feature ${f} of layer "${name}" has a key without a value (4.4)`, at);
            sound = false;
            break;
          }
          let value = bytes[pos++];
          if (value > 127) {
            reader.pos = pos - 1;
            value = reader.varint();
            pos = reader.pos;
          }
          if (key >= keys.length || value >= values.length) {
            note(
              'mvt.tags.range',
              `feature ${f} of layer "${name}" points at key ${key} of ${keys.length} and value ${value} of ${values.length} (4.4)`,
              at,
            );
            sound = false;
            break;
          }
          codes[key * total + count] = value + 1;
        }
        pos = until;
      } else if (
        field === ((1 << 3) | 0) &&
        pos + 3 < end &&
        (bytes[pos] < 128 || bytes[pos + 1] < 128 || bytes[pos + 2] < 128)
      ) {
        let byte = bytes[pos++];
        id = byte & 0x7f;
        for (let shift = 7; byte > 127; shift += 7) {
          byte = bytes[pos++];
          id |= (byte & 0x7f) << shift;
        }
      } else if (field === ((3 << 3) | 0) && bytes[pos] < 128 && pos < end) kind = bytes[pos++];
      else {
        // Ids, and whatever the reader does not know.
        reader.pos = pos - 1;
        const long = reader.varint();
        if (long === ((1 << 3) | 0)) id = reader.varint64();
        else if (long === ((3 << 3) | 0)) kind = reader.varint();
        // Numbers of a list one by one.
        else if (!origins && (long === ((2 << 3) | 0) || long === ((4 << 3) | 0))) return undefined;
        else reader.skip(long & 7);
        pos = reader.pos;
      }
    }
    featureParts[count] = sink.parts;
    if (sound && kind > Kind.polygon) {
      note('mvt.feature.kind', `feature ${f} of layer "${name}" is of geometry type ${kind} (4.3.4: 0 to 3)`, at);
      sound = false;
    }
    if (sound && geometryAt < 0) {
      note('mvt.feature.geometry', `feature ${f} of layer "${name}" has no geometry (4.2)`, at);
      sound = false;
    }
    if (sound && kind !== Kind.none) {
      const wrong = readGeometry(bytes, geometryAt, geometryEnd, kind as Kind, sink, version === 1);
      if (wrong) {
        note(wrong.code, `feature ${f} of layer "${name}": ${wrong.message}`, origins ? at : wrong.offset);
        sound = false;
      }
    }
    if (!sound) {
      for (let k = 0; k < keys.length; k++) codes[k * total + count] = 0;
      continue;
    }
    kinds[count] = kind;
    ids[count++] = id;
  }
  for (const fault of faults) report(...fault);
  featureParts[count] = sink.parts;
  sink.partRings[sink.parts] = sink.rings;
  sink.ringStarts[sink.rings] = sink.vertices;
  const columns: Column[] = keys.map((key, k) => ({
    name: key,
    codes: codes.subarray(k * total, k * total + count),
    values,
  }));
  return {
    name,
    space: 'tile',
    extent,
    count,
    kinds: kinds.subarray(0, count),
    ids: ids.subarray(0, count),
    featureParts: featureParts.subarray(0, count + 1),
    partRings: sink.partRings.slice(0, sink.parts + 1),
    ringStarts: sink.ringStarts.slice(0, sink.rings + 1),
    coords: sink.coords.slice(0, 2 * sink.vertices),
    columns,
  };
}

function readValue(reader: WireReader, at: number, report: Report): Value {
  let value: Value;
  let seen = 0;
  while (reader.pos < reader.end) {
    const field = reader.varint();
    seen++;
    if (field === ((1 << 3) | 2)) value = reader.text(reader.length('a text value'));
    else if (field === ((2 << 3) | 5)) value = reader.float();
    else if (field === ((3 << 3) | 1)) value = reader.double();
    else if (field === ((4 << 3) | 0)) value = reader.int64();
    else if (field === ((5 << 3) | 0)) value = reader.varint64();
    else if (field === ((6 << 3) | 0)) value = reader.sint64();
    else if (field === ((7 << 3) | 0)) value = reader.varint() !== 0;
    else {
      seen--;
      reader.skip(field & 7);
    }
  }
  if (seen !== 1) report('mvt.value', `a value has ${seen} of its seven fields set (4.1: exactly one)`, at);
  return value;
}
