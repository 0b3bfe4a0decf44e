/** Reads the stock: a table of packages with times, and the packages next to it. */
import { crc32 } from './crc';
import { decodeLz4Block } from './lz4';
import { checkStretches, Walk } from './walk';

const HEAD_BYTES = 16;

export interface StockPackage {
  readonly path: string;
  /** Milliseconds since 1970. */
  readonly time: number;
  readonly bytes: Buffer;
}

export function readStock(
  file: string,
  toc: Buffer,
  cache: { file: string; bytes: Buffer } | undefined,
): StockPackage[] {
  const walk = new Walk(file, 'STOCK', toc);
  walk.magic('STOC');
  walk.is('VERSION', 3, walk.u16(), 4, 'This game reads version 3.');
  const count = walk.u32();
  const size = walk.u32();
  const start = walk.at;
  const rows = Array.from({ length: count }, () => ({
    path: walk.textZ(),
    time: walk.offset(),
    at: walk.offset(),
    kept: walk.u32(),
    size: walk.u32(),
    how: walk.u8(),
  }));
  walk.is('SIZE', size, walk.at - start, 10, 'The rows are as long as the head says.');
  walk.magic('COTS');
  walk.ended();
  if (cache === undefined) return walk.stop('CACHE', 0, 'The cache is beside its table.', 'nothing');
  const packages = new Walk(cache.file, 'STOCK', cache.bytes);
  checkStretches(
    packages,
    rows.map(({ at, kept }) => ({ at, end: at + kept })),
    { from: 0, align: 256, fill: 0xcd },
  );
  return rows.map((row) => {
    packages.at = row.at;
    packages.magic('PACK');
    packages.is('TIME', row.time, packages.offset(), row.at + 4, 'Table and package were made at the same time.');
    const crc = packages.u32();
    const stored = packages.take(row.kept - HEAD_BYTES);
    packages.is('CRC', crc, crc32(stored), row.at + 12, 'The checksum of a package agrees.');
    if (row.how > 1) packages.stop('HOW', row.at, 'A package is stored or LZ4.', row.how);
    const plain = row.how === 0 ? stored : decodeLz4Block(stored, row.size);
    if (plain?.length !== row.size) packages.stop('UNPACK', row.at, 'A package unpacks to its size.', plain?.length);
    return { path: row.path, time: row.time, bytes: plain! };
  });
}
