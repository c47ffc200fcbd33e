import { Growing } from '../../base/growing.js';
import { Kind, type Column, type FeatureBlock, type Value } from '../../features/block.js';

const encoder = new TextEncoder();

/** Bytes of a varint of at most 32 bits. */
const lengthOf = (value: number): number =>
  value < 0x80 ? 1 : value < 0x4000 ? 2 : value < 0x200000 ? 3 : value < 0x10000000 ? 4 : 5;

/** Writes the wire form of protocol buffers, all into one list of bytes: what is nested is written in place, and its length put before it. */
class WireWriter extends Growing<Uint8Array> {
  constructor(capacity = 1 << 16) {
    super((n) => new Uint8Array(n), capacity);
  }

  varint(value: number): void {
    const data = this.reserve(10);
    while (value > 127) {
      data[this.length++] = (value % 128) | 0x80;
      value = Math.floor(value / 128);
    }
    data[this.length++] = value;
  }

  /** A varint of at most 32 bits. */
  small(value: number): void {
    const data = this.reserve(5);
    while (value > 127) {
      data[this.length++] = (value & 0x7f) | 0x80;
      value >>>= 7;
    }
    data[this.length++] = value;
  }

  /**
   * Begins a nested field; {@link end} takes what comes back.
   *
   * @param field its number
   * @param guess about how many bytes it will have; a close guess avoids moving them
   */
  begin(field: number, guess = 0): number {
    this.small((field << 3) | 2);
    this.reserve(5);
    this.length += lengthOf(guess);
    return this.length;
  }

  /** Ends a nested field: puts its length before it, in the room that the same guess has left. */
  end(start: number, guess = 0): void {
    const size = this.length - start;
    const [left, wanted] = [lengthOf(guess), lengthOf(size)];
    if (left !== wanted) {
      this.reserve(5);
      this.data.copyWithin(start + wanted - left, start, this.length);
    }
    this.length = start - left;
    this.small(size);
    this.length += size;
  }

  text(field: number, text: string): void {
    const start = this.begin(field);
    const room = this.reserve(3 * text.length);
    this.length += encoder.encodeInto(text, room.subarray(this.length)).written;
    this.end(start);
  }

  double(value: number): void {
    const data = this.reserve(8);
    new DataView(data.buffer, data.byteOffset + this.length, 8).setFloat64(0, value, true);
    this.length += 8;
  }
}

/** Tens of thousands of tiles are written in the same room, one after the other. */
const out = new WireWriter();

/**
 * Writes blocks in tile space as one vector tile (encoding 2.1, layer version 2). Integers are written as such, other numbers as doubles;
 * features without geometry are left out, as the encoding requires.
 */
export function writeTile(blocks: readonly FeatureBlock[]): Uint8Array {
  out.restart(1 << 22);
  for (const block of blocks) {
    const before = out.length;
    const start = out.begin(3);
    if (writeLayer(block)) out.end(start);
    else out.length = before;
  }
  return out.finish();
}

/** The values of a layer, each once, in the order in which they are first used. */
class Values {
  readonly list: Value[] = [];
  private readonly lookup = new Map<Value, number>();

  at(value: Value): number {
    let at = this.lookup.get(value);
    if (at === undefined) this.lookup.set(value, (at = this.list.push(value) - 1));
    return at;
  }
}

/** Where the codes of a table of values stand among the values of a layer; the tables outlive the layers, which are told apart by turns. */
interface Places {
  readonly turns: Uint32Array;
  readonly places: Uint32Array;
}

const placesOf = new WeakMap<readonly Value[], Places>();
let turn = 0;

/** How the values of a column are found among those of a layer; −1 for none. */
function finder(column: Column, values: Values): (feature: number) => number {
  if (!('codes' in column)) {
    const { numbers } = column;
    return (f) => (Number.isNaN(numbers[f]) ? -1 : values.at(numbers[f]));
  }
  const { codes, values: own } = column;
  let known = placesOf.get(own);
  if (!known || known.turns.length <= own.length) {
    known = { turns: new Uint32Array(own.length + 1), places: new Uint32Array(own.length + 1) };
    placesOf.set(own, known);
  }
  const { turns, places } = known;
  const now = ++turn;
  return (f) => {
    const code = codes[f];
    if (turns[code] === now) return places[code];
    const value = code === 0 ? undefined : own[code - 1];
    if (value === undefined || value === null) return -1;
    turns[code] = now;
    return (places[code] = values.at(value));
  };
}

/** Writes a layer; false where none of its features has a geometry. */
function writeLayer(block: FeatureBlock): boolean {
  out.small((15 << 3) | 0);
  out.small(2);
  out.text(1, block.name);
  const values = new Values();
  const keys: string[] = [];
  const columns = block.columns.map((column) => ({ name: column.name, key: -1, find: finder(column, values) }));
  let written = 0;
  for (let i = 0; i < block.count; i++) {
    if (!hasGeometry(block, i)) continue;
    written++;
    const shape = guessOf(block, i);
    const whole = shape + 2 * columns.length + 8;
    const feature = out.begin(2, whole);
    const id = block.ids[i];
    if (id >= 0 && Number.isInteger(id)) {
      out.small((1 << 3) | 0);
      out.varint(id);
    }
    const before = out.length;
    const tags = out.begin(2);
    for (const column of columns) {
      const at = column.find(i);
      if (at < 0) continue;
      if (column.key < 0) column.key = keyOf(keys, column.name);
      out.small(column.key);
      out.small(at);
    }
    if (out.length > tags) out.end(tags);
    else out.length = before;
    out.small((3 << 3) | 0);
    out.small(block.kinds[i]);
    const geometry = out.begin(4, shape);
    writeGeometry(block, i);
    out.end(geometry, shape);
    out.end(feature, whole);
  }
  if (!written) return false;
  for (const key of keys) out.text(3, key);
  for (const value of values.list) writeValue(value);
  out.small((5 << 3) | 0);
  out.small(block.extent);
  return true;
}

/** Columns of the same name share a key. */
function keyOf(keys: string[], name: string): number {
  const known = keys.indexOf(name);
  return known < 0 ? keys.push(name) - 1 : known;
}

function writeValue(value: Value): void {
  const start = out.begin(4);
  if (typeof value === 'string') out.text(1, value);
  else if (typeof value === 'boolean') {
    out.small((7 << 3) | 0);
    out.small(value ? 1 : 0);
  } else if (Number.isInteger(value) && Math.abs(value as number) < 2 ** 52) {
    // Beyond that the zigzag form would not be exact in a double.
    const whole = value as number;
    out.small(((whole < 0 ? 6 : 5) << 3) | 0);
    out.varint(whole < 0 ? -whole * 2 - 1 : whole);
  } else {
    out.small((3 << 3) | 1);
    out.double(value as number);
  }
  out.end(start);
}

/** Whether a feature is of a kind that is written, and has a vertex. */
function hasGeometry({ kinds, featureParts, partRings, ringStarts }: FeatureBlock, index: number): boolean {
  const [from, to] = [partRings[featureParts[index]], partRings[featureParts[index + 1]]];
  return to > from && (kinds[index] !== Kind.point || ringStarts[to] > ringStarts[from]);
}

/** About how many bytes a geometry takes: most steps have one byte each way, some two. */
function guessOf({ featureParts, partRings, ringStarts }: FeatureBlock, index: number): number {
  const [from, to] = [partRings[featureParts[index]], partRings[featureParts[index + 1]]];
  return 3 * (ringStarts[to] - ringStarts[from]) + 3 * (to - from);
}

/** Where the geometry that is being written has come to. */
const pen = { x: 0, y: 0 };

/** Writes the steps to some vertices, one after the other; all in one place, since most of a tile is made of these. */
function writeSteps(coords: ArrayLike<number>, from: number, to: number): void {
  const data = out.reserve((to - from) * 10);
  let at = out.length;
  let { x, y } = pen;
  for (let i = 2 * from; i < 2 * to; i += 2) {
    const dx = coords[i] - x;
    const dy = coords[i + 1] - y;
    x += dx;
    y += dy;
    let across = ((dx << 1) ^ (dx >> 31)) >>> 0;
    for (; across > 127; across >>>= 7) data[at++] = (across & 0x7f) | 0x80;
    data[at++] = across;
    let down = ((dy << 1) ^ (dy >> 31)) >>> 0;
    for (; down > 127; down >>>= 7) data[at++] = (down & 0x7f) | 0x80;
    data[at++] = down;
  }
  out.length = at;
  pen.x = x;
  pen.y = y;
}

function writeGeometry(block: FeatureBlock, index: number): void {
  const { coords, partRings, ringStarts } = block;
  const kind = block.kinds[index];
  const fromPart = block.featureParts[index];
  const toPart = block.featureParts[index + 1];
  pen.x = pen.y = 0;
  if (kind === Kind.point) {
    const from = ringStarts[partRings[fromPart]];
    const to = ringStarts[partRings[toPart]];
    if (to > from) out.small(((to - from) << 3) | 1);
    writeSteps(coords, from, to);
    return;
  }
  for (let ring = partRings[fromPart]; ring < partRings[toPart]; ring++) {
    const from = ringStarts[ring];
    const to = ringStarts[ring + 1];
    out.small((1 << 3) | 1);
    writeSteps(coords, from, from + 1);
    out.small(((to - from - 1) << 3) | 2);
    writeSteps(coords, from + 1, to);
    if (kind === Kind.polygon) out.small((1 << 3) | 7);
  }
}
