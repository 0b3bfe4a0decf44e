/** Block ciphers that OpenSSL has not, in ECB and CBC: Blowfish and Twofish by libraries; the TEA family by hand, as no kept package has it. */
import Blowfish from 'egoroof-blowfish';
import { decrypt, encrypt, makeSession } from 'twofish-ts';
import { copyOf } from '../bytes';
import { FormatError } from '../faults';
import type { Codec, CodecContext, ParamSpec } from './codec';

/** Turns one block at an offset, in place. */
type BlockMachine = (view: DataView, at: number) => void;

interface BlockCipher {
  readonly name: string;
  readonly about: string;
  /** Bytes of a block. */
  readonly block: number;
  readonly params: readonly ParamSpec[];
  readonly decoder: (context: CodecContext) => BlockMachine;
  readonly encoder: (context: CodecContext) => BlockMachine;
}

const BLOCK = 8;
/** 2^32 divided by the golden ratio: the TEA family's round constant. */
const DELTA = 0x9e3779b9;

const keyParam: ParamSpec = { name: 'key', type: 'key', length: 16 };
const roundsParam: ParamSpec = { name: 'rounds', type: 'number', otherwise: 32 };
const orderParam: ParamSpec = { name: 'order', type: 'word', words: ['little', 'big'], otherwise: 'little' };

function modes({ name, about, block, params, decoder, encoder }: BlockCipher): Codec[] {
  const ecb = (make: BlockCipher['decoder']) => (bytes: Uint8Array, context: CodecContext) =>
    overBlocks(bytes, block, make(context));
  return [
    {
      name: `${name}-ecb`,
      family: 'cipher',
      about: `${about}, every block by itself; a part of a block at the end stays.`,
      params,
      decode: ecb(decoder),
      encode: ecb(encoder),
    },
    {
      name: `${name}-cbc`,
      family: 'cipher',
      about: `${about}, blocks chained; a part of a block at the end stays.`,
      params: [params[0]!, { name: 'iv', type: 'bytes', length: block }, ...params.slice(1)],
      decode: (bytes, context) => chained(bytes, context, block, decoder(context), true),
      encode: (bytes, context) => chained(bytes, context, block, encoder(context), false),
    },
  ];
}

function overBlocks(bytes: Uint8Array, size: number, turn: BlockMachine): Uint8Array {
  const copy = copyOf(bytes);
  const view = new DataView(copy.buffer, copy.byteOffset, copy.byteLength);
  for (let at = 0; at + size <= copy.length; at += size) turn(view, at);
  return copy;
}

function chained(
  bytes: Uint8Array,
  { params }: CodecContext,
  size: number,
  turn: BlockMachine,
  decode: boolean,
): Uint8Array {
  const copy = copyOf(bytes);
  const view = new DataView(copy.buffer, copy.byteOffset, copy.byteLength);
  let before = params['iv'] as Uint8Array;
  for (let at = 0; at + size <= copy.length; at += size) {
    const block = copy.subarray(at, at + size);
    if (decode) {
      const stored = block.slice();
      turn(view, at);
      for (let i = 0; i < size; i++) block[i]! ^= before[i]!;
      before = stored;
    } else {
      for (let i = 0; i < size; i++) block[i]! ^= before[i]!;
      turn(view, at);
      before = block.slice();
    }
  }
  return copy;
}

function keyWords({ params }: CodecContext): { words: number[]; little: boolean; rounds: number } {
  const key = params['key'] as Uint8Array;
  const little = params['order'] !== 'big';
  const view = new DataView(key.buffer, key.byteOffset, key.byteLength);
  const rounds = Number(params['rounds'] ?? 32);
  if (!(rounds >= 1 && rounds <= 1024))
    throw new FormatError({ code: 'codec-failed', what: 'a cipher of the TEA family takes 1 to 1,024 rounds' });
  return { words: [0, 4, 8, 12].map((at) => view.getUint32(at, little)), little, rounds };
}

/** TEA (Wheeler and Needham, 1994); `rounds` counts cycles of two Feistel rounds. */
const tea: BlockCipher = {
  name: 'tea',
  about: 'TEA',
  block: BLOCK,
  params: [keyParam, roundsParam, orderParam],
  decoder: (context) => {
    const { words: k, little, rounds } = keyWords(context);
    return (view, at) => {
      let v0 = view.getUint32(at, little);
      let v1 = view.getUint32(at + 4, little);
      let sum = Math.imul(DELTA, rounds) >>> 0;
      for (let i = 0; i < rounds; i++) {
        v1 = (v1 - (((v0 << 4) + k[2]!) ^ (v0 + sum) ^ ((v0 >>> 5) + k[3]!))) >>> 0;
        v0 = (v0 - (((v1 << 4) + k[0]!) ^ (v1 + sum) ^ ((v1 >>> 5) + k[1]!))) >>> 0;
        sum = (sum - DELTA) >>> 0;
      }
      view.setUint32(at, v0, little);
      view.setUint32(at + 4, v1, little);
    };
  },
  encoder: (context) => {
    const { words: k, little, rounds } = keyWords(context);
    return (view, at) => {
      let v0 = view.getUint32(at, little);
      let v1 = view.getUint32(at + 4, little);
      let sum = 0;
      for (let i = 0; i < rounds; i++) {
        sum = (sum + DELTA) >>> 0;
        v0 = (v0 + (((v1 << 4) + k[0]!) ^ (v1 + sum) ^ ((v1 >>> 5) + k[1]!))) >>> 0;
        v1 = (v1 + (((v0 << 4) + k[2]!) ^ (v0 + sum) ^ ((v0 >>> 5) + k[3]!))) >>> 0;
      }
      view.setUint32(at, v0, little);
      view.setUint32(at + 4, v1, little);
    };
  },
};

/** XTEA (Needham and Wheeler, 1997). */
const xtea: BlockCipher = {
  name: 'xtea',
  about: 'XTEA',
  block: BLOCK,
  params: [keyParam, roundsParam, orderParam],
  decoder: (context) => {
    const { words: k, little, rounds } = keyWords(context);
    return (view, at) => {
      let v0 = view.getUint32(at, little);
      let v1 = view.getUint32(at + 4, little);
      let sum = Math.imul(DELTA, rounds) >>> 0;
      for (let i = 0; i < rounds; i++) {
        v1 = (v1 - ((((v0 << 4) ^ (v0 >>> 5)) + v0) ^ (sum + k[(sum >>> 11) & 3]!))) >>> 0;
        sum = (sum - DELTA) >>> 0;
        v0 = (v0 - ((((v1 << 4) ^ (v1 >>> 5)) + v1) ^ (sum + k[sum & 3]!))) >>> 0;
      }
      view.setUint32(at, v0, little);
      view.setUint32(at + 4, v1, little);
    };
  },
  encoder: (context) => {
    const { words: k, little, rounds } = keyWords(context);
    return (view, at) => {
      let v0 = view.getUint32(at, little);
      let v1 = view.getUint32(at + 4, little);
      let sum = 0;
      for (let i = 0; i < rounds; i++) {
        v0 = (v0 + ((((v1 << 4) ^ (v1 >>> 5)) + v1) ^ (sum + k[sum & 3]!))) >>> 0;
        sum = (sum + DELTA) >>> 0;
        v1 = (v1 + ((((v0 << 4) ^ (v0 >>> 5)) + v0) ^ (sum + k[(sum >>> 11) & 3]!))) >>> 0;
      }
      view.setUint32(at, v0, little);
      view.setUint32(at + 4, v1, little);
    };
  },
};

/** Twofish (Schneier and others, 1998). */
const twofish: BlockCipher = {
  name: 'twofish',
  about: 'Twofish with a key of 16, 24 or 32 bytes',
  block: 16,
  params: [{ name: 'key', type: 'key' }],
  decoder: (context) => twofishMachine(context, decrypt),
  encoder: (context) => twofishMachine(context, encrypt),
};

function twofishMachine({ params }: CodecContext, turn: typeof encrypt): BlockMachine {
  const key = params['key'] as Uint8Array;
  if (![16, 24, 32].includes(key.length))
    throw new FormatError({
      code: 'codec-failed',
      what: 'Twofish takes a key of 16, 24 or 32 bytes',
      found: `${key.length} bytes`,
    });
  const session = makeSession(key);
  return (view, at) => {
    const bytes = new Uint8Array(view.buffer, view.byteOffset + at, 16);
    turn(bytes.slice(), 0, bytes, 0, session);
  };
}

/** XXTEA, "Corrected Block TEA" (Wheeler and Needham, 1998): the whole stretch is one block of 32-bit words. */
const xxtea: Codec = {
  name: 'xxtea',
  family: 'cipher',
  about: 'XXTEA over the whole stretch; bytes that make no whole word at the end stay.',
  params: [keyParam, orderParam],
  decode: (bytes, context) => xxteaTurn(bytes, context, true),
  encode: (bytes, context) => xxteaTurn(bytes, context, false),
};

function xxteaTurn(bytes: Uint8Array, context: CodecContext, decode: boolean): Uint8Array {
  const { words: k, little } = keyWords(context);
  const copy = copyOf(bytes);
  const n = Math.floor(copy.length / 4);
  if (n < 2) return copy;
  const view = new DataView(copy.buffer, copy.byteOffset, copy.byteLength);
  const v = Uint32Array.from({ length: n }, (_, i) => view.getUint32(i * 4, little));
  const rounds = 6 + Math.floor(52 / n);
  const mix = (y: number, z: number, sum: number, p: number, e: number) =>
    (((z >>> 5) ^ (y << 2)) + ((y >>> 3) ^ (z << 4))) ^ ((sum ^ y) + (k[(p & 3) ^ e]! ^ z));
  if (decode) {
    for (let q = rounds, sum = Math.imul(rounds, DELTA) >>> 0, y = v[0]!; q > 0; q--, sum = (sum - DELTA) >>> 0) {
      const e = (sum >>> 2) & 3;
      for (let p = n - 1; p >= 0; p--) {
        const z = v[p > 0 ? p - 1 : n - 1]!;
        y = v[p] = (v[p]! - mix(y, z, sum, p, e)) >>> 0;
      }
    }
  } else {
    for (let q = rounds, sum = DELTA, z = v[n - 1]!; q > 0; q--, sum = (sum + DELTA) >>> 0) {
      const e = (sum >>> 2) & 3;
      for (let p = 0; p < n; p++) {
        const y = v[p < n - 1 ? p + 1 : 0]!;
        z = v[p] = (v[p]! + mix(y, z, sum, p, e)) >>> 0;
      }
    }
  }
  for (let i = 0; i < n; i++) view.setUint32(i * 4, v[i]!, little);
  return copy;
}

/** Whole blocks go through the library; `order: little` swaps each 32-bit half, as ports to little-endian machines do. */
function blowfish(mode: 'ecb' | 'cbc'): Codec {
  const run = (bytes: Uint8Array, { params }: CodecContext, decode: boolean): Uint8Array => {
    const swaps = params['order'] === 'little';
    const whole = bytes.length - (bytes.length % BLOCK);
    const input = swaps ? halvesSwapped(bytes.subarray(0, whole)) : copyOf(bytes, 0, whole);
    const key = params['key'];
    const machine = new Blowfish(
      (typeof key === 'string' ? new TextEncoder().encode(key) : key) as Uint8Array,
      mode === 'ecb' ? Blowfish.MODE.ECB : Blowfish.MODE.CBC,
      Blowfish.PADDING.NULL,
    );
    if (mode === 'cbc') machine.setIv(params['iv'] as Uint8Array);
    const out = whole === 0 ? input : decode ? machine.decode(input, Blowfish.TYPE.UINT8_ARRAY) : machine.encode(input);
    // The library takes zeros at the end for padding.
    const padded = new Uint8Array(bytes.length);
    padded.set((out as Uint8Array).subarray(0, whole));
    if (swaps) padded.set(halvesSwapped(padded.subarray(0, whole)));
    padded.set(bytes.subarray(whole), whole);
    return padded;
  };
  const order: ParamSpec = { name: 'order', type: 'word', words: ['big', 'little'], otherwise: 'big' };
  const iv: ParamSpec[] = mode === 'cbc' ? [{ name: 'iv', type: 'bytes', length: BLOCK }] : [];
  return {
    name: `blowfish-${mode}`,
    family: 'cipher',
    about: `Blowfish with a key of 4 to 56 bytes, ${mode === 'ecb' ? 'every block by itself' : 'blocks chained'}; a part of a block at the end stays.`,
    params: [{ name: 'key', type: 'key' }, ...iv, order],
    decode: (bytes, context) => run(bytes, context, true),
    encode: (bytes, context) => run(bytes, context, false),
  };
}

function halvesSwapped(bytes: Uint8Array): Uint8Array {
  const copy = copyOf(bytes);
  for (let at = 0; at + 4 <= copy.length; at += 4) copy.subarray(at, at + 4).reverse();
  return copy;
}

export const blockCipherCodecs: readonly Codec[] = [
  ...modes(tea),
  ...modes(xtea),
  ...modes(twofish),
  xxtea,
  blowfish('ecb'),
  blowfish('cbc'),
];
