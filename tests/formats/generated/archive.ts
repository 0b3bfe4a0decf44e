/** Archives of formats made by chance, written and strictly read by code of their own that shares nothing with the core. */
import { crc32, deflateSync, inflateSync } from 'node:zlib';
import type { Dice } from '../../soak/dice';
import { DATA_AT, FIXED_NAME, type MadeFormat } from './format';

export interface MadeEntry {
  readonly path: string;
  readonly bytes: Buffer;
}

const INDEX_KEY = [0x5a, 0xc3, 0x19];
const DATA_KEY = [0x11, 0x22, 0x33, 0x44, 0x05];
const MAGIC_END = 'EDAM';

const up = (at: number, align: number) => Math.ceil(at / align) * align;
const xor = (bytes: Buffer, key: readonly number[]) => Buffer.from(bytes.map((byte, i) => byte ^ key[i % key.length]!));

function scrambled(bytes: Buffer, seed: number): Buffer {
  let state = seed >>> 0;
  return Buffer.from(
    bytes.map((byte) => {
      state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
      return byte ^ ((state >>> 16) & 255);
    }),
  );
}

/** Locks or unlocks: both are the same. */
function ciphered(format: MadeFormat, bytes: Buffer, at: number, index: number, path: string): Buffer {
  switch (format.cipher) {
    case 'none':
      return bytes;
    case 'key':
      return xor(bytes, DATA_KEY);
    case 'place':
      return scrambled(bytes, at);
    case 'index':
      return scrambled(bytes, index + 1);
    case 'path':
      return scrambled(bytes, crc32(path));
  }
}

class Numbers {
  constructor(private readonly big: boolean) {}
  u32(value: number): Buffer {
    const bytes = Buffer.alloc(4);
    if (this.big) bytes.writeUInt32BE(value);
    else bytes.writeUInt32LE(value);
    return bytes;
  }
  read(bytes: Buffer, at: number): number {
    return this.big ? bytes.readUInt32BE(at) : bytes.readUInt32LE(at);
  }
}

function nameBytes(format: MadeFormat, path: string, poolAt: number, numbers: Numbers): Buffer {
  const text = Buffer.from(path);
  switch (format.name) {
    case 'fixed':
      return Buffer.concat([text, Buffer.alloc(FIXED_NAME - text.length)]);
    case 'prefixed':
      return Buffer.concat([Buffer.from([text.length]), text]);
    case 'ended':
      return Buffer.concat([text, Buffer.alloc(1)]);
    case 'pooled':
      return numbers.u32(poolAt);
  }
}

/** An archive of the entries, in an order that the format allows. */
export function writeMade(format: MadeFormat, entries: readonly MadeEntry[], dice: Dice): Buffer {
  const numbers = new Numbers(format.big);
  const rows = [...entries];
  if (format.sorted) rows.sort((a, b) => Buffer.compare(Buffer.from(a.path), Buffer.from(b.path)));
  const pool = format.name === 'pooled' ? Buffer.from(rows.map(({ path }) => `${path}\0`).join('')) : Buffer.alloc(0);
  const packed = rows.map(({ bytes }) => {
    const small = deflateSync(bytes);
    const method = format.packed === 'always' || (format.packed === 'by method' && small.length < bytes.length) ? 1 : 0;
    return { method, inner: method === 1 ? small : bytes };
  });
  // The lengths of rows do not follow from places: they are known before anything lies anywhere.
  const rowsLength = rowBytes(
    packed.map(() => 0),
    packed.map(({ inner }) => inner),
  ).length;
  const front = format.index === 'front';
  const places = rows.map((_, i) => i);
  if (!format.inOrder)
    for (let i = places.length - 1; i > 0; i--) {
      const k = dice.upTo(i);
      [places[i], places[k]] = [places[k]!, places[i]!];
    }
  const at: number[] = [];
  let end = front ? DATA_AT + rowsLength + pool.length : DATA_AT;
  const stored: Buffer[] = [];
  for (const i of places) {
    end = up(end, format.align);
    at[i] = end;
    stored[i] = ciphered(format, packed[i]!.inner, end, i, rows[i]!.path);
    end += stored[i].length;
  }
  const index = rowBytes(at, stored);
  const locked = format.indexLocked ? xor(index, INDEX_KEY) : index;
  const rowsAt = front ? DATA_AT : end;
  const poolAt = rowsAt + locked.length;
  const pointers = [
    numbers.u32(rowsAt),
    numbers.u32(locked.length),
    ...(format.name === 'pooled' ? [numbers.u32(poolAt), numbers.u32(pool.length)] : [Buffer.alloc(8)]),
  ];
  const inFoot = format.index === 'footer';
  const foot = inFoot ? Buffer.concat([...pointers, Buffer.from(MAGIC_END)]) : Buffer.alloc(0);
  const file = Buffer.alloc(front ? Math.max(end, poolAt + pool.length) : poolAt + pool.length + foot.length);
  file.write('MADE');
  numbers.u32(rows.length).copy(file, 4);
  if (format.indexSum) numbers.u32(crc32(locked)).copy(file, 12);
  if (!inFoot) Buffer.concat(pointers).copy(file, 16);
  locked.copy(file, rowsAt);
  pool.copy(file, poolAt);
  foot.copy(file, poolAt + pool.length);
  for (const [i, bytes] of stored.entries()) bytes.copy(file, at[i]);
  if (format.fileSum) numbers.u32(crc32(file)).copy(file, 8);
  return file;

  function rowBytes(ats: readonly number[], bodies: readonly Buffer[]): Buffer {
    let poolOffset = 0;
    return Buffer.concat(
      rows.map(({ path, bytes }, i) => {
        const name = nameBytes(format, path, poolOffset, numbers);
        poolOffset += Buffer.byteLength(path) + 1;
        const told = Math.max(0, ats[i]! - (format.fromData ? DATA_AT : 0)) / (format.sectors ? format.align : 1);
        return Buffer.concat([
          name,
          numbers.u32(Math.floor(told)),
          numbers.u32(bodies[i]!.length),
          numbers.u32(bytes.length),
          ...(format.packed === 'by method' ? [Buffer.from([packed[i]!.method])] : []),
          ...(format.entrySum === 'none' ? [] : [numbers.u32(crc32(format.entrySum === 'plain' ? bytes : bodies[i]!))]),
        ]);
      }),
    );
  }
}

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
  for (let i = 0; i < count; i++) {
    const path = readName();
    const told = u32() * (format.sectors ? format.align : 1) + (format.fromData ? DATA_AT : 0);
    const stored = u32();
    const size = u32();
    const method = format.packed === 'by method' ? index[at++]! : format.packed === 'always' ? 1 : 0;
    demand(method <= 1, `${path}: method ${method}`);
    const body = file.subarray(told, told + stored);
    demand(body.length === stored, `${path}: bytes outside the file`);
    if (stored > 0) {
      demand(told % format.align === 0, `${path}: not aligned`);
      demand(!format.inOrder || told > lastData, `${path}: not in the order of the rows`);
      lastData = told;
    }
    // An entry of no bytes may lie behind the last one, as aligned as the others.
    if (told >= DATA_AT && told <= file.length) taken.push([told, told + stored]);
    const inner = ciphered(format, body, told, i, path);
    const plain = method === 1 ? inflateSync(inner) : inner;
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
  let end = 0;
  for (const [from, to] of taken.sort((a, b) => a[0] - b[0] || a[1] - b[1])) {
    demand(from >= end, `two parts overlap at ${from}`);
    demand(
      file.subarray(end, from).every((byte) => byte === 0),
      `something unknown before ${from}`,
    );
    end = to;
  }
  demand(end === file.length, 'bytes behind the end');
  return found;

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
      case 'ended': {
        const zero = index.indexOf(0, at);
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
