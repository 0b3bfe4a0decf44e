/** Texts in a game's encodings, decoded strictly and encoded exactly. */
import { FormatError, hexBytes } from '../faults';

export const ENCODINGS = ['ascii', 'utf-8', 'utf-16', 'latin-1'] as const;
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

/** The codec of an encoding; UTF-16 follows the endianness of the recipe. */
export function textCodec(encoding: Encoding, little: boolean): TextCodec {
  switch (encoding) {
    case 'utf-8': {
      const decoder = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true });
      return {
        encoding,
        unit: 1,
        decode: (bytes) => strictly(() => decoder.decode(bytes), encoding, bytes),
        encode: (text) => {
          if (!text.isWellFormed()) throw unencodable(text, encoding);
          return new TextEncoder().encode(text);
        },
      };
    }
    case 'utf-16': {
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
    case 'ascii':
    case 'latin-1': {
      const most = encoding === 'ascii' ? 0x7f : 0xff;
      return {
        encoding,
        unit: 1,
        decode: (bytes) => {
          if (bytes.some((byte) => byte > most)) throw undecodable(encoding, bytes);
          return Buffer.from(bytes).toString('latin1');
        },
        encode: (text) => {
          for (let i = 0; i < text.length; i++) if (text.charCodeAt(i) > most) throw unencodable(text, encoding);
          return new Uint8Array(Buffer.from(text, 'latin1'));
        },
      };
    }
    default:
      return encoding satisfies never;
  }
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
