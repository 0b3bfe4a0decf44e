/** DEFLATE (RFC 1951) bare, in the zlib wrapper (RFC 1950) and in the gzip wrapper (RFC 1952), by Node's zlib. */
import * as zlib from 'node:zlib';
import { FormatError } from '../faults';
import type { Codec, CodecContext, ParamSpec } from './codec';
import { checkedChunks, checkedSize, MOST_AT_ONCE, overLimit, tooLong } from './plain-size';
import { piped } from './piped';

interface Flavour {
  readonly name: string;
  readonly about: string;
  readonly unpack: (stored: Uint8Array, options: zlib.ZlibOptions) => Buffer;
  readonly pack: (plain: Uint8Array, options: zlib.ZlibOptions) => Buffer;
  readonly unpacker: (options: zlib.ZlibOptions) => zlib.Inflate | zlib.InflateRaw | zlib.Gunzip;
  readonly packer: (options: zlib.ZlibOptions) => zlib.Deflate | zlib.DeflateRaw | zlib.Gzip;
}

const LEVEL: ParamSpec = { name: 'level', type: 'number', otherwise: 6 };
const DICTIONARY: ParamSpec = { name: 'dictionary', type: 'bytes', otherwise: new Uint8Array(0) };

/** A preset dictionary (RFC 1950, section 2.2); none when it is empty. */
function dictionaryOf({ params }: CodecContext): { dictionary?: Uint8Array } {
  const dictionary = params['dictionary'];
  return dictionary instanceof Uint8Array && dictionary.length > 0 ? { dictionary } : {};
}

const FLAVOURS: readonly Flavour[] = [
  {
    name: 'zlib',
    about: 'DEFLATE in the zlib wrapper (RFC 1950); with a preset `dictionary` or none.',
    unpack: zlib.inflateSync,
    pack: zlib.deflateSync,
    unpacker: zlib.createInflate,
    packer: zlib.createDeflate,
  },
  {
    name: 'deflate',
    about: 'Bare DEFLATE (RFC 1951); with a preset `dictionary` or none.',
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
  params: flavour.name === 'gzip' ? [LEVEL] : [LEVEL, DICTIONARY],
  decode: (stored, context) => {
    // One spare byte beyond the promised size distinguishes "too long" from "just right".
    const most = Math.min(context.plainSize ?? Infinity, context.maxPlainBytes);
    let plain: Uint8Array;
    try {
      plain = flavour.unpack(stored, {
        ...dictionaryOf(context),
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
  encode: (plain, context) =>
    flavour.pack(plain, { level: Number(context.params['level'] ?? 6), ...dictionaryOf(context) }),
  decodeStream: (stored, context) =>
    checkedChunks(
      piped(stored, flavour.unpacker({ chunkSize: 1 << 18, ...dictionaryOf(context) }), (error) =>
        unpackFault(error, flavour.name, context),
      ),
      flavour.name,
      context,
    ),
  encodeStream: (plain, context) =>
    piped(
      plain,
      flavour.packer({ level: Number(context.params['level'] ?? 6), chunkSize: 1 << 18, ...dictionaryOf(context) }),
      (error) => unpackFault(error, flavour.name, context),
    ),
}));

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
