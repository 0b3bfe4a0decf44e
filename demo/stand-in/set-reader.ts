/** Reads a set of parcels, and the parcels in it. */
import { inflateSync } from 'node:zlib';
import { crc32 } from './crc';
import { checkStretches, Walk } from './walk';

const NAME_BYTES = 24;

export interface Parcel {
  readonly name: string;
  readonly title: string;
  readonly files: ReadonlyMap<string, Buffer>;
}

export function readSet(file: string, set: Buffer): Parcel[] {
  const walk = new Walk(file, 'SET', set, 'big');
  walk.magic('PSET');
  walk.is('VERSION', 1, walk.u16(), 4, 'This game reads version 1.');
  const count = walk.u16();
  const rows = Array.from({ length: count }, () => ({
    row: walk.at,
    name: walk.fixed(NAME_BYTES),
    at: walk.u32(),
    size: walk.u32(),
    crc: walk.u32(),
  }));
  checkStretches(
    walk,
    rows.map(({ at, size }) => ({ at, end: at + size })),
    { from: walk.at, align: 64, fill: 0 },
  );
  return rows.map(({ row, name, at, size, crc }) => {
    const bytes = set.subarray(at, at + size);
    walk.is('CRC', crc, crc32(bytes), row + NAME_BYTES + 8, 'The checksum of a parcel agrees.');
    return readParcel(file, name, bytes);
  });
}

function readParcel(file: string, name: string, bytes: Buffer): Parcel {
  const walk = new Walk(file, 'PARCEL', bytes, 'big', name);
  const align = () => walk.zeros((4 - (walk.at % 4)) % 4);
  walk.magic('PRCL');
  const count = walk.u16();
  const title = walk.text8();
  align();
  const files = new Map<string, Buffer>();
  for (let i = 0; i < count; i++) {
    const start = walk.at;
    const path = walk.text8();
    if (files.has(path)) walk.stop('TWICE', start, 'A file stands in a parcel once.', path);
    const how = walk.u8();
    if (how > 1) walk.stop('HOW', start, 'A file is stored or zlib.', how);
    const [kept, size] = [walk.u32(), walk.u32()];
    const stored = walk.take(kept);
    const plain = how === 0 ? stored : inflate(walk, start, stored);
    walk.is('SIZE', size, plain.length, start, 'A file unpacks to its size.');
    files.set(path, plain);
    align();
  }
  walk.magic('DONE');
  walk.ended();
  if ([...files.keys()][0] !== 'thumbnail.png')
    walk.stop('THUMBNAIL', 0, 'The first file is the thumbnail.', [...files.keys()][0] ?? 'nothing');
  return { name, title, files };
}

function inflate(walk: Walk, start: number, stored: Buffer): Buffer {
  try {
    return inflateSync(stored, { maxOutputLength: 16 << 20 });
  } catch (error) {
    return walk.stop('UNPACK', start, 'A packed file is zlib.', (error as Error).message);
  }
}
