/** What an unknown file gives away: constants, tables of offsets, counts, texts, packed streams, randomness. */
import { inflateRawSync, inflateSync } from 'node:zlib';
import type { ByteSource } from '../bytes';
import { throwIfStopped } from '../faults';
import { entropy } from './randomness';

/** Lines for a recipe, and the part they belong to. */
export interface RecipeLines {
  readonly part: 'match' | 'header' | 'row' | 'regions' | 'entries';
  readonly text: string;
}

export interface Hint {
  readonly what: string;
  readonly at: number;
  readonly length: number;
  readonly lines: readonly RecipeLines[];
}

/** The front of a file is looked through byte by byte, the rest by samples. */
const FRONT_BYTES = 1 << 20;
const HEADER_BYTES = 64;
/** Rows that make a table. */
const LEAST_ROWS = 4;
const MOST_BETWEEN_NAMES = 512;
const STRIDES = Array.from({ length: 32 }, (_, i) => 4 * (i + 1));

/** Looks through a file of any size; reads its first MiB, its last 64 KiB and samples between. */
export async function findHints(source: ByteSource, signal?: AbortSignal): Promise<Hint[]> {
  const front = await source.read(0, Math.min(source.size, FRONT_BYTES));
  const hints: Hint[] = [...signature(front), ...endSignature(await tail(source), source.size)];
  throwIfStopped(signal);
  const tables = offsetTables(front, source.size);
  const names = pathTexts(front);
  const counts = [...new Set([...tables.map(({ rows }) => rows), names.length])].filter((count) => count >= LEAST_ROWS);
  hints.push(...headerNumbers(front, source.size, counts));
  hints.push(...tables.map(tableHint));
  if (names.length >= 2) hints.push(namesHint(names));
  hints.push(...packedStreams(front));
  throwIfStopped(signal);
  hints.push(...(await randomStretches(source)));
  return hints;
}

async function tail(source: ByteSource): Promise<Uint8Array> {
  const length = Math.min(source.size, 64 << 10);
  return source.read(source.size - length, length);
}

const hex = (value: number) => `0x${value.toString(16).toUpperCase()}`;
const number = (value: number) => value.toLocaleString('en');
const isLetter = (byte: number) =>
  (byte >= 0x30 && byte <= 0x39) || (byte >= 0x41 && byte <= 0x5a) || (byte >= 0x61 && byte <= 0x7a);

function signature(front: Uint8Array): Hint[] {
  let length = 0;
  while (length < 8 && length < front.length && isLetter(front[length]!)) length++;
  if (length >= 3) {
    const text = Buffer.from(front.subarray(0, length)).toString('latin1');
    return [
      {
        what: `the file begins with “${text}”`,
        at: 0,
        length,
        lines: [
          { part: 'match', text: `match: { at: 0, bytes: ${text} }` },
          { part: 'header', text: `- { field: magic, as: ascii(${length}), must: ${text} }` },
        ],
      },
    ];
  }
  if (front.length < 4) return [];
  const bytes = Buffer.from(front.subarray(0, 4))
    .toString('hex')
    .toUpperCase()
    .replace(/(..)(?=.)/g, '$1 ');
  return [
    {
      what: `the file begins with the bytes ${bytes}`,
      at: 0,
      length: 4,
      lines: [
        { part: 'match', text: `match: { at: 0, bytes: ${bytes} }` },
        { part: 'header', text: `- { field: magic, as: bytes(4), must: ${bytes} }` },
      ],
    },
  ];
}

function endSignature(end: Uint8Array, size: number): Hint[] {
  const last = end.subarray(Math.max(0, end.length - 4));
  if (last.length < 4 || !last.every(isLetter) || size < 16) return [];
  const text = Buffer.from(last).toString('latin1');
  return [
    {
      what: `the file ends with “${text}”: there may be a footer before it`,
      at: size - 4,
      length: 4,
      lines: [{ part: 'match', text: `match: { at: -4, bytes: ${text} }` }],
    },
  ];
}

/** Numbers in the first bytes that are the file's size, a place in it, or a count that was found elsewhere. */
/** In a large file half of all numbers are places in it: only one so near its end that chance seldom leads there is evidence. */
function firstTellingPlace(size: number): number {
  return Math.max(size / 2, size - MAX_TELLING_BYTES);
}
const MAX_TELLING_BYTES = 2 ** 26;

function headerNumbers(front: Uint8Array, size: number, counts: readonly number[]): Hint[] {
  const view = new DataView(front.buffer, front.byteOffset, front.byteLength);
  const hints: Hint[] = [];
  for (let at = 4; at + 4 <= Math.min(front.length, HEADER_BYTES); at += 2) {
    for (const little of [true, false]) {
      const value = view.getUint32(at, little);
      const order = little ? '' : ', numbers: big';
      const field = (name: string, is: string) => `- { field: ${name}, as: u32${order}, is: ${is} }`;
      const where = `u32 at ${hex(at)}${little ? '' : ' (big-endian)'}`;
      if (value === size)
        hints.push({
          what: `${where} is the size of the file`,
          at,
          length: 4,
          lines: [{ part: 'header', text: field('fileSize', 'end') }],
        });
      else if (counts.includes(value))
        hints.push({
          what: `${where} is ${number(value)}, as many as were found`,
          at,
          length: 4,
          lines: [{ part: 'header', text: field('count', 'count(entries)') }],
        });
      else if (at % 4 === 0 && value >= HEADER_BYTES && value < size && value >= firstTellingPlace(size))
        hints.push({
          what: `${where} is ${hex(value)}, a place in the file`,
          at,
          length: 4,
          lines: [
            { part: 'header', text: field('indexAt', 'start(index)') },
            { part: 'regions', text: '- { region: index, at: head.indexAt, holds: row[head.count] }' },
          ],
        });
    }
  }
  return hints;
}

interface OffsetTable {
  readonly at: number;
  readonly stride: number;
  /** Where in a row the offset is. */
  readonly column: number;
  readonly rows: number;
  readonly little: boolean;
}

/** Rows of equal length whose numbers grow and stay inside the file. */
function offsetTables(front: Uint8Array, size: number): OffsetTable[] {
  const view = new DataView(front.buffer, front.byteOffset, front.byteLength);
  const found: OffsetTable[] = [];
  const limit = Math.min(front.length, 64 << 10);
  for (const little of [true, false]) {
    for (const stride of STRIDES) {
      for (let phase = 0; phase < stride; phase += 4) {
        let rows = 0;
        let before = 0;
        for (let at = phase; at + 4 <= limit; at += stride) {
          const value = view.getUint32(at, little);
          if (value > before && value < size && value >= 8) rows++;
          else {
            note(found, { at: at - rows * stride, stride, column: 0, rows, little });
            rows = value >= 8 && value < size ? 1 : 0;
          }
          before = rows > 0 ? value : 0;
        }
        note(found, {
          at: phase + Math.floor((limit - phase) / stride) * stride - rows * stride,
          stride,
          column: 0,
          rows,
          little,
        });
      }
    }
  }
  // The longest tables, each place once: a table of stride 8 also grows at every second row.
  const best = found.sort((a, b) => b.rows - a.rows || a.stride - b.stride);
  const kept: OffsetTable[] = [];
  for (const table of best) {
    const end = table.at + table.rows * table.stride;
    if (kept.some((one) => table.at < one.at + one.rows * one.stride && end > one.at)) continue;
    kept.push(table);
    if (kept.length === 3) break;
  }
  return kept;
}

function note(found: OffsetTable[], table: OffsetTable): void {
  if (table.rows >= LEAST_ROWS) found.push(table);
}

function tableHint({ at, stride, rows, little }: OffsetTable): Hint {
  const order = little ? '' : ', numbers: big';
  return {
    what: `${number(rows)} numbers from ${hex(at)} on grow every ${stride} bytes and stay inside the file: offsets?`,
    at,
    length: rows * stride,
    lines: [
      { part: 'row', text: `- { field: at, as: u32${order}, is: entry.at }` },
      ...(stride > 4 ? [{ part: 'row' as const, text: `- { field: rest, as: bytes(${stride - 4}) }` }] : []),
      { part: 'regions', text: `- { region: index, at: ${at}, holds: 'row[${rows}]' }` },
    ],
  };
}

interface NameText {
  readonly at: number;
  readonly text: string;
}

/** Texts that look like paths: letters, a dot and an extension. */
function pathTexts(front: Uint8Array): readonly NameText[] {
  const text = Buffer.from(front).toString('latin1');
  const found: NameText[] = [];
  for (const match of text.matchAll(/[A-Za-z0-9_][A-Za-z0-9_/\\. -]{3,200}\.[A-Za-z0-9]{2,5}(?![A-Za-z0-9])/g)) {
    found.push({ at: match.index, text: match[0] });
    if (found.length >= 10_000) break;
  }
  return nearest(found);
}

/** Names stand together, in a table or a pool; what looks like one far away in packed bytes is chance. */
function nearest(names: readonly NameText[]): readonly NameText[] {
  const groups: NameText[][] = [];
  let end = -Infinity;
  for (const name of names) {
    if (name.at - end > MOST_BETWEEN_NAMES) groups.push([]);
    groups.at(-1)!.push(name);
    end = name.at + name.text.length;
  }
  const largest = groups.sort((a, b) => b.length - a.length)[0] ?? [];
  return largest.length > 2 ? largest : names;
}

function namesHint(names: readonly NameText[]): Hint {
  const [first] = names;
  const last = names.at(-1)!;
  return {
    what: `${number(names.length)} names such as “${first!.text.slice(0, 40)}” from ${hex(first!.at)} on`,
    at: first!.at,
    length: last.at + last.text.length - first!.at,
    lines: [
      { part: 'row', text: '- { field: name, as: text(u16, utf-8), is: entry.path }' },
      { part: 'entries', text: 'path: row.name' },
    ],
  };
}

const SIGNATURES: readonly {
  readonly name: string;
  readonly step: string | undefined;
  readonly bytes: readonly number[];
}[] = [
  { name: 'gzip', step: 'gzip', bytes: [0x1f, 0x8b, 0x08] },
  { name: 'zstd', step: 'zstd', bytes: [0x28, 0xb5, 0x2f, 0xfd] },
  { name: 'LZ4 frame', step: 'lz4-frame', bytes: [0x04, 0x22, 0x4d, 0x18] },
  { name: 'xz', step: 'xz', bytes: [0xfd, 0x37, 0x7a, 0x58, 0x5a, 0x00] },
  { name: 'PNG picture', step: undefined, bytes: [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a] },
  { name: 'RIFF sound or film', step: undefined, bytes: [0x52, 0x49, 0x46, 0x46] },
  { name: 'OGG sound', step: undefined, bytes: [0x4f, 0x67, 0x67, 0x53, 0x00] },
  { name: 'DDS picture', step: undefined, bytes: [0x44, 0x44, 0x53, 0x20, 0x7c] },
];

/** Streams found by their signatures, and zlib by trial. */
function packedStreams(front: Uint8Array): Hint[] {
  const buffer = Buffer.from(front.buffer, front.byteOffset, front.byteLength);
  const hints: Hint[] = [];
  for (const { name, step, bytes } of SIGNATURES) {
    const places: number[] = [];
    for (
      let at = buffer.indexOf(Buffer.from(bytes));
      at >= 0 && places.length < 100;
      at = buffer.indexOf(Buffer.from(bytes), at + 1)
    )
      places.push(at);
    if (places.length > 0 && !(places.length === 1 && places[0] === 0)) hints.push(streamHint(name, step, places));
  }
  const zlibPlaces: number[] = [];
  for (let at = 0; at + 8 < front.length && zlibPlaces.length < 100; at++) {
    const header = (front[at]! << 8) | front[at + 1]!;
    if (front[at] === 0x78 && header % 31 === 0 && inflates(buffer.subarray(at, at + 4096))) zlibPlaces.push(at);
  }
  if (zlibPlaces.length > 0) hints.push(streamHint('zlib', 'zlib', zlibPlaces));
  return hints;
}

/** True when the bytes unpack, or would if there were more of them. */
function inflates(bytes: Uint8Array): boolean {
  try {
    inflateSync(bytes, { maxOutputLength: 1 << 20 });
    return true;
  } catch (error) {
    const { code } = error as { code?: string };
    if (code !== 'Z_BUF_ERROR' && code !== 'ERR_BUFFER_TOO_LARGE') return false;
    return bytes.length > 64 && entropy(inflateStart(bytes)) < 7.9;
  }
}

function inflateStart(bytes: Uint8Array): Uint8Array {
  try {
    return inflateRawSync(bytes.subarray(2), { finishFlush: 2, maxOutputLength: 1 << 20 });
  } catch {
    return new Uint8Array(0);
  }
}

function streamHint(name: string, step: string | undefined, places: readonly number[]): Hint {
  const shown = places.slice(0, 3).map(hex).join(', ');
  return {
    what: `${name} ${places.length === 1 ? 'is' : 'begins'} at ${shown}${places.length > 3 ? ` and ${places.length - 3} more` : ''}`,
    at: places[0]!,
    length: 8,
    lines: step === undefined ? [] : [{ part: 'entries', text: `through: [${step}]` }],
  };
}

/** Long stretches that look locked or packed. */
async function randomStretches(source: ByteSource): Promise<Hint[]> {
  const cells = 64;
  const width = source.size / cells;
  if (width < 512) return [];
  const hints: Hint[] = [];
  let from = -1;
  for (let cell = 0; cell <= cells; cell++) {
    const at = Math.floor(cell * width);
    const high = cell < cells && entropy(await source.read(at, Math.min(4096, Math.floor(width)))) > 7.85;
    if (high && from < 0) from = at;
    if (!high && from >= 0) {
      const length = at - from;
      if (length > width * 1.5)
        hints.push({
          what: `${hex(from)} to ${hex(at)} looks packed or locked (nearly 8 bits a byte)`,
          at: from,
          length,
          lines: [],
        });
      from = -1;
    }
  }
  return hints.slice(0, 4);
}
