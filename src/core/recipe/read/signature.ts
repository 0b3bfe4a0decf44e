/** Whether a file has the signature of a recipe's format. */
import type { ByteSource } from '../../bytes';
import { FormatError, hexBytes } from '../../faults';
import type { Match, Recipe } from '../model';

/** True when the bytes at both ends are those of this recipe's format. */
export async function matches(recipe: Recipe, source: ByteSource): Promise<boolean> {
  return (await matchOf(recipe, source)) !== undefined;
}

/**
 * How the bytes at both ends are those of this recipe's format: `placed` where they are at a stated place, `somewhere` where
 * they were searched for, and may as well be those of a file in the file.
 */
export async function matchOf(
  recipe: Pick<Recipe, 'match'>,
  source: ByteSource,
): Promise<'placed' | 'somewhere' | undefined> {
  let found: 'somewhere' | undefined;
  for (const all of recipe.match) {
    let holds = true;
    for (const one of all) if (!(await matchHolds(one, source))) holds = false;
    if (!holds) continue;
    if (all.every(({ within }) => within === 1)) return 'placed';
    found = 'somewhere';
  }
  return found;
}

async function matchHolds({ at, fromEnd, within, bytes, mask }: Match, source: ByteSource): Promise<boolean> {
  const wanted = fromEnd ? source.size - at : at;
  const offset = Math.max(0, wanted);
  const places = Math.min(within - (offset - wanted), source.size - offset - bytes.length + 1);
  if (places < 1) return false;
  const found = await source.read(offset, places - 1 + bytes.length);
  if (mask === undefined)
    return Buffer.from(found.buffer, found.byteOffset, found.byteLength).includes(Buffer.from(bytes));
  for (let i = 0; i < places; i++) if (bytes.every((byte, k) => ((found[i + k]! ^ byte) & mask[k]!) === 0)) return true;
  return false;
}

/** @throws FormatError `must-differs` when the bytes are those of another format */
export async function checkMatch(recipe: Recipe, source: ByteSource): Promise<void> {
  if (recipe.match.length === 0 || (await matches(recipe, source))) return;
  const first = recipe.match[0]![0]!;
  const at = first.fromEnd ? Math.max(0, source.size - first.at) : first.at;
  const length = Math.min(first.bytes.length, Math.max(0, source.size - at));
  throw new FormatError({
    code: 'must-differs',
    what: `this is not a ${recipe.title.toLowerCase()}`,
    offset: at,
    expected: printable(first.bytes),
    found: length === 0 ? 'the end of the file' : printable(await source.read(at, length)),
    hint: 'Choose another recipe, or let the scan find one.',
  });
}

function printable(bytes: Uint8Array): string {
  const text = Buffer.from(bytes).toString('latin1');
  return /^[\x20-\x7e]+$/.test(text) ? JSON.stringify(text) : hexBytes(bytes);
}
