/** Scrambles that change bytes one by one: keystreams, XOR, sums, turns. Each runs over streams of any length. */
import { copyOf } from '../bytes';
import { FormatError } from '../faults';
import type { Codec, CodecContext } from './codec';
import { keystream, linearCongruential, smallKeystream, xorshift } from './generators';
import { big, bytesOf, count, number, scramble, type Machine, type Params, type Scramble } from './scramble';

const xor: Scramble = {
  name: 'xor',
  about: 'A key repeated over the bytes; `at` says where in the key they begin, `first` how many bytes it covers.',
  params: [{ name: 'key', type: 'key' }, count('at', 0), count('first', 0)],
  decoder: (params) => {
    const key = bytesOf(params, 'key');
    const most = number(params, 'first');
    let at = number(params, 'at');
    let left = most > 0 ? most : Infinity;
    return (bytes) => {
      const end = Math.min(bytes.length, left);
      for (let i = 0; i < end; i++) bytes[i]! ^= key[at++ % key.length]!;
      left -= end;
    };
  },
};

/** Each byte is combined with the stored byte before it (`feed: stored`) or with the plain one. */
function rolling(decode: boolean): (params: Params) => Machine {
  return (params) => {
    const key = bytesOf(params, 'key');
    const fromPlain = params['feed'] === 'plain';
    let before = number(params, 'start');
    let at = 0;
    return (bytes) => {
      for (let i = 0; i < bytes.length; i++) {
        const given = bytes[i]!;
        const made = given ^ key[at++ % key.length]! ^ before;
        bytes[i] = made;
        before = fromPlain === decode ? made : given;
      }
    };
  };
}

const rollingXor: Scramble = {
  name: 'rolling-xor',
  about:
    'A repeated key, and each byte combined with the one before it, stored or plain; `start` is the one before the first.',
  params: [
    { name: 'key', type: 'key' },
    { name: 'feed', type: 'word', words: ['stored', 'plain'], otherwise: 'stored' },
    count('start', 0),
  ],
  decoder: rolling(true),
  encoder: rolling(false),
};

/** A number with so many bits, changed by multiplying and adding; each step gives one byte or one word. */
const lcg: Scramble = {
  name: 'lcg-xor',
  about:
    'XOR with a keystream: the state becomes state × multiply + add in so many bits, and its bits from `shift` on are used, `width` bytes (little-endian) a step; `first: before` uses the seed itself first.',
  params: [
    count('seed'),
    count('multiply', 1103515245),
    count('add', 12345),
    count('bits', 32),
    count('shift', 0),
    count('width', 1),
    { name: 'first', type: 'word', words: ['after', 'before'], otherwise: 'after' },
  ],
  decoder: (params) => {
    const bits = number(params, 'bits');
    const shift = number(params, 'shift');
    const width = number(params, 'width');
    if (bits < 1 || bits > 64 || width < 1 || width > 8)
      throw new FormatError({ code: 'codec-failed', what: 'lcg-xor takes 1 to 64 bits and 1 to 8 bytes a step' });
    const isFirst = params['first'] === 'before';
    const [seed, multiply, add] = [big(params, 'seed'), big(params, 'multiply'), big(params, 'add')];
    if (bits === 32 && shift + 8 * width <= 32) {
      const small = (value: bigint) => Number(BigInt.asIntN(32, value));
      return smallKeystream(small(seed), small(multiply), small(add), { shift, width, isFirst });
    }
    return keystream(linearCongruential(seed, multiply, add, bits), shift, width, isFirst);
  },
};

/** Marsaglia's xorshift (2003) on 32 or 64 bits. */
const xorshiftXor: Scramble = {
  name: 'xorshift-xor',
  about: 'XOR with the bytes (little-endian) of a xorshift generator of 32 (13, 17, 5) or 64 bits (13, 7, 17).',
  params: [count('seed'), count('bits', 32)],
  decoder: (params) => {
    const bits = number(params, 'bits') === 64 ? 64 : 32;
    return keystream(xorshift(big(params, 'seed'), bits), 0, bits / 8);
  },
};

const counterXor: Scramble = {
  name: 'counter-xor',
  about: 'XOR with a byte that grows by `step` from `start` on.',
  params: [count('start', 0), count('step', 1)],
  decoder: (params) => {
    let at = number(params, 'start');
    const step = number(params, 'step');
    return (bytes) => {
      for (let i = 0; i < bytes.length; i++, at += step) bytes[i]! ^= at & 0xff;
    };
  },
};

function adding(sign: 1 | -1): (params: Params) => Machine {
  return (params) => {
    const value = params['n'];
    const key = value instanceof Uint8Array ? bytesOf(params, 'n') : Uint8Array.of(Number(value) & 0xff);
    let at = 0;
    return (bytes) => {
      for (let i = 0; i < bytes.length; i++) bytes[i] = (bytes[i]! + sign * key[at++ % key.length]!) & 0xff;
    };
  };
}

const add: Scramble = {
  name: 'add',
  about: 'A number (or a repeated row of bytes) added to each stored byte gives the plain one; subtract with 256 - n.',
  params: [{ name: 'n', type: 'any' }],
  decoder: adding(1),
  encoder: adding(-1),
};

function turning(sign: 1 | -1): (params: Params) => Machine {
  return (params) => {
    const by = (((sign * number(params, 'by')) % 8) + 8) % 8;
    return (bytes) => {
      for (let i = 0; i < bytes.length; i++) bytes[i] = ((bytes[i]! << by) | (bytes[i]! >> (8 - by))) & 0xff;
    };
  };
}

const rotate: Scramble = {
  name: 'rotate-bits',
  about: 'Each stored byte turned left by so many bits gives the plain one.',
  params: [count('by')],
  decoder: turning(1),
  encoder: turning(-1),
};

const invert: Scramble = {
  name: 'invert',
  about: 'Every bit the other way round.',
  params: [],
  decoder: () => (bytes) => {
    for (let i = 0; i < bytes.length; i++) bytes[i] = ~bytes[i]! & 0xff;
  },
};

const swapNibbles: Scramble = {
  name: 'swap-nibbles',
  about: 'The upper and lower four bits of each byte exchanged.',
  params: [],
  decoder: () => (bytes) => {
    for (let i = 0; i < bytes.length; i++) bytes[i] = ((bytes[i]! << 4) | (bytes[i]! >> 4)) & 0xff;
  },
};

/** Bytes of each word from last to first; a part of a word at the end stays. */
const swapBytes: Codec = {
  name: 'swap-bytes',
  family: 'cipher',
  about: 'The bytes of every word of `width` bytes from last to first; what is left at the end stays.',
  params: [count('width', 2)],
  decode: swapped,
  encode: swapped,
};

function swapped(bytes: Uint8Array, { params }: CodecContext): Uint8Array {
  const width = number(params, 'width');
  const copy = copyOf(bytes);
  if (width < 2) return copy;
  for (let at = 0; at + width <= copy.length; at += width) copy.subarray(at, at + width).reverse();
  return copy;
}

const reverseBytes: Codec = {
  name: 'reverse-bytes',
  family: 'cipher',
  about: 'All bytes from last to first.',
  params: [],
  decode: (bytes) => copyOf(bytes).reverse(),
  encode: (bytes) => copyOf(bytes).reverse(),
};

/** Each byte is the difference to the one so many places before it. */
function summing(decode: boolean): (params: Params) => Machine {
  return (params) => {
    const step = Math.max(1, number(params, 'step'));
    const history = new Uint8Array(step);
    let at = 0;
    return (bytes) => {
      for (let i = 0; i < bytes.length; i++, at++) {
        const given = bytes[i]!;
        const before = history[at % step]!;
        bytes[i] = (decode ? given + before : given - before) & 0xff;
        history[at % step] = decode ? bytes[i]! : given;
      }
    };
  };
}

const delta: Scramble = {
  name: 'delta',
  about: 'Each stored byte is the difference to the plain one `step` places before.',
  params: [count('step', 1)],
  decoder: summing(true),
  encoder: summing(false),
};

export const streamCipherCodecs: readonly Codec[] = [
  ...[xor, rollingXor, lcg, xorshiftXor, counterXor, add, rotate, invert, swapNibbles, delta].map(scramble),
  swapBytes,
  reverseBytes,
];
