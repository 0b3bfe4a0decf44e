/** Reads a world index and its volumes as the game does: entries are found by the hash of their path. */
import { createHash } from 'node:crypto';
import { decompress } from 'fzstd';
import { checkStretches, Walk, type Stretch } from './walk';

const SECTOR = 512;
const BLOCK = 64 << 10;
const ROW_BYTES = 16;

export interface World {
  readonly file: string;
  readonly hashes: readonly bigint[];
  /** @throws LoadStop when the entry does not decode; undefined when there is none of that path */
  bytes(path: string): Buffer | undefined;
}

interface Row {
  readonly volume: Walk;
  readonly at: number;
  readonly end: number;
  readonly size: number;
}

/** @param volume gives the bytes of a numbered volume, or undefined when it is missing */
export function readWorld(
  file: string,
  index: Buffer,
  volume: (number: number) => { file: string; bytes: Buffer } | undefined,
): World {
  const walk = new Walk(file, 'WORLD', index);
  walk.magic('WIDX');
  walk.is('VERSION', 2, walk.u16(), 4, 'This game reads version 2.');
  const volumeCount = walk.u16();
  const count = walk.u32();
  walk.is('SECTOR', SECTOR, walk.u32(), 12, `A sector has ${SECTOR} bytes.`);
  const sum = walk.take(20).toString('hex');
  const table = index.subarray(walk.at);
  walk.is('SUM', createHash('sha1').update(table).digest('hex'), sum, 16, 'The SHA-1 of the table agrees.');
  walk.is('ROWS', count * ROW_BYTES, table.length, 8, 'The index has as many rows as its head says.');
  const volumes = Array.from({ length: volumeCount }, (_, number) => {
    const found = volume(number);
    if (found === undefined) return walk.stop('VOLUME', 6, 'Every volume is there.', `no volume ${number}`);
    return new Walk(found.file, 'WORLD', found.bytes);
  });
  const rows = new Map<bigint, Row>();
  let before = -1n;
  for (let i = 0; i < count; i++) {
    const at = walk.at;
    const hash = walk.u64();
    if (hash <= before) walk.stop('SORT', at, 'Rows are sorted by their hash.', hash);
    before = hash;
    const place = walk.u32();
    const size = walk.u32();
    const inside = volumes[place >>> 24];
    if (inside === undefined) return walk.stop('VOLUME', at + 8, 'A row names a volume.', place >>> 24);
    const start = (place & 0xffffff) * SECTOR;
    rows.set(hash, { volume: inside, at: start, end: endOf(inside, start, size), size });
  }
  for (const one of volumes) {
    const stretches: Stretch[] = [...rows.values()].filter((row) => row.volume === one);
    checkStretches(one, stretches, { from: 0, align: SECTOR, fill: 0 });
  }
  return {
    file,
    hashes: [...rows.keys()],
    bytes: (path) => {
      const row = rows.get(pathHash(path));
      return row === undefined ? undefined : decode(row);
    },
  };
}

function endOf(volume: Walk, start: number, size: number): number {
  volume.at = start;
  const blocks = Math.ceil(size / BLOCK);
  let end = start + blocks * 4;
  for (let i = 0; i < blocks; i++) end += volume.u32() & 0x7fffffff;
  return end;
}

function decode({ volume, at, size }: Row): Buffer {
  volume.at = at;
  const sizes = Array.from({ length: Math.ceil(size / BLOCK) }, () => volume.u32());
  const blocks = sizes.map((kept, i) => {
    const start = volume.at;
    const stored = volume.take(kept & 0x7fffffff);
    const plain = kept >>> 31 === 1 ? stored : unpack(volume, start, stored);
    const wanted = Math.min(BLOCK, size - i * BLOCK);
    volume.is('BLOCK', wanted, plain.length, start, 'A block unpacks to its size.');
    return plain;
  });
  return Buffer.concat(blocks);
}

function unpack(volume: Walk, start: number, stored: Buffer): Buffer {
  try {
    return Buffer.from(decompress(stored));
  } catch (error) {
    return volume.stop('UNPACK', start, 'A block is zstd.', (error as Error).message);
  }
}

/** FNV-1a of 64 bits over the path in lower case with backslashes. */
function pathHash(path: string): bigint {
  let hash = 14695981039346656037n;
  for (const byte of Buffer.from(path.replaceAll('/', '\\').toLowerCase(), 'utf8')) {
    hash ^= BigInt(byte);
    hash = (hash * 1099511628211n) & 0xffffffffffffffffn;
  }
  return hash;
}
