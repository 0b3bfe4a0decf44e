/** Chunks in chunks: folders that hold folders and files, each with its name and its bytes in it. */
import { crc32, deflateSync, inflateSync } from 'node:zlib';
import type { Dice } from '../../soak/dice';
import { Numbers, up, xor, type MadeEntry } from './common';
import {
  demand,
  isZero,
  nameFromBytes,
  nameKinds,
  nameToBytes,
  type Files,
  type MadeCase,
  type NameKind,
} from './made-case';

interface ChunkFormat {
  readonly big: boolean;
  /** The size of a chunk counts its head of 8 bytes too. */
  readonly countsHead: boolean;
  readonly align: number;
  readonly name: NameKind;
  readonly sum: boolean;
  readonly packed: boolean;
  readonly locked: boolean;
  /** Folders say how many chunks they hold. */
  readonly counted: boolean;
  /** The head says how long the file is. */
  readonly total: boolean;
  /** Chunks that no one knows are between the others. */
  readonly notes: boolean;
}

const KEY = [0x71, 0x02, 0xe4];
const NOTE = Buffer.from('somebody was here');

export function chunkCase(dice: Dice): MadeCase {
  const format: ChunkFormat = {
    big: dice.chance(0.4),
    countsHead: dice.chance(0.4),
    align: dice.pick([1, 2, 4, 8]),
    name: dice.pick(['fixed', 'prefixed', 'ended']),
    sum: dice.chance(0.5),
    packed: dice.chance(0.4),
    locked: dice.chance(0.4),
    counted: dice.chance(0.3),
    total: dice.chance(0.7),
    notes: dice.chance(0.4),
  };
  return {
    format,
    recipe: recipeOf(format),
    write: (entries, throws) => ({ 'made.bin': write(format, entries, throws) }),
    read: (files: Files) => read(format, files['made.bin']!),
  };
}

function recipeOf({ big, countsHead, align, name, sum, packed, locked, counted, total }: ChunkFormat): string {
  const head = countsHead ? 8 : 0;
  const steps = [...(locked ? ['"xor(hex(\\"71 02 E4\\"))"'] : []), ...(packed ? ['zlib'] : [])];
  return `recipe: made
title: Made by chance
revision: 1
numbers: ${big ? 'big' : 'little'}
match: { at: 0, bytes: TREE }
shapes:
  top:
    - { field: magic, as: ascii(4), must: TREE }
    - { field: total, as: u32, ${total ? 'is: end' : 'must: 0'} }
    - { field: chunks, as: 'chunk[to end]' }
  chunk:
    - { field: tag, as: ascii(4), new: 'if(entry.name == nothing, "FOLD", "FILE")' }
    - { field: size, as: u32, is: length(body) + ${head} }
    - { field: body, by: tag, size: size - ${head}, as: { FOLD: folder, FILE: file, else: bytes(rest) } }
    - { field: pad, as: pad(${align}) }
  folder:
    - { field: name, as: '${nameKinds[name]}', is: folder.name }
${counted ? "    - { field: count, as: u16, is: count(chunks) }\n    - { field: chunks, as: 'chunk[count]' }" : "    - { field: chunks, as: 'chunk[to end]' }"}
  file:
    - { field: name, as: '${nameKinds[name]}', is: entry.name }
${sum ? '    - { field: sum, as: u32, is: crc32(entry.data) }\n' : ''}    - { field: plain, as: u32, is: entry.size }
    - { field: data, as: data(rest) }
regions: [{ region: all, at: 0, holds: top }]
presents: archive
entries:
  each: file in all
  path: join(folder.path, file.name)
  data: file.data
  size: file.plain
  through: [${steps.join(', ')}]
  folders: { each: folder in all, name: folder.name }
`;
}

interface Folder {
  readonly name: string;
  readonly files: MadeEntry[];
  readonly folders: Folder[];
}

function treeOf(entries: readonly MadeEntry[]): Folder {
  const root: Folder = { name: '', files: [], folders: [] };
  for (const entry of entries) {
    let at = root;
    for (const name of entry.path.split('/').slice(0, -1)) {
      let next = at.folders.find((one) => one.name === name);
      if (next === undefined) at.folders.push((next = { name, files: [], folders: [] }));
      at = next;
    }
    at.files.push(entry);
  }
  return root;
}

function write(format: ChunkFormat, entries: readonly MadeEntry[], dice: Dice): Buffer {
  const numbers = new Numbers(format.big);
  const u16 = (value: number) =>
    format.big ? Buffer.from([value >> 8, value & 255]) : Buffer.from([value & 255, value >> 8]);
  /** @param at where the chunk begins in the file */
  const chunk = (tag: string, at: number, bodyAt: (at: number) => Buffer): Buffer => {
    const body = bodyAt(at + 8);
    const end = at + 8 + body.length;
    return Buffer.concat([
      Buffer.from(tag),
      numbers.u32(body.length + (format.countsHead ? 8 : 0)),
      body,
      Buffer.alloc(up(end, format.align) - end),
    ]);
  };
  const inside = ({ files, folders }: Folder, from: number): { bytes: Buffer; count: number } => {
    const parts: Buffer[] = [];
    let at = from;
    const put = (bytes: Buffer) => {
      parts.push(bytes);
      at += bytes.length;
    };
    for (const { path, bytes } of files) {
      if (format.notes && dice.chance(0.3)) put(chunk('note', at, () => NOTE));
      const packed = format.packed ? deflateSync(bytes) : bytes;
      put(
        chunk('FILE', at, () =>
          Buffer.concat([
            nameToBytes(format.name, path.slice(path.lastIndexOf('/') + 1)),
            ...(format.sum ? [numbers.u32(crc32(bytes))] : []),
            numbers.u32(bytes.length),
            format.locked ? xor(packed, KEY) : packed,
          ]),
        ),
      );
    }
    for (const folder of folders)
      put(
        chunk('FOLD', at, (bodyAt) => {
          const name = nameToBytes(format.name, folder.name);
          const { bytes, count } = inside(folder, bodyAt + name.length + (format.counted ? 2 : 0));
          return Buffer.concat([name, ...(format.counted ? [u16(count)] : []), bytes]);
        }),
      );
    return { bytes: Buffer.concat(parts), count: parts.length };
  };
  const { bytes } = inside(treeOf(entries), 8);
  return Buffer.concat([Buffer.from('TREE'), numbers.u32(format.total ? bytes.length + 8 : 0), bytes]);
}

function read(format: ChunkFormat, file: Buffer): ReadonlyMap<string, Buffer> {
  const numbers = new Numbers(format.big);
  demand(file.subarray(0, 4).toString() === 'TREE', 'no magic');
  demand(numbers.read(file, 4) === (format.total ? file.length : 0), 'the total is wrong');
  const found = new Map<string, Buffer>();
  const chunks = (from: number, end: number, folder: string): number => {
    let at = from;
    let count = 0;
    const folders = new Set<string>();
    while (at < end) {
      demand(at + 8 <= end, `half a chunk at ${at}`);
      const tag = file.subarray(at, at + 4).toString();
      const bodyEnd = at + numbers.read(file, at + 4) + (format.countsHead ? 0 : 8);
      const next = up(bodyEnd, format.align);
      demand(next <= end && bodyEnd >= at + 8, `the chunk at ${at} does not fit`);
      demand(isZero(file.subarray(bodyEnd, next)), `something behind the chunk at ${at}`);
      if (tag === 'FOLD') {
        const { name, next: inner } = nameFromBytes(format.name, file, at + 8);
        demand(name !== '' && !name.includes('/') && !folders.has(name), `a folder called ${name}`);
        folders.add(name);
        const told = format.counted ? (format.big ? file.readUInt16BE(inner) : file.readUInt16LE(inner)) : undefined;
        const inside = chunks(inner + (format.counted ? 2 : 0), bodyEnd, `${folder}${name}/`);
        demand(told === undefined || told === inside, `${name} does not hold ${told} chunks`);
      } else if (tag === 'FILE') readFile(at + 8, bodyEnd, folder);
      else demand(tag === 'note' && file.subarray(at + 8, bodyEnd).equals(NOTE), `a chunk called ${tag}`);
      at = next;
      count++;
    }
    return count;
  };
  const readFile = (from: number, end: number, folder: string) => {
    const { name, next } = nameFromBytes(format.name, file, from);
    demand(name !== '' && !name.includes('/'), `a file called ${name}`);
    const at = next + (format.sum ? 4 : 0);
    const body = file.subarray(at + 4, end);
    const open = format.locked ? xor(body, KEY) : body;
    const plain = format.packed ? inflateSync(open) : open;
    demand(plain.length === numbers.read(file, at), `${name}: another size`);
    if (format.sum) demand(numbers.read(file, next) === crc32(plain), `${name}: another checksum`);
    demand(!found.has(folder + name), `${name}: twice`);
    found.set(folder + name, Buffer.from(plain));
  };
  chunks(8, file.length, '');
  return found;
}
