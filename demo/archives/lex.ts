/** Writes the words of a language, and the list of languages the game offers. */
import { ByteBuilder } from './byte-builder';

/** `.lex`: keys in a pool, sorted by their FNV-1a hash of 32 bits, and the texts in UTF-8 behind them. */
export function writeLex(locale: string, words: Readonly<Record<string, string>>): Uint8Array {
  const rows = Object.entries(words)
    .map(([key, text]) => ({ key, hash: fnv(key), bytes: Buffer.from(text) }))
    .sort((a, b) => a.hash - b.hash);
  const keys = new ByteBuilder();
  const texts = new ByteBuilder();
  const table = new ByteBuilder();
  for (const { key, hash, bytes } of rows) {
    table.u32(hash).u32(keys.length).u32(texts.length).u16(bytes.length).u16(0); // 0: reviewed
    keys.textZ(key);
    texts.raw(bytes);
  }
  return new ByteBuilder()
    .text('LEX1')
    .fixed(locale, 8)
    .u32(rows.length)
    .u32(keys.length)
    .raw(table.bytes())
    .raw(keys.bytes())
    .raw(texts.bytes())
    .bytes();
}

export interface Language {
  readonly code: string;
  /** How the language calls itself. */
  readonly title: string;
  /** What is in where a text is missing; empty for none. */
  readonly fallback: string;
}

/** `lex.meta`: a chunk for each language the game's menu offers. */
export function writeLexMeta(languages: readonly Language[]): Uint8Array {
  const out = new ByteBuilder().text('LMET').u16(1).u16(languages.length);
  for (const { code, title, fallback } of languages) {
    const body = Buffer.from(`title = ${title}\nfallback = ${fallback}\n`);
    out.fixed(code, 8).u16(body.length).raw(body);
  }
  return out.bytes();
}

function fnv(text: string): number {
  let hash = 0x811c9dc5;
  for (const byte of Buffer.from(text)) hash = Math.imul(hash ^ byte, 0x01000193) >>> 0;
  return hash;
}
