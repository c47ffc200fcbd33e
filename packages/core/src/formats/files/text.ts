import { Fault } from '../../base/fault.js';
import type { WarningList } from './warnings.js';

const bom = (bytes: Uint8Array): 'utf-8' | 'utf-16le' | 'utf-16be' | undefined => {
  if (bytes[0] === 0xef && bytes[1] === 0xbb && bytes[2] === 0xbf) return 'utf-8';
  if (bytes[0] === 0xff && bytes[1] === 0xfe) return 'utf-16le';
  if (bytes[0] === 0xfe && bytes[1] === 0xff) return 'utf-16be';
  return undefined;
};

/** UTF-16 without a mark: every other byte of its beginning is nought. */
function silentUtf16(bytes: Uint8Array): 'utf-16le' | 'utf-16be' | undefined {
  const head = bytes.subarray(0, 256);
  if (head.length < 4) return undefined;
  const noughts = [0, 0];
  head.forEach((byte, i) => (noughts[i % 2] += byte === 0 ? 1 : 0));
  const half = head.length / 2;
  if (noughts[1] > 0.7 * half && noughts[0] < 0.1 * half) return 'utf-16le';
  return noughts[0] > 0.7 * half && noughts[1] < 0.1 * half ? 'utf-16be' : undefined;
}

/** The encoding that an XML document declares (XML 1.0, section 4.3.3). */
const declared = (bytes: Uint8Array): string | undefined =>
  /^\s*<\?xml[^>]*\sencoding=["']([\w.:-]+)["']/.exec(String.fromCharCode(...bytes.subarray(0, 200)))?.[1];

function decoded(bytes: Uint8Array, encoding: string): string {
  try {
    return new TextDecoder(encoding).decode(bytes);
  } catch (error) {
    throw new Fault(
      'text.encoding',
      `the encoding "${encoding}" is not known`,
      'Write the file again as UTF-8.',
      undefined,
      error,
    );
  }
}

/**
 * The text in some bytes. A byte order mark decides, then the declaration of an XML document, then whether the bytes are UTF-8;
 * what is not is read as Windows-1252.
 *
 * @param bytes the whole file
 * @param warnings takes what was guessed
 */
export function decodeText(bytes: Uint8Array, warnings: WarningList): string {
  const marked = bom(bytes);
  const wide = marked ?? silentUtf16(bytes);
  if (wide && wide !== 'utf-8') {
    if (bytes.length % 2)
      warnings.add('mended.half-character', 'the UTF-16 text ends in half a character', 'The odd byte was dropped.');
    return decoded(bytes.subarray(0, bytes.length - (bytes.length % 2)), wide);
  }
  const said = declared(bytes);
  if (said && !/^utf-?8$/i.test(said) && !marked) return decoded(bytes, said);
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    // No UTF-8: the bytes are taken for the commonest of the older encodings, and the reader is told.
    warnings.add(
      marked ? 'mended.byte-order-mark' : 'mended.encoding',
      marked ? 'the file is marked as UTF-8, and is not' : 'the text is not UTF-8',
      'It was read as Windows-1252. If letters look wrong, write it again as UTF-8.',
      `byte ${firstNonUtf8(bytes)}`,
    );
    return decoded(marked ? bytes.subarray(3) : bytes, 'windows-1252');
  }
}

/** Offset of the first byte that cannot stand in UTF-8 (RFC 3629, section 4). */
function firstNonUtf8(bytes: Uint8Array): number {
  for (let i = 0; i < bytes.length;) {
    const lead = bytes[i];
    const more =
      lead < 0x80 ? 0 : lead >= 0xc2 && lead < 0xe0 ? 1 : (lead & 0xf0) === 0xe0 ? 2 : (lead & 0xf8) === 0xf0 ? 3 : -1;
    if (more < 0) return i;
    for (let k = 1; k <= more; k++) if ((bytes[i + k] & 0xc0) !== 0x80) return i;
    i += more + 1;
  }
  return bytes.length;
}
