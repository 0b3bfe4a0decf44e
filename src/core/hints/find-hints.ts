/** What an unknown file gives away: constants, tables of offsets, counts, texts, packed streams, randomness. */
import type { ByteSource } from '../bytes';
import { throwIfStopped } from '../faults';
import { pathTexts, namesHint } from './path-hints';
import { packedStreams, randomStretches } from './stream-hints';
import { type Hint, hex, number } from './hint';

/** The front of a file is looked through byte by byte, the rest by samples. */
const FRONT_BYTES = 1 << 20;

const HEADER_BYTES = 64;

/** Rows that make a table. */
const LEAST_ROWS = 4;

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
