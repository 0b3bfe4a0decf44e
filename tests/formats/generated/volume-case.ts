/** Rows in one file and bytes in one or two others: known by hashes, with checksums across volumes, and marks for what is gone. */
import { crc32 } from 'node:zlib';
import type { Dice } from '../../soak/dice';
import { Numbers, up, type MadeEntry } from './common';
import { demand, isZero, type Files, type MadeCase } from './made-case';

interface VolumeFormat {
  readonly big: boolean;
  /** Some entries lie in a second volume. */
  readonly far: boolean;
  readonly align: number;
  /** The index knows length and checksum of the first volume: of all its bytes, or of those of the entries. */
  readonly sums: 'none' | 'region' | 'volume';
  readonly sorted: boolean;
  readonly lower: boolean;
}

const HEAD = 16;
const ROW = 16;
const DATA_HEAD = 8;
const GONE = 0x80;
const FAR = 0x01;

export function volumeCase(dice: Dice): MadeCase {
  const format: VolumeFormat = {
    big: dice.chance(0.4),
    far: dice.chance(0.5),
    align: dice.pick([1, 8, 64]),
    sums: dice.pick(['none', 'region', 'volume']),
    sorted: dice.chance(0.7),
    lower: dice.chance(0.3),
  };
  return {
    format,
    recipe: recipeOf(format),
    hashed: true,
    marks: true,
    write: (entries, throws) => write(format, entries, throws),
    read: (files, paths) => read(format, files, paths),
  };
}

function recipeOf({ big, far, align, sums, sorted, lower }: VolumeFormat): string {
  const volumes = ['main: "{stem}.idx"', 'near: "{stem}.dat"', ...(far ? ['far: "{stem}.ext"'] : [])].join(', ');
  const region = (name: string, top: string) =>
    `  - { region: ${top}, volume: ${name}, at: 0, holds: top }
  - { region: ${name}Data, volume: ${name}, at: ${DATA_HEAD}, length: end - ${DATA_HEAD}, holds: entries${align > 1 ? `, align: ${align}` : ''} }`;
  return `recipe: made
title: Made by chance
revision: 1
numbers: ${big ? 'big' : 'little'}
match: { at: 0, bytes: VOLS }
volumes: { ${volumes} }
shapes:
  header:
    - { field: magic, as: ascii(4), must: VOLS }
    - { field: count, as: u32, is: count(entries) }
    - { field: size, as: u32, ${sums === 'none' ? 'must: 0' : 'is: length(volume(near))'} }
    - { field: sum, as: u32, ${{ none: 'must: 0', region: 'is: crc32(stored(nearData))', volume: 'is: crc32(volume(near))' }[sums]} }
  top:
    - { field: magic, as: ascii(4), must: DATV }
    - { field: zero, as: u32, must: 0 }
  row:
    - { field: hash, as: u32, is: entry.hash }
    - { field: flags, as: u32, parts: { far: { bits: 0, is: 'entry.volume-set == "far"' }, rest: { bits: 1..6, new: 0, must: 0 }, gone: { bits: 7, is: entry.deleted }, more: { bits: 8..31, new: 0, must: 0 } } }
    - { field: at, as: u32, is: 'if(entry.deleted, 0, entry.at)' }
    - { field: size, as: u32, is: 'if(entry.deleted, 0, entry.size)' }
regions:
  - { region: head, at: 0, holds: header }
  - { region: rows, at: ${HEAD}, holds: 'row[head.count]'${sorted ? ', sort: hash' : ''} }
${region('near', 'nearTop')}
${far ? `${region('far', 'farTop')}\n` : ''}presents: archive
entries:
  each: row in rows
  hash: row.hash
  hashing: crc32(${lower ? 'lower(entry.path)' : 'entry.path'})
  volume: ${far ? 'if(row.flags.far, far, near)' : 'near'}
  at: row.at
  stored: row.size
  size: row.size
  deleted: row.flags.gone
`;
}

function write(format: VolumeFormat, entries: readonly MadeEntry[], dice: Dice): Files {
  const numbers = new Numbers(format.big);
  const rows = entries.map(({ path, bytes }) => ({
    hash: crc32(format.lower ? path.toLowerCase() : path),
    bytes,
    far: format.far && dice.chance(0.4),
  }));
  if (format.sorted) rows.sort((a, b) => a.hash - b.hash);
  const top = Buffer.concat([Buffer.from('DATV'), Buffer.alloc(4)]);
  const ends = [DATA_HEAD, DATA_HEAD];
  const parts: Buffer[][] = [[top], [top]];
  const table = rows.flatMap(({ hash, bytes, far }) => {
    const volume = far ? 1 : 0;
    const at = up(ends[volume]!, format.align);
    parts[volume]!.push(Buffer.alloc(at - ends[volume]!), bytes);
    ends[volume] = at + bytes.length;
    return [hash, far ? FAR : 0, at, bytes.length].map((value) => numbers.u32(value));
  });
  const [near, far] = parts.map((one) => Buffer.concat(one)) as [Buffer, Buffer];
  const sums = sumsOf(format, near);
  const head = [rows.length, ...sums].map((value) => numbers.u32(value));
  return {
    'made.idx': Buffer.concat([Buffer.from('VOLS'), ...head, ...table]),
    'made.dat': near,
    ...(format.far ? { 'made.ext': far } : {}),
  };
}

function sumsOf({ sums }: VolumeFormat, near: Buffer): [number, number] {
  if (sums === 'none') return [0, 0];
  return [near.length, crc32(sums === 'volume' ? near : near.subarray(DATA_HEAD))];
}

function read(format: VolumeFormat, files: Files, paths: readonly string[]): ReadonlyMap<string, Buffer | undefined> {
  const numbers = new Numbers(format.big);
  const index = files['made.idx']!;
  const volumes = [files['made.dat']!, ...(format.far ? [files['made.ext']!] : [])];
  demand(index.subarray(0, 4).toString() === 'VOLS', 'no magic');
  const count = numbers.read(index, 4);
  demand(index.length === HEAD + count * ROW, 'the index has another length');
  const [size, sum] = sumsOf(format, volumes[0]!);
  demand(numbers.read(index, 8) === size, 'the length of the first volume is wrong');
  demand(numbers.read(index, 12) === sum, 'the checksum of it is wrong');
  const byHash = new Map(paths.map((path) => [crc32(format.lower ? path.toLowerCase() : path), path]));
  const found = new Map<string, Buffer | undefined>();
  const taken = volumes.map(() => [[0, DATA_HEAD]] as [number, number][]);
  let before = -1;
  for (let i = 0; i < count; i++) {
    const [hash, flags, at, size] = [0, 4, 8, 12].map((offset) => numbers.read(index, HEAD + i * ROW + offset)) as [
      number,
      number,
      number,
      number,
    ];
    const path = byHash.get(hash);
    if (path === undefined) throw new Error(`a hash of nothing: ${hash}`);
    demand(!found.has(path), `${path}: twice`);
    demand(!format.sorted || hash > before, `${path}: not sorted`);
    before = hash;
    demand((flags & ~(GONE | (format.far ? FAR : 0))) === 0, `${path}: flags ${flags}`);
    if ((flags & GONE) !== 0) {
      demand(at === 0 && size === 0, `${path}: gone, and still somewhere`);
      found.set(path, undefined);
      continue;
    }
    const volume = volumes[flags & FAR]!;
    demand(at >= DATA_HEAD && at + size <= volume.length, `${path}: outside its volume`);
    demand(size === 0 || at % format.align === 0, `${path}: not aligned`);
    if (size > 0) taken[flags & FAR]!.push([at, at + size]);
    found.set(path, volume.subarray(at, at + size));
  }
  for (const [i, volume] of volumes.entries()) {
    demand(volume.subarray(0, 4).toString() === 'DATV' && isZero(volume.subarray(4, 8)), 'no magic of a volume');
    let end = 0;
    for (const [from, to] of taken[i]!.sort((a, b) => a[0] - b[0])) {
      demand(from >= end, `two parts overlap at ${from}`);
      demand(isZero(volume.subarray(end, from)), `something unknown before ${from}`);
      end = to;
    }
    demand(isZero(volume.subarray(end)) && volume.length < end + Math.max(1, format.align), 'bytes behind the end');
  }
  return found;
}
