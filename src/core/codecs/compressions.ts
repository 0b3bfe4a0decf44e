/** Compressions besides DEFLATE: LZ4 frames, Zstandard, LZMA and XZ, Brotli, Snappy; each by a well-kept library. */
import { lzma as lzmaLibrary, xz as xzLibrary } from '@napi-rs/lzma';
import { compress as zstdCompress, decompress as zstdDecompress, init as initZstd } from '@bokuweb/zstd-wasm';
import { compressFrameSync, decompressFrameSync } from 'lz4-napi';
import * as zlib from 'node:zlib';
import { compress as snappyCompress, uncompress as snappyUncompress } from 'snappyjs';
import { FormatError } from '../faults';
import type { Codec, CodecContext, ParamSpec } from './codec';
import { checkedSize, MOST_AT_ONCE, overLimit } from './deflate';
import { isWholeSnappy } from './snappy-check';

let zstdReady: Promise<void> | undefined;

/** Loads the libraries that are WebAssembly; done once for each process. */
export function prepareCompressions(): Promise<void> {
  return (zstdReady ??= initZstd() as Promise<void>);
}

interface Library {
  readonly name: string;
  readonly about: string;
  readonly params?: readonly ParamSpec[];
  /** Bytes the stretch says it unpacks to, before it is unpacked; undefined when it does not say. */
  readonly claims?: (stored: Uint8Array, context: CodecContext) => number | undefined;
  readonly decode: (stored: Uint8Array, context: CodecContext) => Uint8Array;
  readonly encode: (plain: Uint8Array, context: CodecContext) => Uint8Array;
}

function codecOf({ name, about, params = [], claims, decode, encode }: Library): Codec {
  return {
    name,
    family: 'compression',
    about,
    params,
    decode: (stored, context) => {
      const claimed = claims?.(stored, context);
      if (claimed !== undefined && claimed > context.maxPlainBytes) throw overLimit(name, context);
      let plain: Uint8Array;
      try {
        plain = decode(stored, context);
      } catch (error) {
        if (error instanceof FormatError) throw error;
        if ((error as { code?: unknown }).code === 'ERR_BUFFER_TOO_LARGE') throw overLimit(name, context);
        throw new FormatError(
          {
            code: 'codec-failed',
            what: `${name} cannot unpack this stretch (${(error as Error).message || String(error)})`,
            hint: 'The bytes may be damaged, locked, or packed another way.',
          },
          { cause: error },
        );
      }
      return checkedSize(plain, name, context);
    },
    encode,
  };
}

const asBuffer = (bytes: Uint8Array) => Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength);
const levelParam = (otherwise: number): ParamSpec => ({ name: 'level', type: 'number', otherwise });

/** RFC 8878, section 3.1.1.1: the content size of the first frame, when the header has it. */
function zstdClaim(stored: Uint8Array): number | undefined {
  const view = new DataView(stored.buffer, stored.byteOffset, stored.byteLength);
  if (stored.length < 6 || view.getUint32(0, true) !== 0xfd2fb528) return undefined;
  const descriptor = stored[4]!;
  const single = (descriptor & 0x20) !== 0;
  const dictionary = [0, 1, 2, 4][descriptor & 3]!;
  const at = 5 + (single ? 0 : 1) + dictionary;
  const flag = descriptor >> 6;
  if (flag === 0) return single ? stored[at] : undefined;
  if (stored.length < at + 8) return undefined;
  if (flag === 1) return view.getUint16(at, true) + 256;
  return flag === 2 ? view.getUint32(at, true) : Number(view.getBigUint64(at, true));
}

/** The most one byte of LZ4 can unpack to. */
const LZ4_RATIO = 255;
/** The most one byte of Zstandard can unpack to: blocks of 128 KiB in four bytes. */
const ZSTD_RATIO = 1 << 15;

/** LZMA's own header: properties, dictionary size, plain size. */
const LZMA_HEAD = 13;
const LZMA_PROPS = 5;
const UNKNOWN_SIZE = 0xffffffffffffffffn;

/** Raw LZMA behind its 5 bytes of properties, made into the form the library reads. */
function lzmaAlone(stored: Uint8Array, context: CodecContext): Uint8Array {
  if (stored.length < LZMA_PROPS) throw new Error('the stretch is shorter than its properties');
  const whole = new Uint8Array(LZMA_HEAD + stored.length - LZMA_PROPS);
  whole.set(stored.subarray(0, LZMA_PROPS));
  const size = context.plainSize === undefined ? UNKNOWN_SIZE : BigInt(context.plainSize);
  new DataView(whole.buffer).setBigUint64(LZMA_PROPS, size, true);
  whole.set(stored.subarray(LZMA_PROPS), LZMA_HEAD);
  return whole;
}

function lzmaClaim(stored: Uint8Array): number | undefined {
  if (stored.length < LZMA_HEAD) return undefined;
  const size = new DataView(stored.buffer, stored.byteOffset).getBigUint64(LZMA_PROPS, true);
  return size === UNKNOWN_SIZE ? undefined : Number(size);
}

/** The .xz format, version 1.2.1, sections 2.1.2 and 4: plain sizes from the index before the footer. */
function xzClaim(stored: Uint8Array): number | undefined {
  const footer = stored.length - 12;
  if (footer < 12) return undefined;
  const view = new DataView(stored.buffer, stored.byteOffset, stored.byteLength);
  const backward = (view.getUint32(footer + 4, true) + 1) * 4;
  let at = footer - backward + 1;
  if (at < 12) return undefined;
  const multibyte = () => {
    let value = 0;
    for (let shift = 0; shift < 63; shift += 7) {
      const byte = stored[at++] ?? 0;
      value += (byte & 0x7f) * 2 ** shift;
      if ((byte & 0x80) === 0) break;
    }
    return value;
  };
  let total = 0;
  for (let records = multibyte(); records > 0 && at < footer; records--) {
    multibyte();
    total += multibyte();
  }
  return total;
}

/** Snappy: the plain size stands in front as LEB128. */
function snappyClaim(stored: Uint8Array): number {
  let size = 0;
  for (let i = 0; i < 5; i++) {
    size += ((stored[i] ?? 0) & 0x7f) * 2 ** (7 * i);
    if (((stored[i] ?? 0) & 0x80) === 0) break;
  }
  return size;
}

export const compressionCodecs: readonly Codec[] = [
  codecOf({
    name: 'lz4-frame',
    about: 'LZ4 frames, as the lz4 tool writes them.',
    claims: (stored, { plainSize, maxPlainBytes }) => plainSize ?? Math.min(stored.length * LZ4_RATIO, maxPlainBytes),
    decode: (stored) => decompressFrameSync(asBuffer(stored)),
    encode: (plain) => compressFrameSync(asBuffer(plain)),
  }),
  codecOf({
    name: 'zstd',
    about: 'Zstandard frames (RFC 8878).',
    params: [levelParam(3)],
    claims: (stored, { plainSize, maxPlainBytes }) =>
      zstdClaim(stored) ?? plainSize ?? Math.min(stored.length * ZSTD_RATIO, maxPlainBytes),
    decode: (stored, { plainSize, maxPlainBytes }) => {
      const room = plainSize ?? Math.min(maxPlainBytes, Math.max(1 << 20, stored.length * 64));
      return zstdDecompress(stored, { defaultHeapSize: Math.max(1, room) });
    },
    encode: (plain, { params }) => zstdCompress(plain, Number(params['level'] ?? 3)),
  }),
  codecOf({
    name: 'lzma',
    about: 'LZMA behind its 5 bytes of properties and dictionary size; the plain size comes from the archive.',
    claims: (_, { plainSize }) => plainSize,
    decode: (stored, context) => lzmaLibrary.decompressSync(lzmaAlone(stored, context)),
    encode: (plain) => {
      const alone = lzmaLibrary.compressSync(plain);
      return new Uint8Array(Buffer.concat([alone.subarray(0, LZMA_PROPS), alone.subarray(LZMA_HEAD)]));
    },
  }),
  codecOf({
    name: 'lzma-alone',
    about: 'LZMA behind its 13-byte header with the plain size.',
    claims: lzmaClaim,
    decode: (stored) => lzmaLibrary.decompressSync(stored),
    encode: (plain) => lzmaLibrary.compressSync(plain),
  }),
  codecOf({
    name: 'xz',
    about: 'LZMA2 in the .xz container; what is written is stored in it, not made smaller.',
    claims: xzClaim,
    decode: (stored) => xzLibrary.decompressSync(stored),
    encode: (plain) => xzLibrary.compressSync(plain),
  }),
  codecOf({
    name: 'brotli',
    about: 'Brotli (RFC 7932).',
    params: [levelParam(9)],
    decode: (stored, { plainSize, maxPlainBytes }) =>
      zlib.brotliDecompressSync(stored, {
        maxOutputLength: Math.min(plainSize ?? maxPlainBytes, maxPlainBytes, MOST_AT_ONCE - 1) + 1,
      }),
    encode: (plain, { params }) =>
      zlib.brotliCompressSync(plain, {
        params: { [zlib.constants.BROTLI_PARAM_QUALITY]: Number(params['level'] ?? 9) },
      }),
  }),
  codecOf({
    name: 'snappy',
    about: 'Snappy blocks without a frame.',
    claims: snappyClaim,
    decode: (stored) => {
      if (!isWholeSnappy(stored, snappyClaim(stored))) throw new Error('no whole Snappy block');
      return snappyUncompress(stored);
    },
    encode: (plain) => snappyCompress(plain),
  }),
];
