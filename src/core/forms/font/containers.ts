/** The same font in another container: its tables stay as they are. */
import { deflateSync, inflateSync } from 'node:zlib';
import { Cursor } from '../../bytes';
import { FormatError } from '../../faults';
import { MOST_FONT_BYTES, tooLarge } from './font';
import type { FontOut } from './out-formats';

/** First bytes of each container: ISO/IEC 14496-22 (OpenType), W3C WOFF 1.0 and WOFF 2.0. */
const CONTAINERS: Readonly<Record<string, string>> = {
  '\0\x01\0\0': 'TrueType',
  true: 'TrueType',
  OTTO: 'OpenType',
  ttcf: 'TrueType collection',
  wOFF: 'WOFF',
  wOF2: 'WOFF2',
};

/** How each container is written. Plain tables are one, whatever their outlines. */
export const CONTAINER_FORMATS: Readonly<Record<string, FontOut>> = {
  TrueType: 'ttf',
  OpenType: 'ttf',
  WOFF: 'woff',
  WOFF2: 'woff2',
};

/** @returns the container of a font file, such as `WOFF2`; undefined when it is none */
export function fontContainer(bytes: Uint8Array): string | undefined {
  return CONTAINERS[Buffer.from(bytes.subarray(0, 4)).toString('latin1')];
}

/**
 * @param as `ttf` for the plain tables (OpenType with CFF too), `woff` or `woff2` for packed ones
 * @throws FormatError `wrong-kind` or `codec-failed` when it is no font or a broken one
 */
export async function fontAs(bytes: Uint8Array, as: FontOut, file: string): Promise<Uint8Array> {
  const container = fontContainer(bytes);
  if (container === undefined || container === 'TrueType collection')
    throw new FormatError({
      code: 'wrong-kind',
      file,
      what: 'it is not a single font',
      expected: 'TrueType, OpenType, WOFF or WOFF2',
      ...(container === undefined ? {} : { found: container }),
    });
  const plain = await plainTables(bytes, container, file);
  if (as === 'ttf') return plain;
  return as === 'woff' ? writeWoff(plain, file) : Uint8Array.from(await (await import('wawoff2')).compress(plain));
}

/**
 * The font as ISO/IEC 14496-22 lays it out.
 *
 * @param container as {@link fontContainer} returns it; a collection is returned unchanged
 * @throws FormatError `codec-failed` when the packed tables are broken
 */
export async function plainTables(bytes: Uint8Array, container: string, file: string): Promise<Uint8Array> {
  if (container === 'WOFF') return readWoff(bytes, file);
  if (container !== 'WOFF2') return bytes;
  try {
    return Uint8Array.from(await (await import('wawoff2')).decompress(bytes));
  } catch (error) {
    throw new FormatError({ code: 'codec-failed', file, what: 'its WOFF2 data is broken' }, { cause: error });
  }
}

interface Table {
  readonly tag: Uint8Array;
  readonly checksum: number;
  readonly at: number;
  readonly stored: number;
  readonly size: number;
}

const SFNT_HEAD = 12;
const SFNT_ROW = 16;
const WOFF_HEAD = 44;
const WOFF_ROW = 20;
const padded = (length: number): number => Math.ceil(length / 4) * 4;

/** W3C WOFF 1.0: a head, a row for each table, and the tables packed by zlib, or as they are when that is shorter. */
function readWoff(bytes: Uint8Array, file: string): Uint8Array {
  const cursor = new Cursor(bytes);
  cursor.advance(4);
  const flavour = cursor.take(4);
  cursor.advance(4);
  const count = cursor.u16(false);
  const rows: Table[] = [];
  cursor.advance(WOFF_HEAD - cursor.position);
  for (let i = 0; i < count; i++) {
    const tag = cursor.take(4);
    const [at, stored, size, checksum] = [cursor.u32(false), cursor.u32(false), cursor.u32(false), cursor.u32(false)];
    rows.push({ tag, at, stored, size, checksum });
  }
  const total = rows.reduce((sum, { size }) => sum + padded(size), SFNT_HEAD + SFNT_ROW * count);
  if (total > MOST_FONT_BYTES) throw tooLarge(total, file);
  return writeSfnt(
    flavour,
    rows.map((row) => ({ row, bytes: unpackTable(bytes.subarray(row.at, row.at + row.stored), row, file) })),
  );
}

function unpackTable(stored: Uint8Array, { size, at }: Table, file: string): Uint8Array {
  try {
    const plain = stored.length === size ? stored : inflateSync(stored, { maxOutputLength: Math.max(1, size) });
    if (plain.length === size) return plain;
    throw new RangeError(`${plain.length} bytes`);
  } catch (error) {
    throw new FormatError(
      {
        ...{ code: 'codec-failed', file, offset: at, what: 'a table of the font cannot be unpacked' },
        expected: `${size.toLocaleString('en')} bytes`,
      },
      { cause: error },
    );
  }
}

/** Where tables go that lie one after the other, in the order in which they lay before. */
function inOrder(tables: readonly { readonly at: number; readonly length: number }[], from: number): number[] {
  const places: number[] = [];
  let at = from;
  for (const i of tables.map((_, i) => i).sort((a, b) => tables[a]!.at - tables[b]!.at)) {
    places[i] = at;
    at += padded(tables[i]!.length);
  }
  return places;
}

function writeSfnt(flavour: Uint8Array, tables: readonly { row: Table; bytes: Uint8Array }[]): Uint8Array {
  const head = SFNT_HEAD + SFNT_ROW * tables.length;
  const made = Buffer.alloc(tables.reduce((sum, { bytes }) => sum + padded(bytes.length), head));
  const power = Math.max(0, 31 - Math.clz32(tables.length));
  made.set(flavour);
  made.writeUInt16BE(tables.length, 4);
  made.writeUInt16BE(16 << power, 6);
  made.writeUInt16BE(power, 8);
  made.writeUInt16BE(tables.length * 16 - (16 << power), 10);
  const places = inOrder(
    tables.map(({ row, bytes }) => ({ at: row.at, length: bytes.length })),
    head,
  );
  tables.forEach(({ row, bytes }, i) => {
    const place = SFNT_HEAD + SFNT_ROW * i;
    made.set(row.tag, place);
    made.writeUInt32BE(row.checksum, place + 4);
    made.writeUInt32BE(places[i]!, place + 8);
    made.writeUInt32BE(bytes.length, place + 12);
    made.set(bytes, places[i]!);
  });
  return made;
}

function writeWoff(plain: Uint8Array, file: string): Uint8Array {
  const cursor = new Cursor(plain);
  const flavour = cursor.take(4);
  const count = cursor.u16(false);
  cursor.advance(SFNT_HEAD - cursor.position);
  const tables = Array.from({ length: count }, () => {
    const tag = cursor.take(4);
    const [checksum, at, size] = [cursor.u32(false), cursor.u32(false), cursor.u32(false)];
    const bytes = plain.subarray(at, at + size);
    if (bytes.length !== size)
      throw new FormatError({ code: 'outside-file', file, offset: cursor.position - 8, what: 'a table of the font' });
    const packed = deflateSync(bytes, { level: 9 });
    return { tag, checksum, at, size, bytes: packed.length < size ? packed : bytes };
  });
  const head = WOFF_HEAD + WOFF_ROW * count;
  const made = Buffer.alloc(tables.reduce((sum, { bytes }) => sum + padded(bytes.length), head));
  made.write('wOFF', 'latin1');
  made.set(flavour, 4);
  made.writeUInt32BE(made.length, 8);
  made.writeUInt16BE(count, 12);
  made.writeUInt32BE(
    tables.reduce((sum, { size }) => sum + padded(size), SFNT_HEAD + SFNT_ROW * count),
    16,
  );
  made.writeUInt16BE(1, 20);
  const places = inOrder(
    tables.map((table) => ({ at: table.at, length: table.bytes.length })),
    head,
  );
  tables.forEach(({ tag, checksum, size, bytes }, i) => {
    const place = WOFF_HEAD + WOFF_ROW * i;
    made.set(tag, place);
    made.writeUInt32BE(places[i]!, place + 4);
    made.writeUInt32BE(bytes.length, place + 8);
    made.writeUInt32BE(size, place + 12);
    made.writeUInt32BE(checksum, place + 16);
    made.set(bytes, places[i]!);
  });
  return made;
}
