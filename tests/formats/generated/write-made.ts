/** Archives of formats made by chance, written by code of its own that shares nothing with the core. */
import { crc32, deflateSync } from 'node:zlib';
import type { Dice } from '../../soak/dice';
import { ciphered, INDEX_KEY, MAGIC_END, nameBytes, Numbers, up, xor, type MadeEntry } from './common';
import { BLOCK, DATA_AT, FIXED_NAME, FREE, LIST, type MadeFormat } from './format';

/** An archive of the entries, in an order that the format allows. */
export function writeMade(format: MadeFormat, entries: readonly MadeEntry[], dice: Dice): Buffer {
  const numbers = new Numbers(format.big);
  const sorted = format.list ? [...entries, { path: LIST, bytes: Buffer.alloc(0) }] : [...entries];
  if (format.sorted) sorted.sort((a, b) => Buffer.compare(Buffer.from(a.path), Buffer.from(b.path)));
  const slots = format.slots ? filledSlots(sorted) : sorted;
  const others = slots.flatMap((entry) => (entry === undefined || entry.path === LIST ? [] : [`${entry.path}\n`]));
  const rows = slots.flatMap((entry) =>
    entry === undefined
      ? []
      : [entry.path === LIST && format.list ? { path: LIST, bytes: Buffer.from(others.join('')) } : entry],
  );
  const pool = format.name === 'pooled' ? Buffer.from(rows.map(({ path }) => `${path}\0`).join('')) : Buffer.alloc(0);
  const packed = rows.map(({ bytes }): { method: number; inner: Buffer; sizes: number[] } => {
    if (format.split === 'blocks') {
      const blocks = Array.from({ length: Math.ceil(bytes.length / BLOCK) }, (_, i) => {
        const plain = bytes.subarray(i * BLOCK, (i + 1) * BLOCK);
        return format.packed === 'always' ? deflateSync(plain) : plain;
      });
      return { method: 0, inner: Buffer.concat(blocks), sizes: blocks.map(({ length }) => length) };
    }
    const small = deflateSync(bytes);
    const method = format.packed === 'always' || (format.packed === 'by method' && small.length < bytes.length) ? 1 : 0;
    return { method, inner: method === 1 ? small : bytes, sizes: [] };
  });
  const pieces = packed.map(({ inner }) => (format.split === 'pieces' ? someCuts(inner.length, dice) : []));
  let known: number[][] = [];
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
    // What has no pieces lies nowhere.
    if (format.split !== 'pieces' || packed[i]!.inner.length > 0) end = up(end, format.align);
    at[i] = end;
    stored[i] = ciphered(format, packed[i]!.inner, end, i, rows[i]!.path);
    // Further pieces lie behind everything else.
    end += pieces[i]![0] ?? stored[i].length;
  }
  const cuts = pieces.map((lengths, i) => {
    let from = 0;
    return lengths.map((length, k) => {
      const place = k === 0 ? at[i]! : end;
      if (k > 0) end += length;
      from += length;
      return { place, length, bytes: stored[i]!.subarray(from - length, from) };
    });
  });
  if (format.tail > 0) end = up(end, format.tail);
  known = cuts.map((one) => one.map(({ place }) => place));
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
  const file = Buffer.alloc(
    front ? up(Math.max(end, poolAt + pool.length), Math.max(1, format.tail)) : poolAt + pool.length + foot.length,
  );
  file.write('MADE');
  numbers.u32(slots.length).copy(file, 4);
  if (format.indexSum) numbers.u32(crc32(locked)).copy(file, 12);
  if (!inFoot) Buffer.concat(pointers).copy(file, 16);
  locked.copy(file, rowsAt);
  pool.copy(file, poolAt);
  foot.copy(file, poolAt + pool.length);
  for (const [i, bytes] of stored.entries())
    if (format.split === 'pieces') for (const { place, bytes: piece } of cuts[i]!) piece.copy(file, place);
    else bytes.copy(file, at[i]);
  if (format.fileSum) numbers.u32(crc32(file)).copy(file, 8);
  return file;

  function rowBytes(ats: readonly number[], bodies: readonly Buffer[]): Buffer {
    let poolOffset = 0;
    let next = 0;
    const made = slots.map((slot) => {
      if (slot === undefined) return undefined;
      const i = next++;
      const { path, bytes } = rows[i]!;
      const name = nameBytes(format, path, poolOffset, numbers);
      poolOffset += Buffer.byteLength(path) + 1;
      const told = Math.max(0, ats[i]! - (format.fromData ? DATA_AT : 0)) / (format.sectors ? format.align : 1);
      return Buffer.concat([
        name,
        ...(format.split === 'pieces' ? pieceBytes(i) : [numbers.u32(Math.floor(told))]),
        numbers.u32(bodies[i]!.length),
        numbers.u32(bytes.length),
        ...packed[i]!.sizes.map((size) => numbers.u32(size)),
        ...(format.packed === 'by method' ? [Buffer.from([packed[i]!.method])] : []),
        ...(format.entrySum === 'none' ? [] : [numbers.u32(crc32(format.entrySum === 'plain' ? bytes : bodies[i]!))]),
      ]);
    });
    const length = FIXED_NAME + 12 + (format.packed === 'by method' ? 1 : 0) + (format.entrySum === 'none' ? 0 : 4);
    return Buffer.concat(made.map((one) => one ?? freeSlot(length)));
  }

  /** A slot of zeros but for the length that says it is free. */
  function freeSlot(length: number): Buffer {
    const bytes = Buffer.alloc(length);
    numbers.u32(FREE).copy(bytes, FIXED_NAME + 4);
    return bytes;
  }

  function pieceBytes(i: number): Buffer[] {
    const count = Buffer.alloc(2);
    if (format.big) count.writeUInt16BE(pieces[i]!.length);
    else count.writeUInt16LE(pieces[i]!.length);
    const places = pieces[i]!.map((_, n) => numbers.u32(known[i]?.[n] ?? 0));
    return [count, ...places, ...pieces[i]!.map((length) => numbers.u32(length))];
  }
}

/** A table with twice as many slots as rows, each where a search that begins at its checksum finds it. */
function filledSlots(entries: readonly MadeEntry[]): (MadeEntry | undefined)[] {
  const slots: (MadeEntry | undefined)[] = Array.from({ length: Math.max(4, entries.length * 2) }, () => undefined);
  for (const entry of entries) {
    let slot = crc32(entry.path) % slots.length;
    while (slots[slot] !== undefined) slot = (slot + 1) % slots.length;
    slots[slot] = entry;
  }
  return slots;
}

/** Lengths of pieces that make so many bytes. */
function someCuts(length: number, dice: Dice): number[] {
  if (length === 0) return [];
  const cut = dice.upTo(length - 1);
  return dice.chance(0.5) || cut === 0 ? [length] : [cut, length - cut];
}
