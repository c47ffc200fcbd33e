// Inputs by chance, the same for the same seed: bytes flipped, cut and copied, texts spliced, JSON spoilt.

/** A generator of numbers from 0 to 1 (Marsaglia 2003, xorshift, 32 bits). */
export function randomFrom(seed) {
  let state = (seed * 2654435761) % 4294967296 || 1;
  return () => {
    state ^= state << 13;
    state ^= state >>> 17;
    state ^= state << 5;
    return (state >>> 0) / 4294967296;
  };
}

export const pick = (random, list) => list[Math.floor(random() * list.length)];

/** Bytes with some of them changed, taken out, doubled, or made as large as can be. */
export function spoilBytes(random, source) {
  let out = source.slice(0, random() < 0.2 ? Math.ceil(random() * source.length) : source.length);
  for (let k = Math.floor(random() * 6); k >= 0; k--) {
    const at = Math.floor(random() * out.length);
    const way = random();
    if (way < 0.5) out[at] = Math.floor(random() * 256);
    else if (way < 0.65) out.fill(0xff, at, at + 1 + Math.floor(random() * 9));
    else if (way < 0.8) {
      const length = Math.floor(random() * 40);
      out.copyWithin(at, Math.floor(random() * out.length), Math.floor(random() * out.length) + length);
    } else if (out.length < 1e6) {
      const length = 1 + Math.floor(random() * 30);
      const longer = new Uint8Array(out.length + length);
      longer.set(out.subarray(0, at));
      longer.set(out.subarray(at, at + length), at);
      longer.set(out.subarray(at), at + length);
      out = longer;
    }
  }
  return out;
}

const oddTexts = [
  '',
  '\u0000',
  '(',
  ')',
  '"',
  "'",
  '[',
  '}',
  '%',
  '%%%%%%%%',
  '1e999',
  '-1e308',
  'NaN',
  '\u202e',
  '\ud800',
  'constructor',
  '__proto__',
  '<script>',
  '&amp;',
  '../',
  '\n',
  '9'.repeat(400),
];

/** What opens a level of some language, and what closes it. */
const levels = [
  ['(', ')'],
  ['[', ']'],
  ['{"a":', '}'],
  ['{"op":"not","args":[', ']}'],
  ['{"type":"GeometryCollection","geometries":[', ']}'],
  ['NOT ', ''],
  ['-', ''],
  ['- ', ''],
  ['upper(', ')'],
  ['GEOMETRYCOLLECTION (', ')'],
  ['<a>', '</a>'],
  ['<MultiGeometry>', '</MultiGeometry>'],
  ['<Not>', '</Not>'],
  ['A[', ']'],
];
/** What may be repeated side by side. */
const siblings = [
  '+a',
  ' AND a = 1',
  ' OR a = 1',
  '^2',
  ',1',
  ', (1, 2)',
  '"type":1,',
  '&q=1',
  '&bbox=1',
  '<b/>',
  ' '.repeat(50),
  '\n',
];
const extremes = [
  '12345678901234567890',
  '-9007199254740993',
  '1e308',
  '-1e-320',
  '0.1000000000000000055511151231257827',
  '00',
  '+1',
];

/** A text that is far deeper, broader or longer than any that is meant, or full of numbers at the edge of what there is. */
export function stretchText(random, source) {
  const at = Math.floor(random() * (source.length + 1));
  const many = Math.floor(10 ** (1 + random() * 3.3));
  const way = random();
  let inner;
  if (way < 0.45) {
    const [open, close] = pick(random, levels);
    const count = Math.min(many, Math.floor(60000 / (open.length + close.length)));
    if (random() < 0.3) return open.repeat(count) + source + close.repeat(count);
    inner = open.repeat(count) + (random() < 0.5 ? '1' : 'a') + close.repeat(random() < 0.8 ? count : 0);
  } else if (way < 0.7) inner = pick(random, siblings).repeat(Math.min(many, 4000));
  else if (way < 0.85) inner = pick(random, ['a', '9', 'é', '"', "'", '%', '\\', '\u202e']).repeat(many);
  else return source.replace(/-?\d+(\.\d+)?/g, (number) => (random() < 0.3 ? pick(random, extremes) : number));
  return source.slice(0, at) + inner + source.slice(at);
}

/** A text with pieces taken out, put in, doubled and swapped; now and then stretched instead. */
export function spoilText(random, source, others = []) {
  if (random() < 0.12) return stretchText(random, source);
  let out = source;
  for (let k = Math.floor(random() * 4); k >= 0; k--) {
    const [a, b] = [Math.floor(random() * (out.length + 1)), Math.floor(random() * 24)];
    const way = random();
    if (way < 0.25) out = out.slice(0, a) + out.slice(a + b);
    else if (way < 0.55) out = out.slice(0, a) + pick(random, oddTexts) + out.slice(a);
    else if (way < 0.7)
      out = out.slice(0, a) + out.slice(a, a + b).repeat(1 + Math.floor(random() * 40)) + out.slice(a);
    else if (way < 0.85 && others.length) {
      const other = pick(random, others);
      const from = Math.floor(random() * other.length);
      out = out.slice(0, a) + other.slice(from, from + 2 * b) + out.slice(a + b);
    } else out = `${out.slice(0, a)}${String.fromCharCode(Math.floor(random() * 0xffff))}${out.slice(a + 1)}`;
    if (out.length > 20000) out = out.slice(0, 20000);
  }
  return out;
}

const odd = [null, '', 'none', -1, 0, 1e9, 1e308, NaN, true, [], {}, [[]], [null], { by: 'x' }, { is: '(' }, undefined];

/** A JSON value with places changed, taken away, added and nested. */
export function spoilJson(random, node, depth = 0) {
  if (typeof node !== 'object' || node === null || random() < 0.08) {
    if (typeof node === 'string' && random() < 0.5) return spoilText(random, node);
    if (random() < 0.05) {
      let deep = 1;
      const kind = random();
      for (let k = Math.floor(10 ** (1 + random() * 3.3)); k > 0; k--)
        deep =
          kind < 0.3
            ? [deep]
            : kind < 0.6
              ? { args: deep }
              : kind < 0.8
                ? { op: 'not', args: [deep] }
                : { type: 'GeometryCollection', geometries: [deep] };
      return deep;
    }
    return pick(random, odd);
  }
  if (depth > 40) return node;
  if (Array.isArray(node)) {
    if (!node.length || random() < 0.1) return [...node, pick(random, odd)];
    const at = Math.floor(random() * node.length);
    return node.map((one, i) => (i === at ? spoilJson(random, one, depth + 1) : one));
  }
  const keys = Object.keys(node);
  if (!keys.length || random() < 0.08) return { ...node, [pick(random, ['constructor', 'toString', 'x', 'type'])]: 1 };
  const key = pick(random, keys);
  if (random() < 0.1) return Object.fromEntries(Object.entries(node).filter(([name]) => name !== key));
  return { ...node, [key]: spoilJson(random, node[key], depth + 1) };
}
