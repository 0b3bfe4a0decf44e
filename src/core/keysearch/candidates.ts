/** Stretches of a file that may be a key: raw, written out as text, or expanded as AES keeps it ready. */
import { isExpandedKey } from '../codecs';

export type Written = 'raw' | 'hex' | 'base64' | 'schedule' | 'text';

/** Hears of every stretch that may be a key; the bytes are only good until it returns. */
export type OnCandidate = (bytes: Uint8Array, at: number, written: Written, foundAt: number) => void;

/** Bytes in front of and behind a piece of a file that candidates reaching out of it need. */
export const OVERLAP_BYTES = 512;

/** Keys shorter than this look like anything else. */
const SHORTEST = 4;

/**
 * How many different bytes a random key of this length has at least: fewer happen once in thousands of random keys, while
 * code, text and zeros mostly have fewer.
 */
export function leastDistinct(keyBytes: number): number {
  return keyBytes < SHORTEST ? keyBytes : Math.ceil(keyBytes * (keyBytes <= 16 ? 0.62 : 0.66));
}

/**
 * Raw windows at every offset `[from, to)` whose bytes are as different from each other as those of a random key.
 *
 * @param keyBytes length of a key
 */
export function rawCandidates(
  bytes: Uint8Array,
  keyBytes: number,
  { from = 0, to = bytes.length }: { from?: number; to?: number },
  onCandidate: (at: number) => void,
): void {
  const least = leastDistinct(keyBytes);
  const counts = new Uint16Array(256);
  const last = Math.min(to, bytes.length - keyBytes + 1);
  if (from >= last) return;
  let distinct = 0;
  for (let i = from; i < from + keyBytes; i++) if (counts[bytes[i]!]!++ === 0) distinct++;
  for (let at = from; ;) {
    if (distinct >= least) onCandidate(at);
    if (at + 1 >= last) return;
    if (--counts[bytes[at]!]! === 0) distinct--;
    if (counts[bytes[at + keyBytes]!]!++ === 0) distinct++;
    at++;
  }
}

const HEX = classOf('0123456789abcdefABCDEF');
const BASE64 = classOf('ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/-_');

function classOf(letters: string): Uint8Array {
  const of = new Uint8Array(256);
  for (const letter of letters) of[letter.charCodeAt(0)] = 1;
  return of;
}

/**
 * Keys written as hex (RFC 4648) or base64 (both alphabets), in text of one or of two bytes a letter (UTF-16, either order),
 * that begin in `[from, to)`. In a longer run of letters every place where a key may begin is taken.
 */
export function writtenCandidates(
  bytes: Uint8Array,
  keyBytes: number,
  { from = 0, to = bytes.length }: { from?: number; to?: number },
  onCandidate: OnCandidate,
): void {
  for (const [written, letters, length] of [
    ['hex', HEX, keyBytes * 2],
    ['base64', BASE64, Math.ceil((keyBytes * 8) / 6)],
  ] as const)
    for (const step of [1, 2] as const) {
      for (let start = 0; start < step; start++) {
        let run = 0;
        // A run is followed from where it could begin at the earliest, so that a key at `from` is whole.
        for (let i = from + start; i < Math.min(bytes.length, to + length * step); i += step) {
          const isLetter = letters[bytes[i]!] === 1 && (step === 1 || isWide(bytes, i));
          run = isLetter ? run + 1 : 0;
          const at = i - (length - 1) * step;
          if (run < length || at >= to) continue;
          let text = '';
          for (let k = 0; k < length; k++) text += String.fromCharCode(bytes[at + k * step]!);
          const key = Buffer.from(text, written);
          if (key.length === keyBytes) onCandidate(key, 0, written, at);
        }
      }
    }
}

/** A letter of UTF-16 has a zero on one side. */
function isWide(bytes: Uint8Array, at: number): boolean {
  return bytes[at + 1] === 0 || (at > 0 && bytes[at - 1] === 0);
}

/** AES keys that stand expanded (FIPS 197), as big-endian words or little-endian ones, beginning in `[from, to)`. */
export function scheduleCandidates(
  bytes: Uint8Array,
  keyBytes: number,
  { from = 0, to = bytes.length }: { from?: number; to?: number },
  onCandidate: OnCandidate,
): void {
  if (keyBytes !== 16 && keyBytes !== 24 && keyBytes !== 32) return;
  // Looked up once: an import is a getter to the loader, and this runs for every offset.
  const isExpanded = isExpandedKey;
  for (let at = from; at < Math.min(to, bytes.length - keyBytes); at++) {
    if (isExpanded(bytes, at, keyBytes, false)) onCandidate(bytes, at, 'schedule', at);
    else if (isExpanded(bytes, at, keyBytes, true))
      onCandidate(Buffer.from(bytes.subarray(at, at + keyBytes)).swap32(), 0, 'schedule', at);
  }
}

const MAX_TEXT = 64;

/** Texts a person may have chosen as a password: runs of printable ASCII, beginning in `[from, to)`. */
export function textCandidates(
  bytes: Uint8Array,
  { from = 0, to = bytes.length }: { from?: number; to?: number },
  onCandidate: OnCandidate,
): void {
  const printable = (at: number) => bytes[at]! >= 0x20 && bytes[at]! < 0x7f;
  for (let at = from; at < to; at++) {
    if (!printable(at) || (at > 0 && printable(at - 1))) continue;
    let end = at;
    while (end < bytes.length && printable(end) && end - at <= MAX_TEXT) end++;
    if (end - at >= SHORTEST && end - at <= MAX_TEXT) onCandidate(bytes.subarray(at, end), 0, 'text', at);
  }
}
