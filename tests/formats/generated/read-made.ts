/** The strict reader of formats made by chance: code of its own that shares nothing with the core. */
import { crc32, inflateSync } from 'node:zlib';
import { ciphered, counted, INDEX_KEY, MAGIC_END, Numbers, up, xor } from './common';
import { BLOCK, DATA_AT, FIXED_NAME, FREE, LIST, type MadeFormat } from './format';

/** What a strict reader of the format finds. @throws Error with what is wrong */
export function readMade(format: MadeFormat, file: Buffer): ReadonlyMap<string, Buffer> {
  const numbers = new Numbers(format.big);
  const demand = (holds: boolean, what: string) => {
    if (!holds) throw new Error(what);
  };
  demand(file.subarray(0, 4).toString() === 'MADE', 'no magic');
  const count = numbers.read(file, 4);
  if (format.fileSum) {
    const blank = Buffer.from(file);
    blank.fill(0, 8, 12);
    demand(numbers.read(file, 8) === crc32(blank), 'the checksum of the file is wrong');
  } else demand(numbers.read(file, 8) === 0, 'the checksum of the file is not 0');
  demand(
    file.subarray(32, 64).every((byte) => byte === 0),
    'the head is not filled with zeros',
  );
  const inFoot = format.index === 'footer';
  const pointersAt = inFoot ? file.length - 20 : 16;
  if (inFoot) demand(file.subarray(-4).toString() === MAGIC_END, 'no magic at the end');
  const [rowsAt, rowsSize, poolAt, poolSize] = [0, 4, 8, 12].map((offset) =>
    numbers.read(file, pointersAt + offset),
  ) as [number, number, number, number];
  demand(rowsAt >= DATA_AT && rowsAt + rowsSize <= file.length, 'the rows lie outside');
  const locked = file.subarray(rowsAt, rowsAt + rowsSize);
  demand(numbers.read(file, 12) === (format.indexSum ? crc32(locked) : 0), 'the checksum of the rows is wrong');
  const index = format.indexLocked ? xor(locked, INDEX_KEY) : locked;
  const pool = format.name === 'pooled' ? file.subarray(poolAt, poolAt + poolSize) : Buffer.alloc(0);
  const taken: [number, number][] = [
    [0, DATA_AT],
    [rowsAt, rowsAt + rowsSize],
  ];
  if (format.name === 'pooled') taken.push([poolAt, poolAt + poolSize]);
  if (inFoot) taken.push([file.length - 20, file.length]);
  const found = new Map<string, Buffer>();
  let at = 0;
  let before: Buffer | undefined;
  let lastData = -1;
  let dataEnd = format.index === 'front' ? Math.max(rowsAt + rowsSize, poolAt + poolSize) : DATA_AT;
  const slots: (string | undefined)[] = [];
  for (let row = 0; row < count; row++) {
    const from = at;
    const path = readName();
    const pieces = format.split === 'pieces' ? readPieces() : undefined;
    const told =
      pieces === undefined
        ? u32() * (format.sectors ? format.align : 1) + (format.fromData ? DATA_AT : 0)
        : (pieces[0]?.place ?? DATA_AT);
    const stored = u32();
    if (format.slots && stored === FREE) {
      at = from + index.length / count;
      slots.push(undefined);
      continue;
    }
    slots.push(path);
    const i = found.size;
    const size = u32();
    const sizes = format.split === 'blocks' ? Array.from({ length: Math.ceil(size / BLOCK) }, () => u32()) : [];
    const method =
      format.packed === 'by method' ? index[at++]! : format.packed === 'always' && format.split === 'no' ? 1 : 0;
    demand(method <= 1, `${path}: method ${method}`);
    const body =
      pieces === undefined
        ? file.subarray(told, told + stored)
        : Buffer.concat(pieces.map(({ place, length }) => file.subarray(place, place + length)));
    demand(body.length === stored, `${path}: bytes outside the file`);
    if (stored > 0) {
      demand(told % format.align === 0, `${path}: not aligned`);
      demand(!format.inOrder || told > lastData, `${path}: not in the order of the rows`);
      lastData = told;
    }
    // An entry of no bytes may lie behind the last one, as aligned as the others.
    for (const { place, length } of pieces ?? [{ place: told, length: stored }]) {
      dataEnd = Math.max(dataEnd, place + length);
      if (place >= DATA_AT && place <= file.length) taken.push([place, place + length]);
    }
    const inner = ciphered(format, body, told, i, path);
    const plain = format.split === 'blocks' ? joinedBlocks(inner, sizes) : method === 1 ? inflateSync(inner) : inner;
    demand(plain.length === size, `${path}: another size`);
    if (format.entrySum !== 'none')
      demand(u32() === crc32(format.entrySum === 'plain' ? plain : body), `${path}: another checksum`);
    demand(!found.has(path), `${path}: twice`);
    if (format.sorted)
      demand(before === undefined || Buffer.compare(before, Buffer.from(path)) < 0, `${path}: not sorted`);
    before = Buffer.from(path);
    found.set(path, plain);
  }
  demand(at === index.length, 'bytes behind the rows');
  for (const [slot, path] of slots.entries()) {
    if (!format.slots || path === undefined) continue;
    let tried = crc32(path) % count;
    while (tried !== slot) {
      demand(slots[tried] !== undefined, `${path}: no search finds it`);
      tried = (tried + 1) % count;
    }
  }
  if (format.tail > 0) {
    const behind = format.index === 'front' ? file.length : rowsAt;
    demand(behind === up(dataEnd, format.tail), `the data ends at ${dataEnd} and what follows begins at ${behind}`);
  }
  if (format.list && found.has(LIST)) {
    const others = [...found.keys()].filter((path) => path !== LIST);
    demand(found.get(LIST)!.toString() === others.map((path) => `${path}\n`).join(''), 'the list is wrong');
    found.delete(LIST);
  }
  let end = 0;
  for (const [from, to] of taken.sort((a, b) => a[0] - b[0] || a[1] - b[1])) {
    demand(from >= end, `two parts overlap at ${from}`);
    demand(
      file.subarray(end, from).every((byte) => byte === 0),
      `something unknown before ${from}`,
    );
    end = to;
  }
  const filled = format.tail > 0 && format.index === 'front' ? up(end, format.tail) : end;
  demand(filled === file.length, 'bytes behind the end');
  return found;

  function readPieces(): { place: number; length: number }[] {
    const pieces = format.big ? index.readUInt16BE(at) : index.readUInt16LE(at);
    at += 2;
    const places = Array.from({ length: pieces }, () => u32());
    return places.map((place) => ({ place, length: u32() }));
  }
  function joinedBlocks(inner: Buffer, sizes: readonly number[]): Buffer {
    let from = 0;
    const blocks = sizes.map((size) => {
      const block = inner.subarray(from, (from += size));
      return format.packed === 'always' ? inflateSync(block) : block;
    });
    demand(from === inner.length, 'bytes behind the blocks');
    for (const [i, block] of blocks.entries())
      demand(i === blocks.length - 1 || block.length === BLOCK, 'a block of another size');
    return Buffer.concat(blocks);
  }
  function u32(): number {
    at += 4;
    return numbers.read(index, at - 4);
  }
  function readName(): string {
    switch (format.name) {
      case 'fixed': {
        const field = index.subarray(at, (at += FIXED_NAME));
        const zero = field.indexOf(0);
        const text = zero < 0 ? field : field.subarray(0, zero);
        demand(
          field.subarray(text.length).every((byte) => byte === 0),
          'bytes behind a name',
        );
        return text.toString();
      }
      case 'prefixed': {
        const length = index[at++]!;
        return index.subarray(at, (at += length)).toString();
      }
      case 'scrambled': {
        const [salt, length] = [index[at]!, index[at + 1]!];
        at += 2 + length;
        return counted(index.subarray(at - length, at), salt).toString();
      }
      case 'ended':
      case 'lines': {
        const zero = index.indexOf(format.name === 'lines' ? 0x0a : 0, at);
        const text = index.subarray(at, zero).toString();
        at = zero + 1;
        return text;
      }
      case 'pooled': {
        const start = u32();
        demand(start === 0 || pool[start - 1] === 0, 'a name that begins within another');
        const zero = pool.indexOf(0, start);
        demand(zero >= 0, 'a name without an end');
        return pool.subarray(start, zero).toString();
      }
    }
  }
}
