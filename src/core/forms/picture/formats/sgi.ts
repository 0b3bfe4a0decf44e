/**
 * The SGI image file format, version 1.00: 8 bits a channel of grey, grey with alpha, colours, and colours with alpha. Written as
 * the file that it replaces is.
 */
import { FormatError } from '../../../faults';
import { isSgiHeader } from '../../../game';
import { checkSizes, type Picture } from '../picture';
import { findPixelFormat } from '../pixel-formats';
import { oneLevel } from './indexed';

const HEADER = 512;
/** By the number of channels, which lie one behind the other. */
const FORMATS = ['grey8', 'grey8a8', 'rgb8', 'rgba8'] as const;
/** A number of bytes that follow as they are; without it, one that repeats. */
const LITERAL = 0x80;
const MOST_RUN = 127;

const view = (bytes: Uint8Array) => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);

interface Header {
  readonly width: number;
  readonly height: number;
  readonly channels: number;
  readonly packed: boolean;
}

function readHeader(bytes: Uint8Array, file: string): Header {
  if (!isSgiHeader(bytes) || bytes.length < HEADER)
    throw new FormatError({ code: 'wrong-kind', file, offset: 0, expected: 'a header of SGI' });
  const data = view(bytes);
  const dimensions = data.getUint16(4);
  const refuse = (offset: number, field: string, expected: string, found: number) =>
    new FormatError({ code: 'wrong-kind', file, offset, field, expected, found: String(found) });
  if (bytes[3] !== 1) throw refuse(3, 'bytes a channel', '1', bytes[3]!);
  const channels = dimensions < 3 ? 1 : data.getUint16(10);
  if (channels < 1 || channels > FORMATS.length) throw refuse(10, 'channels', '1 to 4', channels);
  if (data.getUint32(104) !== 0) throw refuse(104, 'colour map', '0, for colours as they are', data.getUint32(104));
  const width = data.getUint16(6);
  const height = dimensions < 2 ? 1 : data.getUint16(8);
  checkSizes(file, { width, height, mips: 1 });
  return { width, height, channels, packed: bytes[2] === 1 };
}

/** @throws FormatError with the offset and what was expected and found there */
export function readSgi(bytes: Uint8Array, file: string): Picture {
  const header = readHeader(bytes, file);
  const { width, height, channels, packed } = header;
  const tables = packed ? 8 * height * channels : 0;
  // What cannot be in the file is not made room for: a run is at most 127 long, and equal rows may share their bytes.
  const most = (bytes.length - HEADER) * (packed ? MOST_RUN : 1);
  if (tables > bytes.length - HEADER || width * height * channels > most) throw tooShort(file, bytes.length);
  const level = new Uint8Array(width * height * channels);
  const line = new Uint8Array(width);
  for (let channel = 0; channel < channels; channel++)
    for (let row = 0; row < height; row++) {
      const at = channel * height + row;
      if (packed) unpackRow(bytes, at, height * channels, line, file);
      else line.set(bytes.subarray(HEADER + at * width, HEADER + (at + 1) * width));
      // The lowest row comes first.
      let to = (height - 1 - row) * width * channels + channel;
      for (let x = 0; x < width; x++, to += channels) level[to] = line[x]!;
    }
  return oneLevel(findPixelFormat(FORMATS[channels - 1]!)!, width, height, level);
}

/** @param index of the row in the table of offsets, behind which are as many lengths */
function unpackRow(bytes: Uint8Array, index: number, rows: number, line: Uint8Array, file: string): void {
  const data = view(bytes);
  const start = data.getUint32(HEADER + 4 * index);
  const end = start + data.getUint32(HEADER + 4 * (rows + index));
  if (end > bytes.length)
    throw new FormatError({
      code: 'cut-short',
      file,
      offset: HEADER + 4 * index,
      field: `row ${index}`,
      expected: `bytes up to ${end.toLocaleString('en')}`,
      found: `${bytes.length.toLocaleString('en')} bytes`,
    });
  let at = start;
  for (let done = 0; done < line.length;) {
    if (at >= end) throw tooShort(file, at);
    const head = bytes[at++]!;
    const length = head & ~LITERAL;
    const isLiteral = (head & LITERAL) !== 0;
    if (length === 0 || done + length > line.length || at + (isLiteral ? length : 1) > end) throw tooShort(file, at);
    if (isLiteral) line.set(bytes.subarray(at, at + length), done);
    else line.fill(bytes[at]!, done, done + length);
    at += isLiteral ? length : 1;
    done += length;
  }
}

const tooShort = (file: string, offset: number) =>
  new FormatError({ code: 'cut-short', file, offset, what: 'the picture ends too early' });

/** How the pixels lie in a file: two that are alike are read by the same programs. */
export function sgiStorage(bytes: Uint8Array, file: string): string {
  const { channels, packed } = readHeader(bytes, file);
  return [channels, packed].join();
}

/**
 * The picture in the file of another: its header and name, packed if it is.
 *
 * @param picture in the pixel format of the original
 */
export function graftSgi(original: Uint8Array, { width, height, levels }: Picture, file: string): Uint8Array {
  const { channels, packed } = readHeader(original, file);
  const head = original.slice(0, HEADER);
  view(head).setUint16(6, width);
  view(head).setUint16(8, height);
  const level = levels[0]!;
  const rows: Uint8Array[] = [];
  for (let channel = 0; channel < channels; channel++)
    for (let row = 0; row < height; row++) {
      const from = (height - 1 - row) * width * channels + channel;
      const line = Uint8Array.from({ length: width }, (_, x) => level[from + x * channels]!);
      rows.push(packed ? packRow(line) : line);
    }
  if (!packed) return new Uint8Array(Buffer.concat([head, ...rows]));
  const tables = new Uint8Array(8 * rows.length);
  const data = view(tables);
  let at = HEADER + tables.length;
  for (const [i, row] of rows.entries()) {
    data.setUint32(4 * i, at);
    data.setUint32(4 * (rows.length + i), row.length);
    at += row.length;
  }
  return new Uint8Array(Buffer.concat([head, tables, ...rows]));
}

/** Three and more equal bytes are a run. A row ends with a zero. */
function packRow(line: Uint8Array): Uint8Array {
  const out: number[] = [];
  const runAt = (from: number): number => {
    let length = 1;
    while (length < MOST_RUN && from + length < line.length && line[from + length] === line[from]) length++;
    return length;
  };
  for (let at = 0; at < line.length;) {
    const run = runAt(at);
    if (run > 2) {
      out.push(run, line[at]!);
      at += run;
      continue;
    }
    let end = at + 1;
    while (end < line.length && end - at < MOST_RUN && runAt(end) < 3) end++;
    out.push(LITERAL | (end - at), ...line.subarray(at, end));
    at = end;
  }
  out.push(0);
  return Uint8Array.from(out);
}
