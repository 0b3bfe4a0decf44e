/** DEFLATE (RFC 1951) bare, in the zlib wrapper (RFC 1950) and in the gzip wrapper (RFC 1952), by Node's zlib. */
import { Readable } from 'node:stream';
import * as zlib from 'node:zlib';
import { FormatError, LimitError } from '../faults';
import type { Codec, CodecContext } from './codec';

interface Flavour {
  readonly name: string;
  readonly about: string;
  readonly unpack: (stored: Uint8Array, options: zlib.ZlibOptions) => Buffer;
  readonly pack: (plain: Uint8Array, options: zlib.ZlibOptions) => Buffer;
  readonly unpacker: (options: zlib.ZlibOptions) => zlib.Inflate | zlib.InflateRaw | zlib.Gunzip;
  readonly packer: (options: zlib.ZlibOptions) => zlib.Deflate | zlib.DeflateRaw | zlib.Gzip;
}

/** Node makes no buffer larger than this. */
export const MOST_AT_ONCE = 2 ** 32 - 1;

const FLAVOURS: readonly Flavour[] = [
  {
    name: 'zlib',
    about: 'DEFLATE in the zlib wrapper (RFC 1950).',
    unpack: zlib.inflateSync,
    pack: zlib.deflateSync,
    unpacker: zlib.createInflate,
    packer: zlib.createDeflate,
  },
  {
    name: 'deflate',
    about: 'Bare DEFLATE (RFC 1951).',
    unpack: zlib.inflateRawSync,
    pack: zlib.deflateRawSync,
    unpacker: zlib.createInflateRaw,
    packer: zlib.createDeflateRaw,
  },
  {
    name: 'gzip',
    about: 'DEFLATE in the gzip wrapper (RFC 1952).',
    unpack: zlib.gunzipSync,
    pack: zlib.gzipSync,
    unpacker: zlib.createGunzip,
    packer: zlib.createGzip,
  },
];

export const deflateCodecs: readonly Codec[] = FLAVOURS.map((flavour) => ({
  name: flavour.name,
  family: 'compression',
  about: flavour.about,
  params: [{ name: 'level', type: 'number', otherwise: 6 }],
  decode: (stored, context) => {
    // One byte of room beyond what is promised tells "too long" from "just right".
    const most = Math.min(context.plainSize ?? Infinity, context.maxPlainBytes);
    let plain: Uint8Array;
    try {
      plain = flavour.unpack(stored, {
        maxOutputLength: Math.min(most + 1, MOST_AT_ONCE),
        // One output chunk of the right size spares zlib a dozen joins.
        chunkSize: Math.max(
          64,
          Math.min(context.plainSize === undefined ? stored.length * 4 : context.plainSize + 1, 1 << 26),
        ),
      });
    } catch (error) {
      throw unpackFault(error, flavour.name, context);
    }
    return checkedSize(plain, flavour.name, context);
  },
  encode: (plain, context) => flavour.pack(plain, { level: Number(context.params['level'] ?? 6) }),
  decodeStream: (stored, context) =>
    limited(piped(stored, flavour.unpacker({ chunkSize: 1 << 18 }), flavour.name, context), flavour.name, context),
  encodeStream: (plain, context) =>
    piped(
      plain,
      flavour.packer({ level: Number(context.params['level'] ?? 6), chunkSize: 1 << 18 }),
      flavour.name,
      context,
    ),
}));

async function* piped(
  chunks: AsyncIterable<Uint8Array>,
  transform: zlib.Inflate | zlib.Deflate | zlib.Gunzip | zlib.Gzip,
  name: string,
  context: CodecContext,
): AsyncGenerator<Uint8Array> {
  const input = Readable.from(chunks, { objectMode: false });
  input.on('error', (error) => transform.destroy(error));
  input.pipe(transform);
  try {
    for await (const chunk of transform) yield chunk as Uint8Array;
  } catch (error) {
    throw unpackFault(error, name, context);
  } finally {
    input.destroy();
    transform.destroy();
  }
}

async function* limited(
  chunks: AsyncIterable<Uint8Array>,
  name: string,
  context: CodecContext,
): AsyncGenerator<Uint8Array> {
  let total = 0;
  for await (const chunk of chunks) {
    total += chunk.length;
    if (context.plainSize !== undefined && total > context.plainSize) throw tooLong(name, context.plainSize);
    if (total > context.maxPlainBytes) throw overLimit(name, context);
    yield chunk;
  }
  if (context.plainSize !== undefined && total !== context.plainSize) throw sizeDiffers(name, context.plainSize, total);
}

/** The plain bytes when their length is as promised, else the fault. Shared by all compressions. */
export function checkedSize(plain: Uint8Array, name: string, context: CodecContext): Uint8Array {
  if (context.plainSize !== undefined && plain.length > context.plainSize) throw tooLong(name, context.plainSize);
  if (plain.length > context.maxPlainBytes) throw overLimit(name, context);
  if (context.plainSize !== undefined && plain.length !== context.plainSize)
    throw sizeDiffers(name, context.plainSize, plain.length);
  return plain;
}

/** The limit all decoders share, in words. */
export function overLimit(name: string, context: CodecContext): LimitError {
  return new LimitError({
    code: 'limit-reached',
    what: `${name} unpacks to more than may be unpacked at once`,
    limit: `unpacked bytes of one stretch, ${context.maxPlainBytes.toLocaleString('en')}`,
    hint: 'A small stretch that unpacks to a huge one is a common attack. Raise the limit if you trust the file.',
  });
}

function tooLong(name: string, plainSize: number): FormatError {
  return new FormatError({
    code: 'size-differs',
    what: `${name} gives more bytes than the archive says`,
    expected: `${plainSize.toLocaleString('en')} bytes`,
    found: 'more',
  });
}

function sizeDiffers(name: string, plainSize: number, found: number): FormatError {
  return new FormatError({
    code: 'size-differs',
    what: `${name} gives another size than the archive says`,
    expected: `${plainSize.toLocaleString('en')} bytes`,
    found: `${found.toLocaleString('en')}`,
  });
}

function unpackFault(error: unknown, name: string, context: CodecContext): unknown {
  const code = (error as { code?: unknown }).code;
  if (code === 'ERR_BUFFER_TOO_LARGE') {
    return context.plainSize !== undefined && context.plainSize <= context.maxPlainBytes
      ? tooLong(name, context.plainSize)
      : overLimit(name, context);
  }
  if (typeof code !== 'string' || !code.startsWith('Z_')) return error;
  return new FormatError(
    {
      code: 'codec-failed',
      what: `${name} cannot unpack this stretch (${(error as Error).message})`,
      hint: 'The bytes may be damaged, locked, or packed another way.',
    },
    { cause: error },
  );
}
