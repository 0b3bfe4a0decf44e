/** Where a region begins. */
import { FormatError } from '../../faults';
import { type Scope } from '../formula/value';
import { wholeNumber } from '../formula/show-value';
import type { Region, Search } from '../model';
import { searchBytes } from './search';
import { type RegionSetting } from './read-region';
import type { ByteSource } from '../../bytes';

/** How many places at which the bytes of a `search` stand are tried: a file may be made of nothing else. */
export const MOST_CANDIDATES = 100;

export function isNoStart(error: unknown): error is FormatError {
  return error instanceof FormatError && ['must-differs', 'cut-short', 'outside-file'].includes(error.fault.code);
}

/** @throws FormatError `must-differs` when a search finds nothing */
export async function placeOf(region: Region, scope: Scope, setting: RegionSetting): Promise<number> {
  const at = await searchedPlace(region, scope, setting);
  if (at === undefined) throw notFound(region, scope);
  return at;
}

/** @param last where a search found its bytes before: it goes on from there */
export async function searchedPlace(
  region: Region,
  scope: Scope,
  { source, signal }: RegionSetting,
  last?: number,
): Promise<number | undefined> {
  if (region.search === undefined) return wholeNumber(region.at!.evaluate(scope), `the start of region ${region.name}`);
  const { bytes, backwards, within } = region.search;
  const begin = searchStart(region.search, scope) ?? (backwards ? source.size : 0);
  const start = last === undefined ? begin : backwards ? last + bytes.length - 1 : last + 1;
  const stop = backwards ? Math.max(0, begin - within) : Math.min(source.size, begin + within);
  return searchBytes(source, bytes, { start, stop, backwards }, signal);
}

function searchStart({ from }: Search, scope: Scope): number | undefined {
  return from === undefined ? undefined : wholeNumber(from.evaluate(scope), 'the start of the search');
}

export function notFound({ name, search }: Region, scope: Scope): FormatError {
  const { bytes, backwards } = search!;
  const start = searchStart(search!, scope);
  return new FormatError({
    code: 'must-differs',
    what: `region ${name} cannot be found`,
    ...(start === undefined ? {} : { offset: start }),
    expected: `the bytes ${Buffer.from(bytes).toString('hex').toUpperCase()} ${backwards ? 'before' : 'behind'} there`,
    found: 'none',
  });
}

export function outside(region: Region, at: number, length: number, source: ByteSource): FormatError {
  return new FormatError({
    code: 'outside-file',
    what: `region ${region.name} is not inside the file`,
    line: region.line,
    offset: at,
    expected: `an end at or before 0x${source.size.toString(16).toUpperCase()}`,
    found: `0x${(at + length).toString(16).toUpperCase()}`,
    hint: 'The file may be cut off: compare its size with a fresh copy.',
  });
}
