/** Writes parcels, each an archive with a thumbnail of its own, and `parcels.set`, which holds them. */
import { crc32 } from '@node-rs/crc32';
import { deflateSync } from 'node:zlib';
import { ByteBuilder } from './byte-builder';
import type { ArchiveEntry } from './entry';

/** A parcel: its title, then its files, of which the first is the thumbnail. */
export function writeParcel(title: string, entries: readonly ArchiveEntry[]): Uint8Array {
  const out = new ByteBuilder(false).text('PRCL').u16(entries.length).text8(title).align(4);
  for (const { path, bytes } of entries) {
    const packed = path.endsWith('.png') ? bytes : deflateSync(bytes, { level: 9 });
    const stored = packed.length < bytes.length ? packed : bytes;
    out
      .text8(path)
      .u8(stored === bytes ? 0 : 1)
      .u32(stored.length)
      .u32(bytes.length)
      .raw(stored)
      .align(4);
  }
  return out.text('DONE').bytes();
}

const NAME_BYTES = 24;

/** The set: a table of names, places and checksums, then the parcels at multiples of 64. */
export function writeSet(parcels: readonly ArchiveEntry[]): Uint8Array {
  const head = new ByteBuilder(false).text('PSET').u16(1).u16(parcels.length);
  const data = new ByteBuilder(false).fill(8 + parcels.length * (NAME_BYTES + 12)).align(64);
  const start = data.length;
  for (const { path, bytes } of parcels) {
    data.align(64);
    head.fixed(path, NAME_BYTES).u32(data.length).u32(bytes.length).u32(crc32(bytes));
    data.raw(bytes);
  }
  return Buffer.concat([head.bytes(), Buffer.alloc(start - head.length), data.bytes().subarray(start)]);
}
