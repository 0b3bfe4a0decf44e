/** The search line: words, "quotes", -minus, wildcards and words with a colon, as terms that all have to hold. */
import { FaultError } from '../faults';
import { KINDS, type Kind } from '../game';

/** Sets of paths that are kept elsewhere: whoever asks the catalogue brings them. */
export const PATH_SETS = ['changed', 'label', 'uses', 'used-by'] as const;
export type PathSet = (typeof PATH_SETS)[number];

export type Comparison = '<' | '<=' | '>' | '>=' | '=';

export type Term = { readonly minus: boolean } & (
  | { readonly is: 'text'; readonly text: string }
  | { readonly is: 'glob'; readonly pattern: string }
  | { readonly is: 'kind'; readonly kind: Kind }
  | { readonly is: 'size'; readonly comparison: Comparison; readonly bytes: number }
  | { readonly is: 'archive'; readonly text: string }
  | { readonly is: 'nameless' }
  | { readonly is: 'set'; readonly set: PathSet; readonly text: string }
);

const UNITS: Readonly<Record<string, number>> = {
  '': 1,
  b: 1,
  k: 1 << 10,
  kb: 1 << 10,
  m: 1 << 20,
  mb: 1 << 20,
  g: 1 << 30,
  gb: 1 << 30,
};
const KIND_ALIASES: Readonly<Record<string, string>> = {
  image: 'picture',
  text: 'words',
  video: 'film',
  audio: 'sound',
  data: 'records',
};

/**
 * Words are lower case from here on: case never matters. A word that is still being typed, such as `size:>`, is no term.
 *
 * @throws FaultError `invalid-request` for something after a colon that means nothing, saying what does
 * @example parseSearch('livery kind:picture size:>64k -snow')
 */
export function parseSearch(line: string): Term[] {
  const terms: Term[] = [];
  for (const [, minus, quoted, plain] of line.matchAll(/(-?)(?:"([^"]*)"?|(\S+))/g)) {
    const text = quoted ?? plain ?? '';
    const term = quoted === undefined ? parseWord(text.toLowerCase()) : parseText(text.toLowerCase(), false);
    if (term !== undefined) terms.push({ minus: minus === '-', ...term } as Term);
  }
  return terms;
}

type Bare = Term extends infer T ? (T extends Term ? Omit<T, 'minus'> : never) : never;

function parseText(text: string, mayBeGlob: boolean): Bare | undefined {
  if (text === '' || text === '-') return undefined;
  if (!mayBeGlob || !/[*?]/.test(text)) return { is: 'text', text };
  // A pattern without a folder fits the end of the path in any folder.
  return { is: 'glob', pattern: text.includes('/') ? text : `*${text}` };
}

function parseWord(text: string): Bare | undefined {
  const colon = text.indexOf(':');
  const word = colon < 0 ? '' : text.slice(0, colon);
  const value = text.slice(colon + 1).replace(/^"|"$/g, '');
  switch (word) {
    case 'kind':
      return parseKind(value);
    case 'size':
      return parseSize(value);
    case 'archive':
      return value === '' ? undefined : { is: 'archive', text: value };
    case 'nameless':
      return { is: 'nameless' };
    case 'changed':
    case 'label':
    case 'uses':
    case 'used-by':
      return { is: 'set', set: word, text: value };
    default:
      return parseText(text, true);
  }
}

function parseKind(value: string): Bare | undefined {
  if (value === '') return undefined;
  const kind = KIND_ALIASES[value] ?? value.replace(/s$/, '');
  const known =
    KINDS.find((one) => one === kind || one === value) ??
    // While a word is being typed, its beginning is enough.
    KINDS.find((one) => one.startsWith(value));
  if (known === undefined) throw meaningless(`there is no kind ${value}`, KINDS.join(', '));
  return { is: 'kind', kind: known };
}

function parseSize(value: string): Bare | undefined {
  const match = /^([<>]?=?)([0-9]+(?:\.[0-9]+)?)([a-z]*)$/.exec(value);
  const unit = match === null ? undefined : UNITS[match[3]!];
  if (match === null || unit === undefined) {
    if (/^[<>=]*$/.test(value)) return undefined;
    throw meaningless(`size:${value} is no size`, 'size:>64k, size:<2mb');
  }
  const comparison = match[1] === '' ? '>=' : (match[1] as Comparison);
  return { is: 'size', comparison, bytes: Number(match[2]) * unit };
}

function meaningless(what: string, expected: string): FaultError {
  return new FaultError({ code: 'invalid-request', what, expected });
}
