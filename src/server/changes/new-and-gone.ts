/** Entries that are to be new in the game, or gone from it. */
import { FaultError } from '../../core/faults';
import { FOUND_RECIPE } from '../../core/carve';
import { kindOf } from '../../core/game';
import { ArchiveModel, ChangeModel, database } from '../database';
import { findWinner } from '../content';
import { isSheet, mayLose, withArchive } from '../games';
import { knownRecipes } from '../recipes';
import type { AddOrder, ArchiveChoice, ChangeAnswer } from '../shapes';
import { keepBlob } from '../storage';
import { keepBase } from './base';
import { changeOf, supersedeChange } from './change-service';

/** Archives that take new entries, with the folder most of theirs lie in. */
export async function archivesForNew(gameId: number): Promise<ArchiveChoice[]> {
  const rows = await ArchiveModel.findAll({ where: { gameId, state: 'open' }, order: [['position', 'ASC']] });
  const recipes = new Map((await knownRecipes(gameId)).map((recipe) => [recipe.id, recipe]));
  return rows
    .filter(({ recipe }) => {
      const known = recipes.get(recipe ?? '');
      return recipe !== FOUND_RECIPE && known?.presents === 'archive' && !isSheet(known);
    })
    .map(({ path, entryCount }) => ({ path, entries: entryCount }));
}

/**
 * A file becomes an entry the game does not have yet; it goes in as it is.
 *
 * @throws FaultError `conflict` when there is an entry of that name, `not-found` when there is no such archive
 */
export async function addEntry(
  gameId: number,
  { path, into, name, bytes }: AddOrder & { readonly bytes: AsyncIterable<Uint8Array> },
): Promise<ChangeAnswer> {
  if ((await findWinner(gameId, path).catch(() => undefined)) !== undefined)
    throw new FaultError({
      code: 'conflict',
      entry: path,
      what: 'there is an entry of that name',
      hint: 'Drop the file on it: it then takes its place.',
    });
  if (!(await archivesForNew(gameId)).some((archive) => archive.path === into))
    throw new FaultError({ code: 'not-found', file: into, what: 'there is no open archive that takes new entries' });
  const { sha256, size } = await keepBlob(bytes, { maxBytes: MOST_BYTES });
  const id = await database().transaction(async (transaction) => {
    await supersedeChange(gameId, path, transaction);
    const made = await ChangeModel.create(
      {
        ...{ gameId, path, size, action: 'add' as const, intoArchive: into },
        ...{ kind: kindOf(path), blob: sha256, fileName: name, matchedBy: { code: 'new-entry' }, given: sha256 },
      },
      { transaction },
    );
    return made.id;
  });
  return changeOf(gameId, id);
}

/** @throws FaultError `no-such-entry` */
export async function removeEntry(gameId: number, path: string): Promise<ChangeAnswer> {
  const { archive } = await findWinner(gameId, path);
  if (!(await withArchive(archive, async ({ recipe }) => mayLose(recipe))))
    throw new FaultError({
      code: 'conflict',
      entry: path,
      what: 'its archive holds this and nothing else in its place, so it cannot be left out',
      hint: 'Replace it instead, such as with an empty file or picture.',
    });
  const base = await keepBase(gameId, path);
  const id = await database().transaction(async (transaction) => {
    await supersedeChange(gameId, path, transaction);
    const made = await ChangeModel.create(
      {
        ...{ gameId, path, size: 0, action: 'remove' as const, base },
        ...{ kind: kindOf(path), blob: '', fileName: '', matchedBy: { code: 'removed' } },
      },
      { transaction },
    );
    return made.id;
  });
  return changeOf(gameId, id);
}

const MOST_BYTES = 4 * 2 ** 30;
