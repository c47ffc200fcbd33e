// Data unpacked by the platform, beside the way that says what is wrong.
import { gzipSync } from 'node:zlib';
import { describe, expect, test } from '@jest/globals';
import type { Fault } from '@flintwright/core';
import { gunzip } from '@flintwright/core';
import { unpack, unpackNatively } from '@flintwright/core/internal';
import { randomFrom } from './sample-random.ts';

const random = randomFrom(31);
const upTo = (most: number) => Math.floor(random() * most);
const sample = () => {
  const letters = 1 + upTo(256);
  return Uint8Array.from({ length: upTo(20_000) }, () => upTo(letters));
};
const codeOf = async (work: () => unknown): Promise<unknown> => {
  try {
    return await work();
  } catch (error) {
    return (error as Fault).code;
  }
};

describe('gzip, unpacked by the platform', () => {
  test('what is packed by another comes back, whole', async () => {
    for (let i = 0; i < 60; i++) {
      const bytes = sample();
      const packed = new Uint8Array(gzipSync(bytes, { level: upTo(10), windowBits: 9 + upTo(7) }));
      const back = await unpackNatively(packed);
      expect(Buffer.compare(back!, bytes)).toBe(0);
      expect(Buffer.compare(await unpack(packed), bytes)).toBe(0);
    }
  });

  test('bytes that are not packed come back as they are', async () => {
    const plain = Uint8Array.of(1, 2, 3);
    expect(await unpack(plain)).toBe(plain);
    expect(await unpack(new Uint8Array())).toEqual(new Uint8Array());
  });

  test('what is packed of nothing is nothing', async () => {
    const packed = new Uint8Array(gzipSync(new Uint8Array()));
    expect(await unpackNatively(packed)).toEqual(new Uint8Array());
    expect(await unpack(packed)).toEqual(new Uint8Array());
    // A mark alone is no data.
    expect(await codeOf(() => unpack(packed.slice(0, 3)))).toBe('gzip.corrupt');
  });

  test('several members, as RFC 1952 (section 2.2) allows, come back whole, whoever unpacks them', async () => {
    const [one, two] = [sample(), sample()];
    const packed = new Uint8Array(Buffer.concat([gzipSync(one), gzipSync(two)]));
    // Some platforms unpack all of them, others none; what there is of it may not be a part.
    const native = await unpackNatively(packed);
    if (native) expect(Buffer.compare(native, Buffer.concat([one, two]))).toBe(0);
    expect(Buffer.compare(await unpack(packed), Buffer.concat([one, two]))).toBe(0);
  });

  test('what is spoilt, cut short or too much is the same fault as ever', async () => {
    let faults = 0;
    for (let i = 0; i < 150; i++) {
      const packed = new Uint8Array(gzipSync(sample()));
      const spoilt = packed.slice(0, i % 3 ? packed.length : upTo(packed.length));
      if (i % 3) spoilt[upTo(spoilt.length)] ^= 1 << upTo(8);
      const careful = await codeOf(() => Buffer.from(gunzip(spoilt)).toString('hex'));
      const quick = await codeOf(async () => Buffer.from(await unpack(spoilt)).toString('hex'));
      expect(quick).toBe(careful);
      if (careful === 'gzip.corrupt') faults++;
    }
    expect(faults).toBeGreaterThan(60);
    const much = new Uint8Array(gzipSync(new Uint8Array(1 << 20)));
    expect(await unpackNatively(much, 1 << 19)).toBe(undefined);
    expect(await codeOf(() => unpack(much, 'there', 1 << 19))).toBe('gzip.large');
    expect(await codeOf(() => unpack('text' as never))).toBe('gzip.corrupt');
  });
});
