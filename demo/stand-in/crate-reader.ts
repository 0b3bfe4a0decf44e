/** Reads a crate of props: objects by their number, large ones from the file next to it. */
import { crc32 } from './crc';
import { checkStretches, Walk } from './walk';

export interface Prop {
  readonly id: bigint;
  readonly type: string;
  readonly name: string;
  readonly bytes: Buffer;
}

export function readCrate(file: string, crate: Buffer, bulk: { file: string; bytes: Buffer } | undefined): Prop[] {
  const walk = new Walk(file, 'CRATE', crate);
  walk.magic('CRAT');
  walk.is('VERSION', 5, walk.u16(), 4, 'This game reads version 5.');
  const typeCount = walk.u16();
  const count = walk.u32();
  const typeSize = walk.u32();
  const nameSize = walk.u32();
  walk.take(12);
  const typesEnd = walk.at + typeSize;
  const types = Array.from({ length: typeCount }, () => walk.text8());
  walk.is('TYPES', typesEnd, walk.at, 6, 'There are as many types as the head says.');
  const rows = Array.from({ length: count }, () => {
    const at = walk.at;
    const type = types[walk.u16()];
    if (type === undefined) walk.stop('TYPE', at, 'An object has a type.', crate.readUInt16LE(at));
    const flags = walk.u16();
    if (flags > 1) walk.stop('FLAGS', at + 2, 'Only one flag is known.', flags);
    const row = { row: at, type, far: flags === 1, id: BigInt.asIntN(64, walk.u64()), name: walk.u32() };
    return { ...row, at: walk.offset(), size: walk.u32(), crc: walk.u32(), spare: walk.u32() };
  });
  const names = walk.take(nameSize);
  if (bulk === undefined) return walk.stop('BULK', 0, 'The bulk file is beside the crate.', 'nothing');
  const far = new Walk(bulk.file, 'BULK', bulk.bytes);
  far.magic('BULK');
  far.is(
    'RELEASE',
    crate.toString('latin1', 20, 32),
    far.take(12).toString('latin1'),
    4,
    'Crate and bulk belong together.',
  );
  for (const [where, isFar, align] of [
    [walk, false, 8],
    [far, true, 16],
  ] as const) {
    const stretches = rows.filter((row) => row.far === isFar).map(({ at, size }) => ({ at, end: at + size }));
    checkStretches(where, stretches, { from: where.at, align, fill: 0 });
  }
  const seen = new Set<bigint>();
  return rows.map((row) => {
    const where = row.far ? far : walk;
    if (seen.has(row.id)) walk.stop('TWICE', row.row + 4, 'A number stands for one object.', row.id);
    seen.add(row.id);
    const bytes = where.bytes.subarray(row.at, row.at + row.size);
    where.is('CRC', row.crc, crc32(bytes), row.at, 'The checksum of an object agrees.');
    const end = names.indexOf(0, row.name);
    if (end < 0) walk.stop('NAME', row.row + 12, 'A name ends with a zero.', row.name);
    return { id: row.id, type: row.type!, name: names.toString('utf8', row.name, end), bytes };
  });
}
