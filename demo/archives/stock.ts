/**
 * Writes the stock: `stock.toc`, a table of packages with the time each was made, and `stock.cache` with the packages. The
 * game makes a package again when its time is older than that of what it was made from.
 */
import { crc32 } from '@node-rs/crc32';
import { compressSync } from 'lz4-napi';
import { ByteBuilder } from './byte-builder';
import type { ArchiveEntry, ArchiveFile } from './entry';

export interface StockPackage extends ArchiveEntry {
  /** Milliseconds since 1970. */
  readonly time: number;
}

export function writeStock(packages: readonly StockPackage[]): ArchiveFile[] {
  const cache = new ByteBuilder();
  const rows = new ByteBuilder();
  for (const { path, bytes, time } of packages) {
    cache.align(256, 0xcd);
    // The library keeps the plain size in front of the block.
    const packed = compressSync(Buffer.from(bytes)).subarray(4);
    const stored = packed.length < bytes.length ? packed : bytes;
    rows
      .textZ(path)
      .u64(time)
      .u64(cache.length)
      .u32(stored.length + 16)
      .u32(bytes.length)
      .u8(stored === packed ? 1 : 0);
    cache.text('PACK').u64(time).u32(crc32(stored)).raw(stored);
  }
  const toc = new ByteBuilder()
    .text('STOC')
    .u16(3)
    .u32(packages.length)
    .u32(rows.length)
    .raw(rows.bytes())
    .text('COTS');
  return [
    { name: 'stock.toc', bytes: toc.bytes() },
    { name: 'stock.cache', bytes: cache.bytes() },
  ];
}
