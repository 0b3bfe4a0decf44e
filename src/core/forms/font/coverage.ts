/** Which letters a font has, by block of Unicode, and which letters of some texts it lacks. */
import { withoutPlaceholders } from '../words';

/** Blocks that texts of games use, as the Unicode Character Database names them. */
const BLOCKS: readonly (readonly [name: string, first: number, last: number])[] = [
  ['Basic Latin', 0x20, 0x7e],
  ['Latin-1 Supplement', 0xa0, 0xff],
  ['Latin Extended-A', 0x100, 0x17f],
  ['Latin Extended-B', 0x180, 0x24f],
  ['Greek and Coptic', 0x370, 0x3ff],
  ['Cyrillic', 0x400, 0x4ff],
  ['Armenian', 0x530, 0x58f],
  ['Hebrew', 0x590, 0x5ff],
  ['Arabic', 0x600, 0x6ff],
  ['Devanagari', 0x900, 0x97f],
  ['Thai', 0xe00, 0xe7f],
  ['Georgian', 0x10a0, 0x10ff],
  ['Latin Extended Additional', 0x1e00, 0x1eff],
  ['General Punctuation', 0x2010, 0x205e],
  ['Currency Symbols', 0x20a0, 0x20c0],
  ['Arrows', 0x2190, 0x21ff],
  ['CJK Symbols and Punctuation', 0x3000, 0x303f],
  ['Hiragana', 0x3041, 0x309f],
  ['Katakana', 0x30a0, 0x30ff],
  ['CJK Unified Ideographs', 0x4e00, 0x9fff],
  ['Hangul Syllables', 0xac00, 0xd7a3],
  ['Private Use Area', 0xe000, 0xf8ff],
  ['Emoticons', 0x1f600, 0x1f64f],
];

export interface BlockCoverage {
  readonly block: string;
  readonly has: number;
  /** Characters that Unicode assigns in the block; of the private use area those that the font has. */
  readonly of: number;
}

/** Blocks of which a font has at least one character, in the order of Unicode. */
export function coverageOf(codePoints: readonly number[]): BlockCoverage[] {
  return BLOCKS.flatMap(([block, first, last]) => {
    const has = codePoints.filter((one) => one >= first && one <= last && isDrawn(one)).length;
    return has === 0 ? [] : [{ block, has, of: Math.max(has, assignedIn(first, last)) }];
  });
}

const assigned = new Map<number, number>();

function assignedIn(first: number, last: number): number {
  let count = assigned.get(first);
  if (count === undefined) {
    count = 0;
    for (let one = first; one <= last; one++) if (isDrawn(one) && !isPrivate(one)) count++;
    assigned.set(first, count);
  }
  return count;
}

const isPrivate = (codePoint: number): boolean => codePoint >= 0xe000 && codePoint <= 0xf8ff;

/** Letters, digits, marks, signs: anything but spaces, controls and what Unicode does not assign. */
const isDrawn = (codePoint: number): boolean =>
  isPrivate(codePoint) || /[\p{L}\p{M}\p{N}\p{P}\p{S}]/u.test(String.fromCodePoint(codePoint));

/** A letter that texts use. */
export interface UsedLetter {
  readonly letter: string;
  /** How many texts have it. */
  readonly texts: number;
  /** The key of the first of them. */
  readonly first: string;
}

/** The letters of texts, the most frequent first. Placeholders are left out: the game replaces them. */
export function lettersOf(texts: Iterable<{ readonly key: string; readonly text: string }>): UsedLetter[] {
  const used = new Map<string, { texts: number; first: string }>();
  for (const { key, text } of texts)
    for (const letter of new Set(withoutPlaceholders(text).normalize('NFC'))) {
      const known = used.get(letter);
      if (known !== undefined) known.texts++;
      else if (isDrawn(letter.codePointAt(0)!)) used.set(letter, { texts: 1, first: key });
    }
  return [...used]
    .map(([letter, found]) => ({ letter, ...found }))
    .sort((a, b) => b.texts - a.texts || a.letter.codePointAt(0)! - b.letter.codePointAt(0)!);
}

/**
 * Those that a font has no glyph for, in their order. A letter with a mark counts as there when the font has it as one, or has both
 * of its parts.
 */
export function missingLetters(codePoints: readonly number[], letters: readonly UsedLetter[]): UsedLetter[] {
  const has = new Set(codePoints);
  return letters.filter(({ letter }) => !has.has(letter.codePointAt(0)!) && !partsAreThere(letter, has));
}

function partsAreThere(letter: string, has: ReadonlySet<number>): boolean {
  const parts = [...letter.normalize('NFD')];
  return parts.length > 1 && parts.every((part) => has.has(part.codePointAt(0)!));
}
