/** LZMA in the form with a 13-byte header, which is the one the library reads and writes. */
import { lzma } from '@napi-rs/lzma';

/** Properties and dictionary size, then the plain size. */
const HEAD = 13;
const PROPS = 5;
const UNKNOWN_SIZE = 0xffffffffffffffffn;
/** More than one byte of LZMA can unpack to. */
const MAX_RATIO = 8_000;

/** What the header says; undefined when it leaves it open. */
export function lzmaClaim(stored: Uint8Array): number | undefined {
  if (stored.length < HEAD) return undefined;
  const size = viewOf(stored).getBigUint64(PROPS, true);
  return size === UNKNOWN_SIZE ? undefined : Number(size);
}

/** Raw LZMA behind its 5 bytes of properties, made into the form with a header. */
export function withHead(stored: Uint8Array, plainSize: number | undefined): Uint8Array {
  if (stored.length < PROPS) throw new Error('the stretch is shorter than its properties');
  const whole = new Uint8Array(HEAD + stored.length - PROPS);
  whole.set(stored.subarray(0, PROPS));
  viewOf(whole).setBigUint64(PROPS, plainSize === undefined ? UNKNOWN_SIZE : BigInt(plainSize), true);
  whole.set(stored.subarray(PROPS), HEAD);
  return whole;
}

/** The inverse of {@link withHead}. */
export function withoutSize(alone: Uint8Array): Uint8Array {
  return new Uint8Array(Buffer.concat([alone.subarray(0, PROPS), alone.subarray(HEAD)]));
}

export const packLzma = (plain: Uint8Array): Uint8Array => lzma.compressSync(plain);

/**
 * Where the header leaves the size open, a limit is put in its place first: the library stops there, and otherwise reports
 * where the bytes ended.
 */
export function unpackLzma(stored: Uint8Array, maxPlainBytes: number): Uint8Array {
  if (lzmaClaim(stored) !== undefined || stored.length * MAX_RATIO <= maxPlainBytes) return lzma.decompressSync(stored);
  const size = sizeUpTo(stored, maxPlainBytes);
  return size === undefined ? lzma.decompressSync(stored) : lzma.decompressSync(withSize(stored, size));
}

/** Undefined when the bytes end in another way than by their own mark. */
function sizeUpTo(stored: Uint8Array, most: number): number | undefined {
  try {
    return lzma.decompressSync(withSize(stored, most)).length;
  } catch (error) {
    const found = /decompressed to (\d+)/u.exec(String((error as Error).message))?.[1];
    if (found === undefined) return undefined;
    if (Number(found) <= most) return Number(found);
    throw Object.assign(new Error('too large'), { code: 'ERR_BUFFER_TOO_LARGE' });
  }
}

function withSize(stored: Uint8Array, size: number): Uint8Array {
  const copy = Uint8Array.from(stored);
  viewOf(copy).setBigUint64(PROPS, BigInt(size), true);
  return copy;
}

function viewOf(bytes: Uint8Array): DataView {
  return new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
}
