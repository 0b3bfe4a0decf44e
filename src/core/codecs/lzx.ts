/** LZX, as cabinets ([MS-PATCH], section 2, without its additions) and Windows images have it. */
import type { Codec, CodecContext } from './codec';
import { broken, unfitParameter } from './own-fault';
import { PlainOutput } from './plain-output';
import { WordBits, WordCode } from './word-bits';

const NAME = 'lzx';
const FRAME = 1 << 15;
/** Lengths from here on go on in a code of their own. */
const LONG = 7;
const LENGTHS = 249;
const LEAST = 2;
const PRE = 20;
const LITERALS = 256;
const SLOTS: Readonly<Record<number, number>> = { 15: 30, 16: 32, 17: 34, 18: 36, 19: 38, 20: 42, 21: 50 };
/** What Windows images take as the length of the file when calls are translated. */
const IMAGE_SIZE = 12_000_000;
const VERBATIM = 1;
const ALIGNED = 2;
const PLAIN = 3;

/** Bits behind each slot of distances, and the least distance of it. */
const EXTRA = Array.from({ length: 51 }, (_, slot) => (slot < 4 ? 0 : Math.min((slot >> 1) - 1, 17)));
const BASE = EXTRA.map((_, slot) => EXTRA.slice(0, slot).reduce((sum, bits) => sum + 2 ** bits, 0));

interface Setting {
  readonly slots: number;
  readonly window: number;
  readonly image: boolean;
  /** Frames after which everything begins again; 0 for never. */
  readonly reset: number;
}

function settingOf({ params }: CodecContext): Setting {
  const window = Number(params['window']);
  const slots = SLOTS[window];
  if (slots === undefined) throw unfitParameter(NAME, 'window', '15 to 21 bits', params['window']);
  const reset = Number(params['reset']);
  if (!Number.isInteger(reset) || reset < 0)
    throw unfitParameter(NAME, 'reset', 'a number of frames, or 0', params['reset']);
  return { slots, window, image: params['form'] === 'image', reset };
}

class Decoder {
  private readonly bits: WordBits;
  private readonly main: Uint8Array;
  private readonly long = new Uint8Array(LENGTHS);
  private recent = [1, 1, 1];
  /** The length of the file that calls were translated for; 0 when they were not. */
  private translated = 0;
  private left = 0;
  private type = 0;
  private codes: { main: WordCode; long: WordCode; aligned: WordCode | undefined } | undefined;
  /** The plain bytes of the present block are followed by one that fills up the word. */
  private isOdd = false;

  constructor(
    private readonly stored: Uint8Array,
    private readonly out: PlainOutput,
    private readonly setting: Setting,
  ) {
    this.bits = new WordBits(stored, NAME);
    this.main = new Uint8Array(LITERALS + 8 * setting.slots);
  }

  /** @returns the length of the file that calls were translated for, or 0 */
  run(): number {
    const { out, setting, bits } = this;
    for (let frame = 0; !out.isFull; frame++) {
      if (frame === 0 || (setting.reset > 0 && frame % setting.reset === 0)) this.begin();
      const end = (frame + 1) * FRAME;
      while (out.length < end && !out.isFull) {
        if (this.left === 0 && !this.nextBlock()) return this.translated;
        const before = out.length;
        if (this.type === PLAIN) this.copyPlain(end);
        else this.decodeSome(end);
        this.left -= out.length - before;
        if (this.left < 0) throw broken(NAME, 'a match runs over the end of its block', bits.place);
      }
      if (!setting.image && this.type !== PLAIN) bits.toWord();
    }
    return this.translated;
  }

  private begin(): void {
    this.main.fill(0);
    this.long.fill(0);
    this.recent = [1, 1, 1];
    this.left = 0;
    if (this.setting.image) this.translated = IMAGE_SIZE;
    else if (this.stored.length > 0 && this.bits.bits(1) === 1)
      this.translated = this.bits.bits(16) * 65_536 + this.bits.bits(16);
  }

  /** @returns false at the end of the stretch */
  private nextBlock(): boolean {
    const { bits, setting } = this;
    if (this.isOdd) bits.take(1);
    this.isOdd = false;
    if (bits.left < (setting.image ? 4 : 27)) return false;
    this.type = bits.bits(3);
    if (setting.image) this.left = bits.bits(1) === 1 ? FRAME : bits.bits(16);
    else this.left = bits.bits(16) * 256 + bits.bits(8);
    if (this.type === PLAIN) {
      bits.toWord(true);
      this.recent = [0, 1, 2].map(() => new DataView(Uint8Array.from(bits.take(4)).buffer).getUint32(0, true));
      this.isOdd = this.left % 2 === 1;
      return true;
    }
    if (this.type !== VERBATIM && this.type !== ALIGNED)
      throw broken(NAME, `there is no block ${this.type}`, bits.place);
    const aligned =
      this.type === ALIGNED
        ? new WordCode(
            Uint8Array.from({ length: 8 }, () => bits.bits(3)),
            NAME,
          )
        : undefined;
    this.readLengths(this.main, 0, LITERALS);
    this.readLengths(this.main, LITERALS, this.main.length);
    this.readLengths(this.long, 0, LENGTHS);
    this.codes = { main: new WordCode(this.main, NAME), long: new WordCode(this.long, NAME), aligned };
    return true;
  }

  /** Lengths of codes, stored as differences to those of the block before. */
  private readLengths(lengths: Uint8Array, from: number, to: number): void {
    const { bits } = this;
    const pre = new WordCode(
      Uint8Array.from({ length: PRE }, () => bits.bits(4)),
      NAME,
    );
    const changed = (i: number, symbol: number) => (lengths[i]! + 17 - symbol) % 17;
    for (let i = from; i < to;) {
      const symbol = pre.read(bits);
      if (symbol < 17) {
        lengths[i] = changed(i, symbol);
        i++;
        continue;
      }
      const count = symbol === 17 ? 4 + bits.bits(4) : symbol === 18 ? 20 + bits.bits(5) : 4 + bits.bits(1);
      const value = symbol === 19 ? changed(i, this.plainSymbol(pre)) : 0;
      if (i + count > to) throw broken(NAME, 'a run of code lengths is too long', bits.place);
      lengths.fill(value, i, i + count);
      i += count;
    }
  }

  private plainSymbol(pre: WordCode): number {
    const symbol = pre.read(this.bits);
    if (symbol > 16) throw broken(NAME, 'a run of code lengths within another', this.bits.place);
    return symbol;
  }

  private copyPlain(end: number): void {
    this.out.put(this.bits.take(Math.min(this.left, end - this.out.length)));
  }

  private decodeSome(end: number): void {
    const { bits, out, codes } = this;
    const { main, long } = codes!;
    const most = Math.min(end, out.length + this.left);
    while (out.length < most && !out.isFull) {
      const from = bits.place;
      const symbol = main.read(bits);
      if (symbol < LITERALS) {
        out.byte(symbol);
        continue;
      }
      let length = (symbol - LITERALS) & LONG;
      if (length === LONG) length += long.read(bits);
      const distance = this.distance((symbol - LITERALS) >> 3);
      out.copy(distance, length + LEAST, from);
    }
  }

  private distance(slot: number): number {
    const { recent, bits } = this;
    if (slot < 3) {
      const distance = recent[slot]!;
      if (distance < 1) throw broken(NAME, 'a match of no distance', bits.place);
      recent[slot] = recent[0]!;
      recent[0] = distance;
      return distance;
    }
    const extra = EXTRA[slot]!;
    const aligned = extra >= 3 ? this.codes!.aligned : undefined;
    const high = aligned === undefined ? extra : extra - 3;
    let value = high > 16 ? bits.bits(high - 16) * 65_536 + bits.bits(16) : bits.bits(high);
    if (aligned !== undefined) value = value * 8 + aligned.read(bits);
    const distance = BASE[slot]! + value - 2;
    if (distance > 1 << this.setting.window) throw broken(NAME, 'a match begins before its window', bits.place);
    this.recent = [distance, recent[0]!, recent[1]!];
    return distance;
  }
}

/** Targets of calls (0xE8) were made absolute before packing: here they become what they were. */
function translate(bytes: Uint8Array, fileSize: number, way: 'back' | 'forth'): Uint8Array {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  for (let start = 0; start < bytes.length && start < FRAME * FRAME; start += FRAME) {
    const end = Math.min(start + FRAME, bytes.length) - 10;
    for (let at = start; at < end; at++) {
      if (bytes[at] !== 0xe8) continue;
      const target = view.getInt32(at + 1, true);
      if (target >= -at && target < fileSize) {
        const back = target >= 0 ? target - at : target + fileSize;
        const forth = target < fileSize - at ? target + at : target - fileSize;
        view.setInt32(at + 1, way === 'back' ? back : forth, true);
      }
      at += 4;
    }
  }
  return bytes;
}

/** Blocks of bytes as they are: what every reader of LZX takes. */
function encode(bytes: Uint8Array, context: CodecContext): Uint8Array {
  const { image, reset } = settingOf(context);
  const plain = image ? translate(Uint8Array.from(bytes), IMAGE_SIZE, 'forth') : bytes;
  const parts: number[][] = [];
  const blocks: Uint8Array[] = [];
  for (let at = 0; at < plain.length; at += FRAME) {
    const block = plain.subarray(at, at + FRAME);
    // In front of the first block of a cabinet a bit says that no calls were translated.
    const isFirst = !image && (at === 0 || (reset > 0 && (at / FRAME) % reset === 0));
    const digits = [
      ...(isFirst ? ['0'] : []),
      PLAIN.toString(2).padStart(3, '0'),
      image
        ? block.length === FRAME
          ? '1'
          : `0${block.length.toString(2).padStart(16, '0')}`
        : block.length.toString(2).padStart(24, '0'),
    ].join('');
    const words = digits.padEnd(Math.ceil(digits.length / 16) * 16, '0').match(/.{16}/gu)!;
    const head = words.flatMap((word) => [parseInt(word.slice(8), 2), parseInt(word.slice(0, 8), 2)]);
    parts.push([...head, ...[1, 1, 1].flatMap((recent) => [recent, 0, 0, 0])]);
    blocks.push(block);
  }
  return Buffer.concat(
    blocks.flatMap((block, i) => [Uint8Array.from(parts[i]!), block, new Uint8Array(block.length % 2)]),
  );
}

export const lzx: Codec = {
  name: NAME,
  family: 'compression',
  about:
    'LZX, as cabinets have it, or with `form: image` as Windows images do. It is written in blocks that are not compressed.',
  params: [
    { name: 'window', type: 'number', otherwise: 16 },
    { name: 'form', type: 'word', words: ['cabinet', 'image'], otherwise: 'cabinet' },
    { name: 'reset', type: 'number', otherwise: 0 },
  ],
  decode: (stored, context) => {
    const out = new PlainOutput(NAME, context);
    const fileSize = new Decoder(stored, out, settingOf(context)).run();
    const plain = out.finish();
    return fileSize > 0 ? translate(plain, fileSize, 'back') : plain;
  },
  encode,
};
