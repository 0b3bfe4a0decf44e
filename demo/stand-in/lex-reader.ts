/** Reads the words of a language, and the list of languages. */
import { checkStretches, Walk } from './walk';

export interface Words {
  readonly file: string;
  readonly locale: string;
  readonly texts: ReadonlyMap<string, string>;
}

export function readLex(file: string, lex: Buffer): Words {
  const walk = new Walk(file, 'LEX', lex);
  walk.magic('LEX1');
  const locale = walk.fixed(8);
  const count = walk.u32();
  const keysSize = walk.u32();
  const rows = Array.from({ length: count }, () => ({
    row: walk.at,
    hash: walk.u32(),
    key: walk.u32(),
    at: walk.u32(),
    size: walk.u16(),
    state: walk.u16(),
  }));
  const keys = walk.take(keysSize);
  const start = walk.at;
  checkStretches(
    walk,
    rows.map(({ at, size }) => ({ at: start + at, end: start + at + size })),
    { from: start, align: 1, fill: 0 },
  );
  const texts = new Map<string, string>();
  let before = -1;
  for (const { row, hash, key: keyAt, at, size, state } of rows) {
    if (hash <= before) walk.stop('SORT', row, 'Rows are sorted by the hash of their key.', hash);
    before = hash;
    const end = keys.indexOf(0, keyAt);
    if (end < 0) walk.stop('KEY', row + 4, 'A key ends with a zero.', keyAt);
    const key = keys.toString('utf8', keyAt, end);
    walk.is('HASH', fnv(key), hash, row, 'The hash is that of the key.');
    if (state > 1) walk.stop('STATE', row + 14, 'A text is reviewed or a draft.', state);
    texts.set(key, textOf(walk, start + at, lex.subarray(start + at, start + at + size)));
  }
  return { file, locale, texts };
}

/** The languages of the menu, each with what replaces a missing text. */
export function readLexMeta(file: string, meta: Buffer): Map<string, { title: string; fallback: string }> {
  const walk = new Walk(file, 'LEXMETA', meta);
  walk.magic('LMET');
  walk.is('VERSION', 1, walk.u16(), 4, 'This game reads version 1.');
  const count = walk.u16();
  const languages = new Map<string, { title: string; fallback: string }>();
  for (let i = 0; i < count; i++) {
    const code = walk.fixed(8);
    const at = walk.at + 2;
    const about = textOf(walk, at, walk.take(walk.u16()));
    const match = /^title = (.+)\nfallback = (.*)\n$/.exec(about);
    if (match === null) return walk.stop('ABOUT', at, 'A language has a title and a fallback.', about.slice(0, 40));
    languages.set(code, { title: match[1]!, fallback: match[2]! });
  }
  walk.ended();
  return languages;
}

function textOf(walk: Walk, at: number, bytes: Buffer): string {
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    return walk.stop('UTF8', at, 'Words are UTF-8.', bytes.toString('hex', 0, 16));
  }
}

/** FNV-1a of 32 bits. */
function fnv(text: string): number {
  let hash = 2166136261n;
  for (const byte of Buffer.from(text)) hash = ((hash ^ BigInt(byte)) * 16777619n) & 0xffffffffn;
  return Number(hash);
}
