/** bzip2: read by a library; written here, as no kept package writes it. */
import Bunzip from 'seek-bzip';
import { FormatError } from '../faults';
import { BitWriter } from './bit-io';
import { bzip2Crc, sortedRotations } from './bzip2-block';
import type { Codec } from './codec';
import { codeLengths, HuffmanCoder } from './huffman-code';
import { PlainOutput } from './plain-output';

const NAME = 'bzip2';
const UNIT = 100_000;
/** Room that the first run-length code may need beyond the block. */
const SLACK = 20;
/** Symbols that share a choice of code, and the longest code that a reader takes. */
const GROUP = 50;
const LONGEST = 17;
const ROUNDS = 4;

export const bzip2: Codec = {
  name: NAME,
  family: 'compression',
  about: 'bzip2 streams, as the bzip2 tool writes them; `level` 1 to 9 is the block in 100,000 bytes.',
  params: [{ name: 'level', type: 'number', otherwise: 9 }],
  decode: (stored, context) => {
    const out = new PlainOutput(NAME, context);
    try {
      Bunzip.decode(Buffer.from(stored.buffer, stored.byteOffset, stored.length), {
        writeByte: (byte: number) => out.byte(byte),
        flush: () => undefined,
      });
    } catch (error) {
      if (error instanceof FormatError || (error as { fault?: unknown }).fault !== undefined) throw error;
      throw new FormatError(
        {
          code: 'codec-failed',
          what: `bzip2 cannot unpack this stretch (${(error as Error).message || 'damaged'})`,
          hint: 'The bytes may be damaged, locked, or packed another way.',
        },
        { cause: error },
      );
    }
    return out.finish();
  },
  encode: (plain, { params }) => {
    const level = Math.min(9, Math.max(1, Number(params['level'] ?? 9)));
    const bits = new BitWriter('high');
    for (const byte of Buffer.from(`BZh${level}`)) bits.bits(byte, 8);
    let whole = 0;
    for (let at = 0; at < plain.length;) {
      const { runs, end } = runLengths(plain, at, level * UNIT - SLACK);
      const crc = bzip2Crc(plain.subarray(at, end));
      whole = ((whole << 1) | (whole >>> 31)) ^ crc;
      writeBlock(bits, runs, crc);
      at = end;
    }
    number48(bits, 0x1772, 0x45385090);
    number32(bits, whole);
    return bits.finish();
  },
};

const number32 = (bits: BitWriter, value: number) => {
  bits.bits(value >>> 16, 16);
  bits.bits(value & 0xffff, 16);
};
const number48 = (bits: BitWriter, high: number, low: number) => {
  bits.bits(high, 16);
  number32(bits, low);
};

/** The first run-length code: four equal bytes are followed by how many more there are, up to 251. */
function runLengths(plain: Uint8Array, from: number, room: number): { runs: Uint8Array; end: number } {
  const runs = new Uint8Array(room + SLACK);
  let length = 0;
  let at = from;
  while (at < plain.length && length < room) {
    let run = 1;
    while (run < 255 && plain[at + run] === plain[at]) run++;
    for (let i = 0; i < Math.min(run, 4); i++) runs[length++] = plain[at]!;
    if (run >= 4) runs[length++] = run - 4;
    at += run;
  }
  return { runs: runs.subarray(0, length), end: at };
}

function writeBlock(bits: BitWriter, bytes: Uint8Array, crc: number): void {
  number48(bits, 0x3141, 0x59265359);
  number32(bits, crc);
  bits.bits(0, 1);
  const rotations = sortedRotations(bytes);
  bits.bits(rotations.indexOf(0), 24);
  const { symbols, used } = movedToFront(bytes, rotations);
  for (let i = 0; i < 16; i++) bits.bits(used.some((value) => value >> 4 === i) ? 1 : 0, 1);
  for (let i = 0; i < 16; i++)
    if (used.some((value) => value >> 4 === i))
      for (let k = 0; k < 16; k++) bits.bits(used.includes(i * 16 + k) ? 1 : 0, 1);
  const alphabet = used.length + 2;
  const { tables, choices } = chosenCodes(symbols, alphabet);
  bits.bits(tables.length, 3);
  bits.bits(choices.length, 15);
  const order = tables.map((_, i) => i);
  for (const choice of choices) {
    const place = order.indexOf(choice);
    for (let i = 0; i < place; i++) bits.bits(1, 1);
    bits.bits(0, 1);
    order.unshift(...order.splice(place, 1));
  }
  for (const lengths of tables) {
    let before = lengths[0]!;
    bits.bits(before, 5);
    for (const length of lengths) {
      for (; before < length; before++) bits.bits(2, 2);
      for (; before > length; before--) bits.bits(3, 2);
      bits.bits(0, 1);
    }
  }
  const coders = tables.map((lengths) => new HuffmanCoder(lengths));
  for (const [i, symbol] of symbols.entries()) coders[choices[Math.floor(i / GROUP)]!]!.write(bits, symbol);
}

/** The last column of the sorted rotations, each byte as its place among those last seen; zeros as their count in base 2. */
function movedToFront(bytes: Uint8Array, rotations: Int32Array): { symbols: number[]; used: number[] } {
  const used = [...new Set(bytes)].sort((a, b) => a - b);
  const order = [...used];
  const symbols: number[] = [];
  let zeros = 0;
  const flush = () => {
    for (let left = zeros; left > 0; left = (left - 1) >> 1) symbols.push((left - 1) & 1);
    zeros = 0;
  };
  for (const start of rotations) {
    const byte = bytes[(start + bytes.length - 1) % bytes.length]!;
    const place = order.indexOf(byte);
    if (place === 0) zeros++;
    else {
      flush();
      symbols.push(place + 1);
      order.splice(place, 1);
      order.unshift(byte);
    }
  }
  flush();
  symbols.push(used.length + 1);
  return { symbols, used };
}

/** Two to six codes, each fitted to the groups that are shortest with it. */
function chosenCodes(symbols: readonly number[], alphabet: number): { tables: number[][]; choices: number[] } {
  const count =
    symbols.length < 200 ? 2 : symbols.length < 600 ? 3 : symbols.length < 1200 ? 4 : symbols.length < 2400 ? 5 : 6;
  const groups = Math.ceil(symbols.length / GROUP);
  let choices = Array.from({ length: groups }, (_, i) => Math.floor((i * count) / groups));
  let tables: number[][] = [];
  for (let round = 0; round < ROUNDS; round++) {
    const counts = Array.from({ length: count }, () => Array.from({ length: alphabet }, () => 1));
    for (const [i, symbol] of symbols.entries()) counts[choices[Math.floor(i / GROUP)]!]![symbol]! += 256;
    tables = counts.map((one) => codeLengths(one, LONGEST));
    if (round === ROUNDS - 1) break;
    choices = choices.map((_, group) => {
      const part = symbols.slice(group * GROUP, (group + 1) * GROUP);
      const costs = tables.map((lengths) => part.reduce((sum, symbol) => sum + lengths[symbol]!, 0));
      return costs.indexOf(Math.min(...costs));
    });
  }
  return { tables, choices };
}
