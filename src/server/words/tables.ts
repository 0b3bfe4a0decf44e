/** Tables of texts of a game, read once and kept while they are worked on. */
import { FaultError } from '../../core/faults';
import { wordTable, type WordTable } from '../../core/forms/words';
import { ArchiveModel } from '../database';
import { onePerProcess } from '../one-per-process';
import { withArchive } from '../games';
import { knownRecipes } from '../recipes';

/** Tables that are kept in memory. */
const MOST_KEPT = 12;

interface Kept {
  readonly mark: string;
  readonly table: Promise<WordTable>;
}

/** Open archives that are tables of texts. */
export async function wordArchives(gameId: number): Promise<ArchiveModel[]> {
  const known = (await knownRecipes(gameId)).filter(({ entries }) => entries.words !== undefined).map(({ id }) => id);
  if (known.length === 0) return [];
  return ArchiveModel.findAll({ where: { gameId, state: 'open', recipe: known }, order: [['path', 'ASC']] });
}

/** @throws FaultError `wrong-kind` when the archive is none */
export function tableOf(row: ArchiveModel): Promise<WordTable> {
  const kept = onePerProcess('word-tables', () => new Map<number, Kept>());
  const mark = `${row.fingerprint ?? ''} ${row.modified} ${row.size} ${row.recipe ?? ''}`;
  const known = kept.get(row.id);
  kept.delete(row.id);
  const table = known?.mark === mark ? known.table : read(row);
  kept.set(row.id, { mark, table });
  table.catch(() => kept.delete(row.id));
  for (const id of [...kept.keys()].slice(0, -MOST_KEPT)) kept.delete(id);
  return table;
}

async function read({ id, path }: ArchiveModel): Promise<WordTable> {
  const table = await withArchive(id, wordTable);
  if (table !== undefined) return table;
  throw new FaultError({ code: 'wrong-kind', file: path, what: 'this is no table of texts' });
}

/** The language of a table, without reading it where the scan has noted that. */
export const localeOf = async (row: ArchiveModel): Promise<string> => row.locale ?? (await tableOf(row)).locale;
