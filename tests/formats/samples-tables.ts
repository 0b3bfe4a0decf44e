/** Formats with a table of entries: in front, at the end, in arrays side by side, with pools, sorted, hashed. */
import { createHash } from 'node:crypto';
import * as zlib from 'node:zlib';
import { ByteBuilder } from '../../demo/archives/byte-builder';
import { example } from './example';
import type { SampleFormat } from './sample';

const crc = (bytes: Uint8Array): number => {
  let value = 0xffffffff;
  for (const byte of bytes) {
    value ^= byte;
    for (let bit = 0; bit < 8; bit++) value = value & 1 ? (value >>> 1) ^ 0xedb88320 : value >>> 1;
  }
  return ~value >>> 0;
};

export const endFooter: SampleFormat = {
  name: 'an index at the end, found through a footer, names in a pool',
  grows: true,
  removes: true,
  recipe: example('end-footer'),
  make: (entries) => {
    const out = new ByteBuilder();
    const rows = entries.map(({ path, bytes }) => {
      out.align(8, 0xee);
      const packed = zlib.deflateRawSync(bytes);
      const stored = packed.length < bytes.length ? packed : bytes;
      const at = out.length;
      out.raw(stored);
      return { path, at, stored, bytes };
    });
    const namesAt = out.length;
    const offsets = new Map<string, number>();
    for (const { path } of rows) {
      offsets.set(path, out.length - namesAt);
      out.textZ(path);
    }
    const namesLength = out.length - namesAt;
    const indexAt = out.length;
    for (const { path, at, stored, bytes } of rows) {
      const packed = stored.length !== bytes.length;
      out
        .varint(offsets.get(path)!)
        .u64(at)
        .varint(stored.length)
        .varint(bytes.length)
        .u8(packed ? 1 : 0);
      if (packed) out.u32(crc(bytes));
    }
    out.u32(namesAt).u32(namesLength).u32(indexAt).u32(rows.length).text('FOOT');
    return [{ name: 'sample.foot', bytes: out.bytes() }];
  },
};

function fnv(text: string): bigint {
  let hash = 0xcbf29ce484222325n;
  for (const byte of Buffer.from(text)) hash = BigInt.asUintN(64, (hash ^ BigInt(byte)) * 0x100000001b3n);
  return hash;
}

function withHead(volume: ByteBuilder, number: number, count: number): Uint8Array {
  const bytes = Buffer.from(volume.bytes());
  bytes.write('HVOL', 0, 'latin1');
  bytes.writeUInt16BE(number, 4);
  bytes.writeUInt16BE(count, 6);
  bytes.writeUInt32BE(crc(bytes), 8);
  return bytes;
}

export const hashedVolumes: SampleFormat = {
  name: 'an index with hashed names and numbered volumes of sectors',
  grows: true,
  removes: true,
  hashed: true,
  recipe: example('hashed-volumes'),
  make: (entries) => {
    // A volume begins with twelve bytes about it, written when it is full.
    const fresh = () => new ByteBuilder(false).fill(12);
    const volumes: ByteBuilder[] = [fresh()];
    const counts = [0];
    const rows = entries.map(({ path, bytes }) => {
      let volume = volumes.at(-1)!;
      volume.align(512);
      if (volume.length > 512 && volume.length + bytes.length > 8192) {
        volumes.push((volume = fresh()));
        volume.align(512);
        counts.push(0);
      }
      counts[volumes.length - 1]!++;
      const sector = volume.length / 512;
      volume.raw(bytes);
      const hash = fnv(path.replaceAll('/', '\\').toLowerCase());
      return { hash, sector, volume: volumes.length - 1, size: bytes.length };
    });
    rows.sort((a, b) => (a.hash < b.hash ? -1 : 1));
    const table = new ByteBuilder(false);
    for (const { hash, sector, volume, size } of rows)
      table
        .u64(hash)
        .u32(sector + volume * 0x1000000)
        .u24(size);
    const main = new ByteBuilder(false).text('HV01').u32(rows.length).u16(volumes.length);
    main.raw(createHash('sha1').update(table.bytes()).digest()).raw(table.bytes());
    return [
      { name: 'world.idx', bytes: main.bytes() },
      ...volumes.map((one, i) => ({
        name: `world.${String(i).padStart(3, '0')}`,
        bytes: withHead(one, i, counts[i]!),
      })),
    ];
  },
};

export const arraysBeside: SampleFormat = {
  name: 'arrays side by side, offsets as differences, endianness told by the file, time stamps, a hash over the whole file',
  ordered: true,
  grows: true,
  removes: true,
  recipe: example('arrays-beside'),
  make: (entries) => {
    const big = entries.length % 2 === 1;
    const names = new ByteBuilder(!big);
    for (const { path } of entries) {
      const bytes = Buffer.from(path, 'utf16le');
      names.u8(path.length).raw(big ? bytes.swap16() : bytes);
    }
    const start = 28 + entries.length * 12 + names.length;
    const data = new ByteBuilder();
    const gaps = new ByteBuilder(!big);
    const sizes = new ByteBuilder(!big);
    const times = new ByteBuilder(!big);
    const aligned = Math.ceil(start / 4) * 4;
    let end = aligned;
    data.fill(aligned - start, 0xff);
    for (const [i, { bytes }] of entries.entries()) {
      const at = Math.ceil(end / 4) * 4;
      data.fill(at - end, 0xff).raw(bytes);
      gaps.u32(at - end);
      sizes.u32(bytes.length);
      times.u32(1_700_000_000 + i);
      end = at + bytes.length;
    }
    const whole = (check: Uint8Array) =>
      new ByteBuilder(!big)
        .text(big ? 'MM' : 'II')
        .u16(2)
        .u32(entries.length)
        .u32(names.length)
        .raw(check)
        .raw(gaps.bytes())
        .raw(sizes.bytes())
        .raw(times.bytes())
        .raw(names.bytes())
        .raw(data.bytes())
        .bytes();
    const check = createHash('md5')
      .update(whole(new Uint8Array(16)))
      .digest();
    return [{ name: 'sample.arr', bytes: whole(check) }];
  },
};
