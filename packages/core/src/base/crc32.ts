const table = Uint32Array.from({ length: 256 }, (_, n) => {
  let c = n;
  for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1;
  return c;
});

/**
 * The checksum of ZIP and gzip (ISO 3309; RFC 1952, section 8).
 *
 * @param bytes that it is of
 * @param before checksum of what stands before them; default nothing does
 */
export function crc32(bytes: Uint8Array, before = 0): number {
  let c = ~before;
  for (let i = 0; i < bytes.length; i++) c = table[(c ^ bytes[i]) & 0xff] ^ (c >>> 8);
  return ~c >>> 0;
}
