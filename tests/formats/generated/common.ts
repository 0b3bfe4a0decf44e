/** What the writer and the strict reader of formats made by chance share; nothing of it is the core's. */
import { crc32 } from 'node:zlib';
import { FIXED_NAME, type MadeFormat } from './format';

export interface MadeEntry {
  readonly path: string;
  readonly bytes: Buffer;
}

export const INDEX_KEY = [0x5a, 0xc3, 0x19];
const DATA_KEY = [0x11, 0x22, 0x33, 0x44, 0x05];
export const MAGIC_END = 'EDAM';

export const up = (at: number, align: number) => Math.ceil(at / align) * align;
export const xor = (bytes: Buffer, key: readonly number[]) =>
  Buffer.from(bytes.map((byte, i) => byte ^ key[i % key.length]!));

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
export function ciphered(format: MadeFormat, bytes: Buffer, at: number, index: number, path: string): Buffer {
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

export class Numbers {
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

/** XOR with a byte that grows by 3. */
export const counted = (bytes: Buffer, salt: number) =>
  Buffer.from(bytes.map((byte, i) => byte ^ ((salt + 3 * i) & 0xff)));

export function nameBytes(format: MadeFormat, path: string, poolAt: number, numbers: Numbers): Buffer {
  const text = Buffer.from(path);
  switch (format.name) {
    case 'fixed':
      return Buffer.concat([text, Buffer.alloc(FIXED_NAME - text.length)]);
    case 'prefixed':
      return Buffer.concat([Buffer.from([text.length]), text]);
    case 'ended':
      return Buffer.concat([text, Buffer.alloc(1)]);
    case 'lines':
      return Buffer.concat([text, Buffer.from('\n')]);
    case 'scrambled':
      return Buffer.concat([Buffer.from([poolAt & 0xff, text.length]), counted(text, poolAt & 0xff)]);
    case 'pooled':
      return numbers.u32(poolAt);
  }
}
