/**
 * Patterns of paths: literals with places in braces that represent several texts.
 *
 * | place         | represents                                                 |
 * | ------------- | ----------------------------------------------------------- |
 * | `{00..99}`    | the numbers, with zeros in front as the first one has them  |
 * | `{a-z}`       | each character of the range; several: `{a-f0-9}`            |
 * | `{red,green}` | each of the texts, which may be empty                       |
 * | `{colours}`   | each line of the word list of that name                     |
 */
import { FaultError } from '../faults';

export interface Pattern {
  readonly text: string;
  /** The options of each part, in order; a literal has one. */
  readonly parts: readonly (readonly string[])[];
  /** How many paths it represents. */
  readonly count: number;
}

export type WordLists = Readonly<Record<string, readonly string[]>>;

/** Options of one place; for more, the fault suggests two places. */
const MAX_OPTIONS = 2_000_000;

/** @throws FaultError `invalid-request` that says what is wrong with the pattern, and where */
export function parsePattern(text: string, words: WordLists = {}): Pattern {
  const parts: string[][] = [];
  let literal = '';
  const flush = () => {
    if (literal !== '') parts.push([literal]);
    literal = '';
  };
  for (let at = 0; at < text.length;) {
    if (text[at] === '}') throw wrong(text, at, 'a } closes nothing', 'a { before it');
    if (text[at] !== '{') {
      literal += text[at++];
      continue;
    }
    const end = text.indexOf('}', at);
    if (end < 0) throw wrong(text, at, 'a { is not closed', 'a } behind it');
    flush();
    parts.push(options(text, at, text.slice(at + 1, end), words));
    at = end + 1;
  }
  flush();
  if (text.trim() === '') throw wrong(text, 0, 'the pattern is empty', 'a path such as voices/{a-z}{00..99}.snd');
  const count = parts.reduce((product, part) => product * part.length, 1);
  if (count > Number.MAX_SAFE_INTEGER)
    throw wrong(text, 0, 'the pattern matches more paths than can be counted', 'fewer places');
  return { text, parts, count };
}

function options(text: string, at: number, inside: string, words: WordLists): string[] {
  const numbers = /^(\d{1,15})\.\.(\d{1,15})$/.exec(inside);
  if (numbers !== null) {
    const [from, to] = [Number(numbers[1]), Number(numbers[2])];
    if (to < from) throw wrong(text, at, 'the numbers go backwards', `{${numbers[2]}..${numbers[1]}}`);
    if (to - from >= MAX_OPTIONS)
      throw wrong(text, at, 'one place has too many numbers', `at most ${MAX_OPTIONS.toLocaleString('en')}`);
    const width = numbers[1]!.startsWith('0') ? numbers[1]!.length : 0;
    return Array.from({ length: to - from + 1 }, (_, i) => String(from + i).padStart(width, '0'));
  }
  if (inside.includes(',')) return [...new Set(inside.split(','))];
  if (Object.hasOwn(words, inside)) {
    const list = [...new Set(words[inside])];
    if (list.length === 0) throw wrong(text, at, `the word list ${inside} is empty`, 'a word a line');
    return list;
  }
  if (/^(.-.)+$/u.test(inside)) {
    const found = new Set<string>();
    for (const [, from, to] of inside.matchAll(/(.)-(.)/gu)) {
      const [first, last] = [from!.codePointAt(0)!, to!.codePointAt(0)!];
      if (last < first || last - first > 0xffff) throw wrong(text, at, `${from}-${to} goes backwards`, `${to}-${from}`);
      for (let code = first; code <= last; code++) found.add(String.fromCodePoint(code));
    }
    return [...found];
  }
  const known = Object.keys(words);
  throw wrong(
    text,
    at,
    `there is no meaning for {${inside}}`,
    `{00..99}, {a-z}, {red,green}${known.length > 0 ? ` or one of {${known.join('}, {')}}` : ' or a word list of that name'}`,
  );
}

function wrong(text: string, at: number, what: string, expected: string): FaultError {
  return new FaultError({
    code: 'invalid-request',
    what: `${what} (character ${at + 1} of the pattern)`,
    expected,
    found: text.slice(at, at + 24),
  });
}

/** The path at a place among all, the last part counting fastest. */
export function pathAt({ parts }: Pattern, index: number): string {
  let rest = index;
  let path = '';
  for (let i = parts.length - 1; i >= 0; i--) {
    const part = parts[i]!;
    path = part[rest % part.length]! + path;
    rest = Math.floor(rest / part.length);
  }
  return path;
}
