/** Keys as people paste them, and as codecs take them. */
import { FaultError } from '../faults';

/** The kinds of secret a recipe can ask for, with their length in bytes. */
export const KEY_KINDS = {
  'aes-128': 16,
  'aes-192': 24,
  'aes-256': 32,
} as const;

export type KeyKind = keyof typeof KEY_KINDS;

/**
 * Every way a pasted text can be read as key bytes, the likeliest first: hex (spaces, colons, dashes, 0x and line
 * breaks allowed), base64 (RFC 4648, both alphabets), then the text itself in UTF-8. What looks like hex is only hex:
 * half a key must not pass for a text of the right length. `text:` in front says that the rest is meant as it is.
 */
export function keyCandidates(text: string): Uint8Array[] {
  const trimmed = text.trim();
  const utf8 = (value: string) => new Uint8Array(Buffer.from(value, 'utf8'));
  if (trimmed.startsWith('text:')) return [utf8(trimmed.slice('text:'.length))];
  const hex = trimmed
    .replace(/^hex:/, '')
    .replace(/0x/gi, '')
    .replace(/[\s:,-]/g, '');
  if (hex.length > 0 && hex.length % 2 === 0 && /^[0-9a-f]+$/i.test(hex))
    return [new Uint8Array(Buffer.from(hex, 'hex'))];
  const found: Uint8Array[] = [];
  const base64 = trimmed.replace(/\s/g, '');
  if (base64.length >= 4 && /^[A-Za-z0-9+/_-]+={0,2}$/.test(base64))
    found.push(new Uint8Array(Buffer.from(base64, 'base64')));
  if (trimmed.length > 0) found.push(utf8(trimmed));
  return found;
}

/** How many bytes a key of this kind has: `aes-256`, `bytes(8)`; 0 for `text`, which may have any number. */
export function keyLength(kind: string): number {
  const counted = /^bytes\((\d+)\)$/.exec(kind);
  if (counted !== null) return Number(counted[1]);
  return Object.hasOwn(KEY_KINDS, kind) ? KEY_KINDS[kind as KeyKind] : 0;
}

/**
 * The bytes of a pasted key for a slot of this kind.
 *
 * @throws FaultError `key-wrong` when no reading of the text has the right length; never says the text.
 */
export function keyBytes(text: string, kind: string): Uint8Array {
  const wanted = keyLength(kind);
  const candidates = keyCandidates(text);
  // A text is meant as it is, unless it says hex itself.
  if (wanted === 0) {
    const plain = /^hex:/.test(text.trim())
      ? candidates[0]
      : new TextEncoder().encode(text.trim().replace(/^text:/, ''));
    if (plain !== undefined && plain.length > 0) return plain;
  }
  const fit = candidates.find((bytes) => bytes.length === wanted);
  if (fit !== undefined) return fit;
  const lengths = candidates.map((bytes) => bytes.length);
  throw new FaultError({
    code: 'key-wrong',
    what: `${/^a/.test(kind) ? 'an' : 'a'} ${kind} key has ${wanted} bytes (${wanted * 2} hex digits)`,
    expected: `${wanted} bytes`,
    found: lengths.length === 0 ? 'nothing' : `${lengths[0]} bytes`,
    hint: lengths.some((length) => length < wanted) ? 'Was the key copied whole?' : 'Is there more than the key in it?',
  });
}

/** A key that may be shown: two bytes at either end, `9f3c ···· ···· e1b0`. */
export function maskKey(bytes: Uint8Array): string {
  const hex = Buffer.from(bytes).toString('hex');
  // Of a short key, even its ends would give too much away.
  return bytes.length < 8 ? '···· ····' : `${hex.slice(0, 4)} ···· ···· ${hex.slice(-4)}`;
}
