/** Characters that a game's encoding has no place for, and what is written in their place. */
import anyAscii from 'any-ascii';
import type { TextCodec } from '../../recipe';

function fits(text: string, codec: TextCodec): boolean {
  try {
    codec.encode(text);
    return true;
  } catch {
    return false;
  }
}

/** The characters of a text that the encoding has no place for, each once. */
export function unwritable(text: string, codec: TextCodec): string[] {
  if (fits(text, codec)) return [];
  return [...new Set(text)].filter((character) => !fits(character, codec));
}

/**
 * The text with what the encoding has no place for written in letters that it has: a letter without its accent where that has
 * one, such as é for ế, and Latin letters otherwise.
 */
export function spellOut(text: string, codec: TextCodec): string {
  if (fits(text, codec)) return text;
  return [...text.normalize('NFC')]
    .map((character) => (fits(character, codec) ? character : spelled(character, codec)))
    .join('');
}

function spelled(character: string, codec: TextCodec): string {
  // One mark after the other is taken off: what is left may be a letter the encoding has.
  const parts = [...character.normalize('NFD')];
  for (let length = parts.length - 1; length > 0; length--) {
    const simpler = parts.slice(0, length).join('').normalize('NFC');
    if (fits(simpler, codec)) return simpler;
  }
  const letters = anyAscii(character);
  return fits(letters, codec) ? letters : '?';
}

/** Bytes that a text takes; what cannot be written counts as UTF-8. */
export function lengthOf(text: string, codec: TextCodec): number {
  return codec.encoding === 'utf-8' || !fits(text, codec) ? Buffer.byteLength(text) : codec.encode(text).length;
}
