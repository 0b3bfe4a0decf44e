/** Formats that pack and lock: blocks with tables, seeds from offsets, headers around entries, own steps, solid regions. */
import { createCipheriv } from 'node:crypto';
import * as zlib from 'node:zlib';
import { crc32 } from '@node-rs/crc32';
import { ByteBuilder } from '../../demo/archives/byte-builder';
import { example } from './example';
import type { SampleFormat } from './sample';

const KEY = Uint8Array.from({ length: 16 }, (_, i) => i * 11 + 3);

export const blockTables: SampleFormat = {
  name: 'entries in blocks with a header of their own, some raw, each block locked with its number',
  keys: { content: KEY },
  grows: true,
  removes: true,
  recipe: example('block-tables'),
  make: (entries) => {
    const parcels = entries.map(({ bytes }) => {
      const sizes = new ByteBuilder();
      const body = new ByteBuilder();
      for (let at = 0, i = 0; at < bytes.length; at += 1024, i++) {
        const plain = bytes.subarray(at, at + 1024);
        const packed = zlib.deflateSync(plain);
        const raw = packed.length >= plain.length;
        const iv = Buffer.alloc(16);
        iv.writeUInt32BE(i, 12);
        const stored = createCipheriv('aes-128-ctr', KEY, iv).update(raw ? plain : packed);
        sizes.u32(stored.length + (raw ? 0x80000000 : 0));
        body.raw(stored);
      }
      let value = 0xffffffff;
      for (const byte of bytes) {
        value ^= byte;
        for (let bit = 0; bit < 8; bit++) value = value & 1 ? (value >>> 1) ^ 0xedb88320 : value >>> 1;
      }
      return new ByteBuilder().text('PK').u32(bytes.length).raw(sizes.bytes()).u32(~value).raw(body.bytes()).bytes();
    });
    const tableLength = entries.reduce((sum, { path }) => sum + 10 + Buffer.byteLength(path), 0);
    const data = new ByteBuilder().fill((4 - ((8 + tableLength) % 4)) % 4);
    const table = new ByteBuilder();
    for (const [i, { path }] of entries.entries()) {
      data.align(1);
      while ((8 + tableLength + data.length) % 4 !== 0) data.u8(0);
      table
        .u16(Buffer.byteLength(path))
        .text(path)
        .u32(8 + tableLength + data.length)
        .u32(parcels[i]!.length);
      data.raw(parcels[i]!);
    }
    const out = new ByteBuilder().text('BLKT').u32(entries.length).raw(table.bytes()).raw(data.bytes());
    return [{ name: 'sample.blkt', bytes: out.bytes() }];
  },
};

export const blockList: SampleFormat = {
  name: 'one table of blocks for all entries',
  grows: true,
  removes: true,
  recipe: example('block-list'),
  make: (entries) => {
    // Stored raw, as the format allows: an independent LZ4 packer is not at hand here.
    const blocks = new ByteBuilder();
    const data = new ByteBuilder();
    const rows = new ByteBuilder();
    const counts = entries.map(({ bytes }) => Math.ceil(bytes.length / 512));
    const total = counts.reduce((sum, count) => sum + count, 0);
    const start = 12 + entries.length * 40 + total * 2;
    let first = 0;
    for (const [i, { path, bytes }] of entries.entries()) {
      while ((start + data.length) % 16 !== 0) data.u8(0);
      rows
        .fixed(path, 24)
        .u32(start + data.length)
        .u32(bytes.length)
        .u32(bytes.length)
        .u32(first);
      for (let at = 0; at < bytes.length; at += 512) blocks.u16(Math.min(512, bytes.length - at));
      data.raw(bytes);
      first += counts[i]!;
    }
    const out = new ByteBuilder().text('BLST').u32(entries.length).u32(total);
    out.raw(rows.bytes()).raw(blocks.bytes()).raw(data.bytes());
    return [{ name: 'sample.blst', bytes: out.bytes() }];
  },
};

/** state × 1103515245 + 12345, bits 16 to 23 of it. */
function keystream(bytes: Uint8Array, seed: number): Uint8Array {
  let state = seed >>> 0;
  return bytes.map((byte) => {
    state = (Math.imul(state, 1103515245) + 12345) >>> 0;
    return byte ^ ((state >>> 16) & 0xff);
  });
}

export const offsetSeeds: SampleFormat = {
  name: 'entries scrambled with a seed from their offset, in a table that ends in a sentinel, with tombstones',
  grows: true,
  removes: true,
  recipe: example('offset-seeds'),
  make: (entries) => {
    const out = new ByteBuilder().text('SEED');
    const data = new ByteBuilder();
    const rows = entries.map(({ path, bytes }) => {
      const at = 8 + data.length;
      data.raw(keystream(bytes, at ^ 0x5a5a));
      return { path, at, size: bytes.length };
    });
    out.u32(8 + data.length).raw(data.bytes());
    for (const [i, { path, at, size }] of rows.entries()) {
      if (i === 1) out.u8(2).u8(0);
      out.u8(1).u8(path.length).text(path, 'latin1').u32(at).u32(size);
    }
    out.u8(0);
    return [{ name: 'sample.seed', bytes: out.bytes() }];
  },
};

export const ownStep: SampleFormat = {
  name: 'an index behind a step of the recipe’s own, rows with data inside, unlocked',
  grows: true,
  removes: true,
  recipe: example('own-step'),
  make: (entries) => {
    const inside = new ByteBuilder().u32(entries.length);
    for (const { path, bytes } of entries) {
      const counted = new ByteBuilder().u32(bytes.length).raw(bytes).bytes();
      inside
        .textZ(path)
        .raw(counted)
        .u16(counted.reduce((sum, byte, i) => (sum + byte * (i + 1)) & 0xffff, 0x55));
    }
    const packed = zlib.deflateSync(inside.bytes()).map((byte, i) => (byte + 9 + i) & 0xff);
    const out = new ByteBuilder().text('OWNS').u8(9).u32(packed.length).u32(inside.length).raw(packed);
    return [{ name: 'sample.owns', bytes: out.bytes() }];
  },
};

function fnv64(text: string): bigint {
  let hash = 0xcbf29ce484222325n;
  for (const byte of Buffer.from(text)) hash = BigInt.asUintN(64, (hash ^ BigInt(byte)) * 0x100000001b3n);
  return hash;
}

export const lanternBank: SampleFormat = {
  name: 'a packed index behind a footer, hashed names, sectors with volume bits, raw blocks, a checksum over itself',
  hashed: true,
  grows: true,
  removes: true,
  recipe: example('lantern-bank'),
  make: (entries) => {
    const volumes = [new ByteBuilder(false), new ByteBuilder(false)];
    const rows = entries.map(({ path, bytes }, i) => {
      const volume = volumes[i % 2]!;
      const sector = volume.align(512).length / 512;
      const blocks: Uint8Array[] = [];
      for (let at = 0; at < bytes.length; at += 2048) {
        const plain = bytes.subarray(at, at + 2048);
        const packed = zlib.deflateSync(plain);
        blocks.push(packed.length < plain.length ? packed : plain);
      }
      volume.u32(blocks.length);
      for (const block of blocks) volume.u16(block.length);
      for (const block of blocks) volume.raw(block);
      const hash = fnv64(path.toLowerCase().replaceAll('/', '\\'));
      return { hash, place: sector + (i % 2) * 2 ** 28, size: bytes.length, crc: crc32(bytes) };
    });
    rows.sort((a, b) => (a.hash < b.hash ? -1 : 1));
    const table = new ByteBuilder(false).u32(rows.length);
    for (const { hash, place, size, crc } of rows) table.u64(hash).u32(place).u32(size).u32(crc);
    const index = zlib.deflateSync(table.bytes());
    const whole = (crc: number) =>
      new ByteBuilder(false)
        .text('LNTN')
        .u16(7)
        .u16(0)
        .u32(crc)
        .raw(index)
        .u64(12)
        .u32(index.length)
        .text('NTNL')
        .bytes();
    return [
      { name: 'town.lan', bytes: whole(crc32(whole(0))) },
      ...volumes.map((volume, i) => ({ name: `town.l0${i}`, bytes: volume.bytes() })),
    ];
  },
};

export const packedTogether: SampleFormat = {
  name: 'entries packed together behind a table',
  grows: true,
  removes: true,
  recipe: example('packed-together'),
  make: (entries) => {
    const plain = new ByteBuilder();
    const rows = new ByteBuilder();
    for (const { path, bytes } of entries) {
      plain.align(4);
      rows.text8(path).u32(plain.length).u32(bytes.length);
      plain.raw(bytes);
    }
    const packed = zlib.deflateSync(plain.bytes());
    const head = new ByteBuilder()
      .text('SOLD')
      .u16(entries.length)
      .u32(packed.length)
      .u32(plain.length)
      .u32(crc32(Buffer.from(plain.bytes())));
    return [{ name: 'sample.sold', bytes: head.raw(rows.bytes()).raw(packed).bytes() }];
  },
};
