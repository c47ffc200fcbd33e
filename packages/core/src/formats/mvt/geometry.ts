import { Kind } from '../../features/block.js';

/** Where decoded geometry goes; the arrays are large enough for the worst case of the bytes given. */
export interface GeometrySink {
  readonly coords: Int32Array;
  readonly ringStarts: Uint32Array;
  readonly partRings: Uint32Array;
  vertices: number;
  rings: number;
  parts: number;
}

export interface GeometryFault {
  readonly code: string;
  readonly message: string;
  readonly offset: number;
}

const moveTo = 1;
const lineTo = 2;
const closePath = 7;

/**
 * Decodes one command list (vector tile encoding 2.1, section 4.3) onto the end of the sink. Returns what is
 * wrong with it, if anything; the sink then stands as it stood before. Rings of no area are left out with a
 * fault only when they are the first of a feature (a hole without a polygon).
 *
 * @param eitherWay whether outer rings may run either way, as in version 1 of the encoding: the first ring is then an outer one, and where it
 *   runs the other way, all rings of the feature are turned
 */
export function readGeometry(
  bytes: Uint8Array,
  from: number,
  end: number,
  kind: Kind,
  sink: GeometrySink,
  eitherWay = false,
): GeometryFault | undefined {
  const { coords, ringStarts, partRings } = sink;
  let { vertices, rings, parts } = sink;
  let pos = from;
  let x = 0;
  let y = 0;
  let ringFrom = vertices;
  let open = false;
  let outerSeen = false;
  let isTurned = false;
  // Twice the area of the open ring, gathered on the way (the surveyor's formula around the ring's first vertex).
  let area = 0;
  let startX = 0;
  let startY = 0;
  while (pos < end) {
    let head = bytes[pos++];
    if (head > 127) {
      head &= 0x7f;
      for (let shift = 7; ; shift += 7) {
        if (pos >= end || shift > 28) return wrong(pos, 'mvt.geometry.truncated', 'the geometry ends inside a command');
        const byte = bytes[pos++];
        head |= (byte & 0x7f) << shift;
        if (byte < 128) break;
      }
      head >>>= 0;
    }
    const command = head & 7;
    const repeat = head >>> 3;
    if (command === closePath) {
      if (kind !== Kind.polygon) return wrong(pos, 'mvt.geometry.close', 'ClosePath outside a polygon (4.3.3)');
      if (repeat !== 1) return wrong(pos, 'mvt.geometry.count', `ClosePath with count ${repeat} (4.3.3.3: 1)`);
      if (!open) return wrong(pos, 'mvt.geometry.close', 'ClosePath without an open ring');
      if (vertices - ringFrom < 3)
        return wrong(pos, 'mvt.geometry.ring', `a ring of ${vertices - ringFrom} vertices (4.3.4.4: at least 3)`);
      open = false;
      if (area === 0) {
        vertices = ringFrom;
        continue;
      }
      if (eitherWay && !outerSeen && area < 0) isTurned = true;
      if (isTurned) {
        area = -area;
        turn(coords, ringFrom, vertices);
      }
      if (area > 0) {
        partRings[parts++] = rings;
        outerSeen = true;
      } else if (!outerSeen)
        return wrong(pos, 'mvt.geometry.winding', 'the first ring is a hole (4.3.4.4: outer rings have positive area)');
      ringStarts[rings++] = ringFrom;
      continue;
    }
    if (command !== moveTo && command !== lineTo)
      return wrong(pos, 'mvt.geometry.command', `command ${command} does not exist (4.3.1: 1, 2 and 7)`);
    if (repeat === 0) return wrong(pos, 'mvt.geometry.count', 'a command with count 0');
    if (command === moveTo) {
      if (kind !== Kind.point) {
        if (repeat !== 1)
          return wrong(pos, 'mvt.geometry.count', `MoveTo with count ${repeat} in a line or polygon (4.3.4: 1)`);
        if (kind === Kind.line && open) {
          if (vertices - ringFrom < 2)
            return wrong(pos, 'mvt.geometry.line', 'a line of one vertex (4.3.4.3: at least 2)');
          partRings[parts++] = rings;
          ringStarts[rings++] = ringFrom;
        } else if (kind === Kind.polygon && open)
          return wrong(pos, 'mvt.geometry.close', 'a ring that is not closed (4.3.4.4)');
        ringFrom = vertices;
        open = true;
      }
    } else if (!open) return wrong(pos, 'mvt.geometry.start', 'LineTo before any MoveTo (4.3.4)');
    if (repeat * 2 > end - pos)
      return wrong(
        pos,
        'mvt.geometry.truncated',
        `a command promises ${repeat} vertices and the geometry ends before them`,
      );
    let at = 2 * vertices;
    const until = at + 2 * repeat;
    // Both ends of the edge being read, from the ring's first vertex.
    let u = x - startX;
    let v = y - startY;
    while (at < until) {
      // Two zigzag numbers; those below 128 take one byte each, the common case.
      let dx = bytes[pos++];
      if (dx > 127) {
        let byte = bytes[pos++];
        dx = (dx & 0x7f) | ((byte & 0x7f) << 7);
        for (let shift = 14; byte > 127; shift += 7) {
          if (shift > 28 || pos >= end)
            return wrong(pos, 'mvt.geometry.truncated', 'the geometry ends inside a number');
          byte = bytes[pos++];
          dx |= (byte & 0x7f) << shift;
        }
      }
      let dy = bytes[pos++];
      if (dy > 127) {
        let byte = bytes[pos++];
        dy = (dy & 0x7f) | ((byte & 0x7f) << 7);
        for (let shift = 14; byte > 127; shift += 7) {
          if (shift > 28 || pos >= end)
            return wrong(pos, 'mvt.geometry.truncated', 'the geometry ends inside a number');
          byte = bytes[pos++];
          dy |= (byte & 0x7f) << shift;
        }
      }
      dx = (dx >>> 1) ^ -(dx & 1);
      dy = (dy >>> 1) ^ -(dy & 1);
      area += u * dy - v * dx;
      // Positions are of 32 bits; saying so keeps the engine from watching for more, which halves the time.
      u = (u + dx) | 0;
      v = (v + dy) | 0;
      x = (x + dx) | 0;
      y = (y + dy) | 0;
      coords[at] = x;
      coords[at + 1] = y;
      at += 2;
    }
    if (pos > end) return wrong(pos, 'mvt.geometry.truncated', 'the geometry ends inside a number');
    if (kind === Kind.point) {
      for (let i = 0; i < repeat; i++) {
        partRings[parts++] = rings;
        ringStarts[rings++] = vertices + i;
      }
    } else if (command === moveTo) {
      startX = x;
      startY = y;
      area = 0;
    }
    vertices += repeat;
  }
  if (kind === Kind.line && open) {
    if (vertices - ringFrom < 2) return wrong(pos, 'mvt.geometry.line', 'a line of one vertex (4.3.4.3: at least 2)');
    partRings[parts++] = rings;
    ringStarts[rings++] = ringFrom;
  } else if (kind === Kind.polygon && open)
    return wrong(pos, 'mvt.geometry.close', 'the last ring is not closed (4.3.4.4)');
  if (parts === sink.parts) return wrong(pos, 'mvt.geometry.empty', 'the geometry has no parts');
  sink.vertices = vertices;
  sink.rings = rings;
  sink.parts = parts;
  return undefined;
}

/** Reverses the vertices of a ring. */
function turn(coords: Int32Array, from: number, end: number): void {
  for (let i = from, j = end - 1; i < j; i++, j--) {
    const [x, y] = [coords[2 * i], coords[2 * i + 1]];
    coords[2 * i] = coords[2 * j];
    coords[2 * i + 1] = coords[2 * j + 1];
    coords[2 * j] = x;
    coords[2 * j + 1] = y;
  }
}

function wrong(offset: number, code: string, message: string): GeometryFault {
  return { code, message, offset };
}
