import { Fault } from '../../base/fault.js';

/** Code pages by the language driver byte of a .dbf file (offset 29 of its header). */
const drivers: Readonly<Record<number, string>> = {
  0x01: '437',
  0x02: '850',
  0x03: '1252',
  0x08: '865',
  0x09: '437',
  0x0a: '850',
  0x0b: '437',
  0x0d: '437',
  0x0e: '850',
  0x0f: '437',
  0x10: '850',
  0x11: '437',
  0x12: '850',
  0x13: '932',
  0x14: '850',
  0x15: '437',
  0x16: '850',
  0x17: '865',
  0x18: '437',
  0x19: '437',
  0x1a: '850',
  0x1b: '437',
  0x1c: '863',
  0x1d: '850',
  0x1f: '852',
  0x22: '852',
  0x23: '852',
  0x24: '860',
  0x25: '850',
  0x26: '866',
  0x37: '850',
  0x40: '852',
  0x4d: '936',
  0x4e: '949',
  0x4f: '950',
  0x50: '874',
  0x57: '1252',
  0x58: '1252',
  0x59: '1252',
  0x64: '852',
  0x65: '866',
  0x66: '865',
  0x67: '861',
  0x6a: '737',
  0x6b: '857',
  0x6c: '863',
  0x78: '950',
  0x79: '949',
  0x7a: '936',
  0x7b: '932',
  0x7c: '874',
  0x7d: '1255',
  0x7e: '1256',
  0x86: '737',
  0x87: '852',
  0x88: '857',
  0xc8: '1250',
  0xc9: '1251',
  0xca: '1254',
  0xcb: '1253',
  0xcc: '1257',
};

export const driverCodePage = (driver: number): string | undefined => drivers[driver];

/** What a .cpg file or a driver byte says, as the name of an encoding (WHATWG Encoding) or of a code page of DOS. */
function encodingOf(codePage: string): string {
  const text = codePage.trim().toLowerCase();
  if (text === '65001' || /^utf[-_ ]?8$/.test(text)) return 'utf-8';
  const iso = /^(?:iso[-_ ]?)?8859[-_ ]?(\d{1,2})$/.exec(text);
  if (iso) return `iso-8859-${iso[1]}`;
  const number = /(\d{3,5})$/.exec(text)?.[1];
  if (number === undefined) return text;
  const asian: Readonly<Record<string, string>> = { 932: 'shift_jis', 936: 'gbk', 949: 'euc-kr', 950: 'big5' };
  if (asian[number]) return asian[number];
  return /^125\d$|^874$/.test(number) ? `windows-${number}` : number === '866' ? 'ibm866' : `cp${number}`;
}

/** Decodes the texts of a table. */
export type Decode = (bytes: Uint8Array) => string;

/**
 * A decoder for a code page, such as `UTF-8`, `1252`, `ISO 88591`, `OEM 850`; undefined for one that is not known.
 *
 * @param codePage as a .cpg file or {@link driverCodePage} names it
 */
export async function decoderFor(codePage: string): Promise<Decode | undefined> {
  const encoding = encodingOf(codePage);
  try {
    const decoder = new TextDecoder(encoding);
    return (bytes) => decoder.decode(bytes);
  } catch {
    // The platform knows the encodings of the web; those of DOS come out of a table.
    const { default: tables } = await import('iconv-lite/encodings/sbcs-data-generated.js');
    const table = tables[encoding];
    if (typeof table !== 'object') return undefined;
    const upper = [...table.chars];
    return (bytes) =>
      Array.from(bytes, (byte) => (byte < 128 ? String.fromCharCode(byte) : upper[byte - 128])).join('');
  }
}

/** @throws Fault `shapefile.encoding` for a code page that is not known */
export async function knownDecoder(codePage: string): Promise<Decode> {
  const decode = await decoderFor(codePage);
  if (decode) return decode;
  throw new Fault(
    'shapefile.encoding',
    `the code page "${codePage}" is not known`,
    'Name another, such as UTF-8 or 1252.',
  );
}
