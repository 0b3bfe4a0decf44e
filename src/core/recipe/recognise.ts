/** Telling a file's format by its content, over all recipes at once. */
import type { ByteSource } from '../bytes';
import { faultOf, sayFault } from '../faults';
import { matchOfText } from './compile/signatures';
import type { Recipe } from './model';
import { openTables } from './read/archive';
import { matchOf } from './read/signature';

export interface Fit {
  readonly recipe: Recipe;
  /** Why it fits, in words. */
  readonly reason: string;
}

export interface Recognition {
  readonly fits: readonly Fit[];
  /** Formats that were looked at closely and do not fit, with the reason. */
  readonly others: readonly Fit[];
}

/** A format without a signature is tried on files up to this size. */
const MAX_TRIED_BYTES = 1 << 30;

/**
 * The recipes of archives whose format a file has. Signatures are compared first; formats without one are tried, and fit when all
 * their fields are what they must be and every entry lies inside the file.
 */
export async function recogniseFile(all: readonly Recipe[], source: ByteSource): Promise<Recognition> {
  const recipes = all.filter(({ presents }) => presents === 'archive' || presents === 'folder');
  const fits: Fit[] = [];
  const others: Fit[] = [];
  const ends = await endsOf(source);
  const placed: Fit[] = [];
  const searched: Fit[] = [];
  for (const recipe of recipes) {
    const match = recipe.match.length === 0 ? undefined : await matchOf(recipe, ends);
    if (match === undefined) continue;
    (match === 'placed' ? placed : searched).push({ recipe, reason: signatureReason(recipe, match) });
  }
  if (placed.length === 1) return { fits: placed, others };
  // What was only searched for may be in a file within the file: it counts where nothing else does.
  const signed = placed.length > 0 ? placed : searched;
  // A packed file begins like a packed archive: what is in it decides.
  for (const fit of signed) {
    const fault = await openingFault(fit.recipe, source);
    if (fault === undefined) fits.push(fit);
    else others.push({ recipe: fit.recipe, reason: fault });
  }
  const first = fits.filter(({ recipe }) => !recipe.last);
  if (first.length > 0) return { fits: first, others };
  if (fits.length > 0) return { fits, others };
  if (placed.length > 0) return { fits: placed.filter(({ recipe }) => !recipe.last), others: [] };
  for (const recipe of recipes) {
    if (recipe.match.length > 0 || recipe.volumes.length > 1 || source.size > MAX_TRIED_BYTES) continue;
    try {
      const { entries } = await openTables(recipe, source, { limits: { maxRows: 100_000, maxSeconds: 2 } });
      const inside = Array.from({ length: entries.count }, (_, i) => entries.at(i) + entries.stored(i) <= source.size);
      if (entries.count > 0 && inside.every(Boolean))
        fits.push({
          recipe,
          reason: `every field is as it must be, and ${entries.count.toLocaleString('en')} entries lie inside the file`,
        });
      else
        others.push({
          recipe,
          reason: entries.count === 0 ? 'it would hold no entries' : 'entries would lie outside the file',
        });
    } catch (error) {
      others.push({ recipe, reason: sayFault(faultOf(error)) });
    }
  }
  return { fits, others };
}

/** Those of the recipes, as texts, that look for nothing or for what the file has: to compile all of them takes longer. */
export async function thatMayFit(texts: readonly string[], source: ByteSource): Promise<string[]> {
  const ends = await endsOf(source);
  const found: string[] = [];
  for (const text of texts) {
    const match = matchOfText(text);
    if (match === undefined || (await matchOf({ match }, ends)) !== undefined) found.push(text);
  }
  return found;
}

/** Why a recipe whose signature fits does not open the file; undefined also where a key or another volume is missing. */
async function openingFault(recipe: Recipe, source: ByteSource): Promise<string | undefined> {
  try {
    await openTables(recipe, source, { limits: { maxRows: 100_000, maxSeconds: 2 } });
    return undefined;
  } catch (error) {
    const fault = faultOf(error);
    return ['key-missing', 'key-wrong', 'volume-missing', 'limit-reached'].includes(fault.code)
      ? undefined
      : sayFault(fault);
  }
}

/** So much of a file is read for its signature, from either end: the longest `within` of a shipped recipe, and some more. */
const HEAD_BYTES = 4 << 10;
const TAIL_BYTES = 66 << 10;

/** The file with both its ends in memory: dozens of signatures are compared with them. */
async function endsOf(source: ByteSource): Promise<ByteSource> {
  const { name, size } = source;
  const isSmall = size <= HEAD_BYTES + TAIL_BYTES;
  const head = await source.read(0, isSmall ? size : HEAD_BYTES);
  const tail = isSmall ? head : await source.read(size - TAIL_BYTES, TAIL_BYTES);
  const tailAt = size - tail.length;
  return {
    name,
    size,
    read: async (at, length) => {
      if (at + length <= head.length) return head.subarray(at, at + length);
      if (at >= tailAt) return tail.subarray(at - tailAt, at - tailAt + length);
      return source.read(at, length);
    },
  };
}

function signatureReason({ match }: Recipe, how: 'placed' | 'somewhere'): string {
  const tests = match.find((all) => all.every(({ within }) => within === 1) === (how === 'placed'))!;
  const { at, fromEnd, within, bytes } = tests.find((one) => how === 'placed' || one.within > 1)!;
  const text = Buffer.from(bytes).toString('latin1');
  const shown = /^[\x20-\x7e]+$/.test(text) ? `“${text}”` : Buffer.from(bytes).toString('hex').toUpperCase();
  if (how === 'somewhere')
    return `${shown} is in ${within.toLocaleString('en')} bytes at its ${fromEnd ? 'end' : 'start'}`;
  return `${shown} is ${fromEnd ? `${at} bytes before its end` : `at 0x${at.toString(16).toUpperCase()}`}`;
}
