/** Texts in a game's encodings, decoded strictly and encoded exactly. */
import iconv from 'iconv-lite';
import { FormatError, hexBytes } from '../../faults';

export const ENCODINGS = [
  'ascii',
  'utf-8',
  'utf-16',
  'utf-16le',
  'utf-16be',
  'latin-1',
  'shift-jis',
  'cp437',
  'utf-8-or-cp437',
] as const;
export type Encoding = (typeof ENCODINGS)[number];

export interface TextCodec {
  readonly encoding: Encoding;
  /** Bytes of one code unit; a terminating zero has as many. */
  readonly unit: 1 | 2;
  /** @throws FormatError `bad-text` when the bytes are not in the encoding */
  decode(bytes: Uint8Array): string;
  /** @throws FormatError `bad-text` when a character has no place in the encoding */
  encode(text: string): Uint8Array;
}

/** The codec of an encoding; plain `utf-16` follows the endianness of the recipe. */
export function textCodec(encoding: Encoding, little: boolean): TextCodec {
  switch (encoding) {
    case 'utf-8':
      return utf8();
    case 'utf-16':
      return utf16(encoding, little);
    case 'utf-16le':
      return utf16(encoding, true);
    case 'utf-16be':
      return utf16(encoding, false);
    case 'ascii':
      return singleByte(encoding, 0x7f);
    case 'latin-1':
      return singleByte(encoding, 0xff);
    case 'shift-jis':
      return byLibrary(encoding, 'shift_jis');
    case 'cp437':
      return byLibrary(encoding, 'cp437');
    case 'utf-8-or-cp437':
      return utf8OrCp437();
    default:
      return encoding satisfies never;
  }
}

function utf8(): TextCodec {
  const decoder = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true });
  return {
    encoding: 'utf-8',
    unit: 1,
    // Most names are ASCII, which needs no decoder.
    decode: (bytes) => (isAscii(bytes) ? asLatin1(bytes) : strictly(() => decoder.decode(bytes), 'utf-8', bytes)),
    encode: (text) => {
      if (!text.isWellFormed()) throw unencodable(text, 'utf-8');
      return new TextEncoder().encode(text);
    },
  };
}

function isAscii(bytes: Uint8Array): boolean {
  for (let i = 0; i < bytes.length; i++) if (bytes[i]! > 0x7f) return false;
  return true;
}

function asLatin1(bytes: Uint8Array): string {
  return Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength).toString('latin1');
}

function utf16(encoding: Encoding, little: boolean): TextCodec {
  const decoder = new TextDecoder(little ? 'utf-16le' : 'utf-16be', { fatal: true, ignoreBOM: true });
  return {
    encoding,
    unit: 2,
    decode: (bytes) => strictly(() => decoder.decode(bytes), encoding, bytes),
    encode: (text) => {
      const bytes = new Uint8Array(text.length * 2);
      const view = new DataView(bytes.buffer);
      for (let i = 0; i < text.length; i++) view.setUint16(i * 2, text.charCodeAt(i), little);
      return bytes;
    },
  };
}

function singleByte(encoding: Encoding, most: number): TextCodec {
  return {
    encoding,
    unit: 1,
    decode: (bytes) => {
      for (let i = 0; i < bytes.length; i++) if (bytes[i]! > most) throw undecodable(encoding, bytes);
      return asLatin1(bytes);
    },
    encode: (text) => {
      for (let i = 0; i < text.length; i++) if (text.charCodeAt(i) > most) throw unencodable(text, encoding);
      return new Uint8Array(Buffer.from(text, 'latin1'));
    },
  };
}

function byLibrary(encoding: Encoding, name: string): TextCodec {
  return {
    encoding,
    unit: 1,
    decode: (bytes) => {
      const text = iconv.decode(Buffer.from(bytes), name);
      if (text.includes('\ufffd')) throw undecodable(encoding, bytes);
      return text;
    },
    encode: (text) => {
      const bytes = new Uint8Array(iconv.encode(text, name));
      // The library writes a question mark for what has no place.
      if (iconv.decode(Buffer.from(bytes), name) !== text) throw unencodable(text, encoding);
      return bytes;
    },
  };
}

/** Names of which nothing says whether they are UTF-8: they are when they can be, and of the PC's code page otherwise. */
function utf8OrCp437(): TextCodec {
  const unicode = utf8();
  const old = byLibrary('utf-8-or-cp437', 'cp437');
  return {
    encoding: 'utf-8-or-cp437',
    unit: 1,
    decode: (bytes) => {
      try {
        return unicode.decode(bytes);
      } catch {
        return old.decode(bytes);
      }
    },
    encode: (text) => unicode.encode(text),
  };
}

function strictly(decode: () => string, encoding: Encoding, bytes: Uint8Array): string {
  try {
    return decode();
  } catch {
    throw undecodable(encoding, bytes);
  }
}

function undecodable(encoding: Encoding, bytes: Uint8Array): FormatError {
  return new FormatError({
    code: 'bad-text',
    expected: `text in ${encoding}`,
    found: hexBytes(bytes, 12),
    hint: 'Another encoding may fit, or the bytes may still be locked.',
  });
}

function unencodable(text: string, encoding: Encoding): FormatError {
  return new FormatError({
    code: 'bad-text',
    what: `"${text}" cannot be written in ${encoding}`,
    hint: 'Use only characters the game knows.',
  });
}
