/** All entries packed together: one stream, and rows that tell places in what it unpacks to. */
import { deflateSync, inflateSync } from 'node:zlib';
import type { Dice } from '../../soak/dice';
import { Numbers, up, xor, type MadeEntry } from './common';
import { demand, isZero, nameFromBytes, nameKinds, nameToBytes, type MadeCase, type NameKind } from './made-case';

interface SolidFormat {
  readonly big: boolean;
  readonly name: NameKind;
  readonly locked: boolean;
  /** Plain bytes begin at multiples of this. */
  readonly align: number;
  readonly sorted: boolean;
}

const KEY = [0x09, 0xbb];
const HEAD = 20;

export function solidCase(dice: Dice): MadeCase {
  const format: SolidFormat = {
    big: dice.chance(0.4),
    name: dice.pick(['fixed', 'prefixed', 'ended']),
    locked: dice.chance(0.5),
    align: dice.pick([1, 1, 4, 16]),
    sorted: dice.chance(0.5),
  };
  return {
    format,
    recipe: recipeOf(format),
    write: (entries) => ({ 'made.bin': write(format, entries) }),
    read: (files) => read(format, files['made.bin']!),
  };
}

const recipeOf = ({ big, name, locked, align, sorted }: SolidFormat) => `recipe: made
title: Made by chance
revision: 1
numbers: ${big ? 'big' : 'little'}
match: { at: 0, bytes: SOLD }
shapes:
  header:
    - { field: magic, as: ascii(4), must: SOLD }
    - { field: count, as: u32, is: count(entries) }
    - { field: rowsSize, as: u32, is: length(rows) }
    - { field: stored, as: u32, is: length(data) }
    - { field: plain, as: u32, is: length(plain(data)) }
  row:
    - { field: name, as: '${nameKinds[name]}', is: entry.path }
    - { field: at, as: u32, is: entry.at }
    - { field: size, as: u32, is: entry.size }
regions:
  - { region: head, at: 0, holds: header }
  - { region: rows, at: ${HEAD}, length: head.rowsSize, holds: 'row[head.count]'${sorted ? ", sort: 'encode(name, utf-8)'" : ''} }
  - { region: data, at: ${HEAD} + head.rowsSize, length: head.stored, plain: head.plain, through: [${locked ? '\'xor(hex("09 BB"))\', ' : ''}zlib], holds: entries${align > 1 ? `, align: ${align}` : ''} }
presents: archive
entries: { each: row in rows, path: row.name, at: row.at, stored: row.size, size: row.size }
`;

function write({ big, name, locked, align, sorted }: SolidFormat, entries: readonly MadeEntry[]): Buffer {
  const numbers = new Numbers(big);
  const rows = [...entries];
  if (sorted) rows.sort((a, b) => Buffer.compare(Buffer.from(a.path), Buffer.from(b.path)));
  const plain: Buffer[] = [];
  const table: Buffer[] = [];
  let at = 0;
  for (const { path, bytes } of rows) {
    const start = up(at, align);
    plain.push(Buffer.alloc(start - at), bytes);
    at = start + bytes.length;
    table.push(nameToBytes(name, path), numbers.u32(start), numbers.u32(bytes.length));
  }
  const packed = deflateSync(Buffer.concat(plain));
  const stored = locked ? xor(packed, KEY) : packed;
  const index = Buffer.concat(table);
  const facts = [rows.length, index.length, stored.length, at].map((value) => numbers.u32(value));
  return Buffer.concat([Buffer.from('SOLD'), ...facts, index, stored]);
}

function read({ big, name, locked, align, sorted }: SolidFormat, file: Buffer): ReadonlyMap<string, Buffer> {
  const numbers = new Numbers(big);
  demand(file.subarray(0, 4).toString() === 'SOLD', 'no magic');
  const [count, rowsSize, stored, size] = [4, 8, 12, 16].map((at) => numbers.read(file, at)) as [
    number,
    number,
    number,
    number,
  ];
  demand(HEAD + rowsSize + stored === file.length, 'another length');
  const packed = file.subarray(HEAD + rowsSize);
  const plain = inflateSync(locked ? xor(packed, KEY) : packed);
  demand(plain.length === size, 'another plain length');
  const found = new Map<string, Buffer>();
  const taken: [number, number][] = [];
  let next = HEAD;
  let before = '';
  for (let i = 0; i < count; i++) {
    const row = nameFromBytes(name, file, next);
    const at = numbers.read(file, row.next);
    const length = numbers.read(file, row.next + 4);
    next = row.next + 8;
    demand(at + length <= size, `${row.name}: outside`);
    demand(length === 0 || at % align === 0, `${row.name}: not aligned`);
    demand(!found.has(row.name), `${row.name}: twice`);
    demand(!sorted || Buffer.compare(Buffer.from(before), Buffer.from(row.name)) <= 0, `${row.name}: not sorted`);
    before = row.name;
    if (length > 0) taken.push([at, at + length]);
    found.set(row.name, Buffer.from(plain.subarray(at, at + length)));
  }
  demand(next === HEAD + rowsSize, 'bytes behind the rows');
  let end = 0;
  for (const [from, to] of taken.sort((a, b) => a[0] - b[0])) {
    demand(from >= end, `two entries overlap at ${from}`);
    demand(isZero(plain.subarray(end, from)), `something unknown before ${from}`);
    end = to;
  }
  demand(isZero(plain.subarray(end)) && plain.length < end + align, 'bytes behind the last entry');
  return found;
}
