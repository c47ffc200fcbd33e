import { Growing } from '../../base/growing.js';
import { Kind, valueAt, type FeatureBlock, type Value } from '../../features/block.js';

const encoder = new TextEncoder();

/** Writes the wire form of protocol buffers. */
class WireWriter extends Growing<Uint8Array> {
  constructor(capacity = 1024) {
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

  bytes(field: number, bytes: Uint8Array): void {
    this.varint((field << 3) | 2);
    this.varint(bytes.length);
    this.reserve(bytes.length).set(bytes, this.length);
    this.length += bytes.length;
  }

  nested(field: number, inner: WireWriter): void {
    this.bytes(field, inner.data.subarray(0, inner.length));
  }

  fixed(size: 4 | 8, value: number): void {
    const data = this.reserve(size);
    const view = new DataView(data.buffer, data.byteOffset + this.length, size);
    if (size === 4) view.setFloat32(0, value, true);
    else view.setFloat64(0, value, true);
    this.length += size;
  }
}

/**
 * Writes blocks in tile space as one vector tile (encoding 2.1, layer version 2). Numbers that are whole
 * become integers, others doubles; features that have no geometry are left out, as the encoding asks.
 */
export function writeTile(blocks: readonly FeatureBlock[]): Uint8Array {
  const tile = new WireWriter(4096);
  for (const block of blocks) {
    const layer = writeLayer(block);
    if (layer) tile.nested(3, layer);
  }
  return tile.finish();
}

function writeLayer(block: FeatureBlock): WireWriter | undefined {
  const layer = new WireWriter(4096);
  layer.varint((15 << 3) | 0);
  layer.varint(2);
  layer.bytes(1, encoder.encode(block.name));
  const lookup = new Map<Value, number>();
  const values: Value[] = [];
  const keys: string[] = [];
  const keyOf = new Map<string, number>();
  const feature = new WireWriter();
  const tags = new WireWriter();
  const geometry = new WireWriter();
  let written = 0;
  for (let i = 0; i < block.count; i++) {
    feature.length = tags.length = geometry.length = 0;
    writeGeometry(block, i, geometry);
    if (geometry.length === 0) continue;
    for (const column of block.columns) {
      const value = valueAt(column, i);
      if (value === undefined || value === null) continue;
      let key = keyOf.get(column.name);
      if (key === undefined) keyOf.set(column.name, (key = keys.push(column.name) - 1));
      let at = lookup.get(value);
      if (at === undefined) lookup.set(value, (at = values.push(value) - 1));
      tags.varint(key);
      tags.varint(at);
    }
    const id = block.ids[i];
    if (id >= 0 && Number.isInteger(id)) {
      feature.varint((1 << 3) | 0);
      feature.varint(id);
    }
    if (tags.length) feature.nested(2, tags);
    feature.varint((3 << 3) | 0);
    feature.varint(block.kinds[i]);
    feature.nested(4, geometry);
    layer.nested(2, feature);
    written++;
  }
  if (!written) return undefined;
  for (const key of keys) layer.bytes(3, encoder.encode(key));
  for (const value of values) layer.nested(4, writeValue(value));
  layer.varint((5 << 3) | 0);
  layer.varint(block.extent);
  return layer;
}

function writeValue(value: Value): WireWriter {
  const out = new WireWriter(32);
  if (typeof value === 'string') out.bytes(1, encoder.encode(value));
  else if (typeof value === 'boolean') {
    out.varint((7 << 3) | 0);
    out.varint(value ? 1 : 0);
  } else if (Number.isInteger(value) && Math.abs(value as number) < 2 ** 52) {
    // Beyond that the zigzag form would not be exact in a double.
    const whole = value as number;
    out.varint(((whole < 0 ? 6 : 5) << 3) | 0);
    out.varint(whole < 0 ? -whole * 2 - 1 : whole);
  } else {
    out.varint((3 << 3) | 1);
    out.fixed(8, value as number);
  }
  return out;
}

function writeGeometry(block: FeatureBlock, index: number, out: WireWriter): void {
  const { coords, partRings, ringStarts } = block;
  const kind = block.kinds[index];
  const fromPart = block.featureParts[index];
  const toPart = block.featureParts[index + 1];
  let x = 0;
  let y = 0;
  const vertex = (i: number) => {
    const dx = coords[2 * i] - x;
    const dy = coords[2 * i + 1] - y;
    out.varint(((dx << 1) ^ (dx >> 31)) >>> 0);
    out.varint(((dy << 1) ^ (dy >> 31)) >>> 0);
    x += dx;
    y += dy;
  };
  if (kind === Kind.point) {
    const from = ringStarts[partRings[fromPart]];
    const to = ringStarts[partRings[toPart]];
    if (to > from) out.varint(((to - from) << 3) | 1);
    for (let i = from; i < to; i++) vertex(i);
    return;
  }
  for (let ring = partRings[fromPart]; ring < partRings[toPart]; ring++) {
    const from = ringStarts[ring];
    const to = ringStarts[ring + 1];
    out.varint((1 << 3) | 1);
    vertex(from);
    out.varint(((to - from - 1) << 3) | 2);
    for (let i = from + 1; i < to; i++) vertex(i);
    if (kind === Kind.polygon) out.varint((1 << 3) | 7);
  }
}
