/** Notes that people put on entries: typed one at a time, or brought as a table. */
import { QueryTypes } from 'sequelize';
import { FaultError } from '../../core/faults';
import {
  matchByNumber,
  matchByPath,
  readLabels,
  speaksOfNumbers,
  writeLabels,
  type Labelled,
  type Matched,
} from '../../core/labels';
import { askCatalogue, catalogueQuery } from '../catalogue';
import { database } from '../database';
import { entryPlace, type LabelTableAnswer, type LabelTableOrder } from '../shapes';

/** Entries of a folder that a table of numbers is laid over. */
const MOST_IN_FOLDER = 100_000;
/** Rows that are shown of each way to read a table. */
const SHOWN = 8;
const ROWS_A_STATEMENT = 5_000;

/** Every label of a game, by path. */
export function listLabels(gameId: number): Promise<Labelled[]> {
  return database().query<Labelled>('select path, text from labels where game_id = :gameId order by path', {
    replacements: { gameId },
    type: QueryTypes.SELECT,
  });
}

/** Labels as CSV. */
export async function exportLabels(gameId: number): Promise<string> {
  return writeLabels(await listLabels(gameId));
}

/** Sets labels; an empty text takes one off. @returns how many were set or taken off */
export async function setLabels(gameId: number, labels: readonly Labelled[]): Promise<{ set: number }> {
  // Of two for one path the last holds.
  const last = [...new Map(labels.map((label) => [label.path, label.text.trim()]))];
  await database().transaction(async (transaction) => {
    for (let from = 0; from < last.length; from += ROWS_A_STATEMENT) {
      const part = last.slice(from, from + ROWS_A_STATEMENT);
      const bind = [gameId, part.map(([path]) => path), part.map(([, text]) => text)];
      await database().query(
        `delete from labels l using unnest($2::text[], $3::text[]) as t (path, text)
         where l.game_id = $1 and l.path = t.path and t.text = ''`,
        { bind, transaction },
      );
      await database().query(
        `insert into labels (game_id, path, text) select $1, path, text from unnest($2::text[], $3::text[]) as t (path, text)
         where text <> '' on conflict (game_id, path) do update set text = excluded.text, updated_at = now()`,
        { bind, transaction },
      );
    }
  });
  return { set: last.length };
}

/**
 * Lays a table over the entries: by path or name over the whole game, by number over one folder. Says what each way of
 * counting would give; sets labels only when a way is given.
 *
 * @throws FaultError `invalid-request` when it is no table, or speaks of numbers and no folder is named
 */
export async function layLabelTable(
  gameId: number,
  { text, folder, take }: LabelTableOrder,
): Promise<LabelTableAnswer> {
  const rows = readLabels(text);
  const numbers = speaksOfNumbers(rows);
  if (numbers && (folder === undefined || folder === ''))
    throw new FaultError({
      code: 'invalid-request',
      what: 'the table gives numbers, which are counted within a folder',
      hint: 'Choose the folder first, then bring the table.',
    });
  const paths = await pathsBelow(gameId, folder ?? '');
  const ways: [LabelTableAnswer['ways'][number]['take'], Matched][] = numbers
    ? [
        ['from 0', matchByNumber(rows, paths, 0)],
        ['from 1', matchByNumber(rows, paths, 1)],
      ]
    : [['by path', matchByPath(rows, paths)]];
  const chosen = ways.find(([way]) => way === take)?.[1];
  if (take !== undefined && chosen === undefined)
    throw new FaultError({
      code: 'invalid-request',
      what: 'the table cannot be taken that way',
      found: take,
      expected: ways.map(([way]) => way).join(' or '),
    });
  const set = chosen === undefined ? 0 : (await setLabels(gameId, chosen.labels)).set;
  return {
    rows: rows.length,
    set,
    ways: ways.map(([way, { labels, unmatched }]) => ({
      take: way,
      fits: labels.length,
      shown: labels.slice(0, SHOWN),
      unmatched: unmatched.slice(0, SHOWN).map(({ of, line }) => ({ of, line })),
    })),
  };
}

async function pathsBelow(gameId: number, folder: string): Promise<string[]> {
  const query = await catalogueQuery(gameId, entryPlace.parse({ folder }));
  const most = folder === '' ? Infinity : MOST_IN_FOLDER + 1;
  const paths = await askCatalogue(gameId, 'paths', { query, ranges: [[0, most]] });
  if (paths.length <= MOST_IN_FOLDER || folder === '') return paths;
  throw new FaultError({
    code: 'limit-reached',
    what: `there is too much below ${folder}`,
    limit: `entries that a table of numbers is laid over, ${MOST_IN_FOLDER.toLocaleString('en')}`,
    hint: 'Choose a folder further down.',
  });
}
