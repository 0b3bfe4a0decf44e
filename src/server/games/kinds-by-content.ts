/** What entries are by their first bytes, where their names say nothing. */
import { throwIfStopped } from '../../core/faults';
import { declaredKind, kindOf, type Kind } from '../../core/game';
import { readEntry, type Archive } from '../../core/recipe';
import { kindByRecipe, knownRecipes } from '../recipes';

/** As many as tell: the header of a picture or a sound, or some lines of a text. */
const HEAD_BYTES = 512;
/** Entries of an unknown extension that are read before the others are taken to be the same. */
const TRIED_OF_ENDING = 8;
/** Longer than this a scan does not wait for it. What was not looked at is looked at when somebody opens it. */
const MOST_MILLISECONDS = 3_000;

/**
 * @param pathOf the path of an entry in its archive
 * @param kindByName what a name says, `bytes` where it says nothing
 * @returns kinds of the entries whose first bytes tell one
 */
export async function kindsByContent(
  gameId: number,
  archive: Archive,
  pathOf: (n: number) => string,
  kindByName: (path: string) => Kind,
  signal: AbortSignal,
): Promise<ReadonlyMap<number, Kind>> {
  const kinds = new Map<number, Kind>();
  const { entries, recipe } = archive;
  if (declaredKind(recipe) !== undefined) return kinds;
  const recipes = await knownRecipes(gameId);
  const triedInVain = new Map<string, number>();
  const until = Date.now() + MOST_MILLISECONDS;
  for (let n = 0; n < entries.count && Date.now() < until; n++) {
    if (entries.isDeleted(n) || entries.isDirectory(n) || !entries.isNamed(n) || entries.size(n) === 0) continue;
    const path = pathOf(n);
    const ending = /\.([^./]+)$/.exec(path)?.[1]?.toLowerCase();
    const inVain = ending === undefined ? 0 : (triedInVain.get(ending) ?? 0);
    if (inVain >= TRIED_OF_ENDING || kindByName(path) !== 'bytes') continue;
    throwIfStopped(signal);
    const head = await headOf(archive, n).catch(() => new Uint8Array(0));
    const kind = (await kindByRecipe(path, head, recipes)) ?? kindOf(path, head);
    if (kind !== 'bytes') kinds.set(n, kind);
    else if (ending !== undefined) triedInVain.set(ending, inVain + 1);
  }
  return kinds;
}

/** The first bytes of an entry; no more of it is unpacked than that takes. */
export async function headOf(archive: Archive, n: number): Promise<Uint8Array> {
  for await (const chunk of readEntry(archive, n, { verify: false })) return chunk.subarray(0, HEAD_BYTES);
  return new Uint8Array(0);
}
