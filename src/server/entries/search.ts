/** The search line in SQL: words, "quotes", -minus, wildcards, kind:, size:, archive:. */
import { FaultError } from '../../core/faults';
import { KIND_NAMES } from '../shapes';

export interface Condition {
  readonly sql: string;
  readonly values: Readonly<Record<string, string | number>>;
}

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
 * @throws FaultError `invalid-request` for a word after a colon that means nothing, saying which do
 * @example searchCondition('livery kind:picture size:>64k -snow')
 */
export function searchCondition(search: string): Condition {
  const parts: string[] = [];
  const values: Record<string, string | number> = {};
  for (const [i, token] of tokens(search).entries()) {
    const key = `s${i}`;
    const { sql, value } = part(token.text, token.quoted, `:${key}`);
    parts.push(token.minus ? `not (${sql})` : sql);
    values[key] = value;
  }
  return { sql: parts.length === 0 ? 'true' : parts.join(' and '), values };
}

function tokens(search: string): { text: string; minus: boolean; quoted: boolean }[] {
  return [...search.matchAll(/(-?)(?:"([^"]*)"?|(\S+))/g)].map(([, minus, quoted, plain]) => ({
    minus: minus === '-' && (quoted ?? plain) !== undefined,
    quoted: quoted !== undefined,
    text: quoted ?? plain ?? '',
  }));
}

function part(text: string, quoted: boolean, at: string): { sql: string; value: string | number } {
  const colon = quoted ? -1 : text.indexOf(':');
  const value = text.slice(colon + 1).toLowerCase();
  switch (colon < 0 ? '' : text.slice(0, colon).toLowerCase()) {
    case 'kind': {
      const kind = KIND_ALIASES[value] ?? value.replace(/s$/, '');
      const known = KIND_NAMES.find((one) => one === kind || one === value);
      // While a word is being typed, its beginning is enough.
      const started = known ?? KIND_NAMES.find((one) => value !== '' && one.startsWith(value));
      if (started === undefined && value !== '') throw unknown(`there is no kind ${value}`, KIND_NAMES.join(', '));
      return started === undefined ? { sql: `${at} = ''`, value: '' } : { sql: `e.kind = ${at}`, value: started };
    }
    case 'size': {
      const match = /^([<>]?=?)([0-9]+(?:\.[0-9]+)?)([a-z]*)$/.exec(value);
      const unit = match === null ? undefined : UNITS[match[3]!];
      if (match === null || unit === undefined) {
        if (/^[<>=]*$/.test(value)) return { sql: `${at} = ''`, value: '' };
        throw unknown(`size:${value} is no size`, 'size:>64k, size:<2mb');
      }
      const operator = match[1] === '' ? '>=' : match[1];
      return { sql: `e.size ${operator} ${at}`, value: Number(match[2]) * unit };
    }
    case 'archive':
      return { sql: `a.path ilike ${at}`, value: `%${like(value)}%` };
    default:
      return {
        sql: `e.path collate "default" ilike ${at}`,
        value: quoted || !/[*?]/.test(text) ? `%${like(text)}%` : wildcard(text),
      };
  }
}

function unknown(what: string, expected: string): FaultError {
  return new FaultError({ code: 'invalid-request', what, expected });
}

function like(text: string): string {
  return text.replace(/[\\%_]/g, '\\$&');
}

/** `*` stands for any characters and `?` for one; a pattern without a folder fits the name in any folder. */
function wildcard(text: string): string {
  const pattern = like(text).replaceAll('*', '%').replaceAll('?', '_');
  return text.includes('/') ? pattern : `%${pattern}`;
}
