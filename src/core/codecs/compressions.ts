/** Compressions besides DEFLATE: LZ4 frames, Zstandard, LZMA and XZ, Brotli, Snappy; each by a well-kept library. */
import { xz as xzLibrary } from '@napi-rs/lzma';
import { compressFrameSync, decompressFrameSync } from 'lz4-napi';
import * as zlib from 'node:zlib';
import { compress as snappyCompress, uncompress as snappyUncompress } from 'snappyjs';
import { FormatError } from '../faults';
import type { Codec, CodecContext, ParamSpec } from './codec';
import { checkedChunks, checkedSize, MOST_AT_ONCE, overLimit } from './plain-size';
import { lz4FrameClaim, snappyClaim, xzClaim } from './claims';
import { lzmaClaim, packLzma, unpackLzma, withHead, withoutSize } from './lzma';
import { piped } from './piped';
import { isWholeSnappy } from './snappy-check';
import { packZstd, unpackZstd } from './zstd';

interface Library {
  readonly name: string;
  readonly about: string;
  readonly params?: readonly ParamSpec[];
  /** Bytes the stretch says it unpacks to, before it is unpacked; undefined when it does not say. */
  readonly claims?: (stored: Uint8Array, context: CodecContext) => number | undefined;
  readonly decode: (stored: Uint8Array, context: CodecContext) => Uint8Array;
  readonly encode: (plain: Uint8Array, context: CodecContext) => Uint8Array;
  /** The same as `decode`, piece by piece, where the library can. */
  readonly flow?: (
    stored: AsyncIterable<Uint8Array>,
    faultOf: (error: unknown) => unknown,
  ) => AsyncIterable<Uint8Array>;
  /** The same as `encode`, piece by piece. */
  readonly packFlow?: Codec['encodeStream'];
}

function codecOf({ name, about, params = [], claims, decode, encode, flow, packFlow }: Library): Codec {
  const faultOf = (error: unknown, context: CodecContext) => {
    if (error instanceof FormatError) return error;
    if ((error as { code?: unknown }).code === 'ERR_BUFFER_TOO_LARGE') return overLimit(name, context);
    return new FormatError(
      {
        code: 'codec-failed',
        what: `${name} cannot unpack this stretch (${(error as Error).message || String(error)})`,
        hint: 'The bytes may be damaged, locked, or packed another way.',
      },
      { cause: error },
    );
  };
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
        throw faultOf(error, context);
      }
      return checkedSize(plain, name, context);
    },
    encode,
    ...(packFlow === undefined ? {} : { encodeStream: packFlow }),
    ...(flow === undefined
      ? {}
      : {
          decodeStream: (stored: AsyncIterable<Uint8Array>, context: CodecContext) =>
            checkedChunks(
              flow(stored, (error) => faultOf(error, context)),
              name,
              context,
            ),
        }),
  };
}

const asBuffer = (bytes: Uint8Array) => Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength);
const levelParam = (otherwise: number): ParamSpec => ({ name: 'level', type: 'number', otherwise });

const dictionaryOf = ({ dictionary }: CodecContext['params']): Uint8Array | undefined =>
  dictionary instanceof Uint8Array && dictionary.length > 0 ? dictionary : undefined;

const brotliOptions = ({ params }: CodecContext): zlib.BrotliOptions => ({
  params: { [zlib.constants.BROTLI_PARAM_QUALITY]: Number(params['level'] ?? 9) },
});

export const compressionCodecs: readonly Codec[] = [
  codecOf({
    name: 'lz4-frame',
    about: 'LZ4 frames, as the lz4 tool writes them.',
    claims: lz4FrameClaim,
    decode: (stored) => decompressFrameSync(asBuffer(stored)),
    encode: (plain) => compressFrameSync(asBuffer(plain)),
  }),
  codecOf({
    name: 'zstd',
    about: 'Zstandard frames (RFC 8878); with a `dictionary` or none.',
    params: [levelParam(3), { name: 'dictionary', type: 'bytes', otherwise: new Uint8Array(0) }],
    decode: (stored, { maxPlainBytes, params }) => unpackZstd(stored, maxPlainBytes, dictionaryOf(params)),
    encode: (plain, { params }) => packZstd(plain, Number(params['level'] ?? 3), dictionaryOf(params)),
  }),
  codecOf({
    name: 'lzma',
    about: 'LZMA behind its 5 bytes of properties and dictionary size; the plain size comes from the archive.',
    claims: (_, { plainSize }) => plainSize,
    decode: (stored, { plainSize, maxPlainBytes }) => unpackLzma(withHead(stored, plainSize), maxPlainBytes),
    encode: (plain) => withoutSize(packLzma(plain)),
  }),
  codecOf({
    name: 'lzma-alone',
    about: 'LZMA behind its 13-byte header with the plain size.',
    claims: lzmaClaim,
    decode: (stored, { maxPlainBytes }) => unpackLzma(stored, maxPlainBytes),
    encode: packLzma,
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
    flow: (stored, faultOf) => piped(stored, zlib.createBrotliDecompress(), faultOf),
    encode: (plain, context) => zlib.brotliCompressSync(plain, brotliOptions(context)),
    packFlow: (plain, context) => piped(plain, zlib.createBrotliCompress(brotliOptions(context)), (error) => error),
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
