/** Files of a drop that are called by a number: which folder they are for, and how the numbers are counted. */
import { QueryTypes } from 'sequelize';
import { matchNumbers } from '../../core/game';
import { IncomingFileModel, database } from '../database';
import { listLabels } from '../labels';
import type { NumbersAnswer, NumbersOrder } from '../shapes';

const MOST_FOLDERS = 60;
/** Files that are examples for each way of counting. */
const SHOWN = 6;

/** Where the numbered files of a drop may go, and, in one folder, what each way of counting would replace. */
export async function numberedFolders(
  gameId: number,
  dropId: number,
  folder: string | undefined,
): Promise<NumbersAnswer> {
  const rows = await numbered(gameId, dropId);
  const folders = await database().query<{ folder: string; count: number }>(
    `select folder, count(*)::int as count from entries
     where game_id = $1 and wins and kind = any ($2::text[]) and name ~ '[0-9]'
     group by folder order by ('/' || lower(folder) like '%/' || $3) desc, count(*) desc, folder
     limit ${MOST_FOLDERS}`,
    { bind: [gameId, kindsOf(rows), folderHint(rows)], type: QueryTypes.SELECT },
  );
  if (folder === undefined) return { folders, ways: [] };
  const ways = matchNumbers(rows.map(numberIn), await pathsIn(gameId, folder, kindsOf(rows)));
  const labels = new Map((await listLabels(gameId)).map(({ path, text }) => [path, text]));
  return {
    folders,
    ways: Object.entries(ways).map(([counting, matches]) => ({
      counting: counting as NumbersOrder['counting'],
      fits: matches.filter((one) => one !== undefined).length,
      shown: rows.slice(0, SHOWN).map(({ name }, i) => {
        const path = matches[i]?.path ?? null;
        return { name, path, label: path === null ? null : (labels.get(path) ?? null) };
      }),
    })),
  };
}

/** A person has said how the numbers are counted. @returns how many files have their place now */
export async function countNumbers(
  gameId: number,
  dropId: number,
  { folder, counting }: NumbersOrder,
): Promise<{ placed: number }> {
  const rows = await numbered(gameId, dropId);
  const matches = matchNumbers(rows.map(numberIn), await pathsIn(gameId, folder, kindsOf(rows)))[counting];
  let placed = 0;
  for (const [i, row] of rows.entries()) {
    const match = matches[i];
    await row.update(
      match === undefined ? { state: 'unmatched' } : { state: 'waiting', path: match.path, matchedBy: match.matchedBy },
    );
    if (match !== undefined) placed++;
  }
  return { placed };
}

async function numbered(gameId: number, dropId: number): Promise<IncomingFileModel[]> {
  const rows = await IncomingFileModel.findAll({ where: { gameId, dropId, state: 'numbered' } });
  return rows.sort((a, b) => numberIn(a) - numberIn(b));
}

const kindsOf = (rows: readonly IncomingFileModel[]) => [...new Set(rows.map(({ kind }) => kind))];

const numberIn = ({ name }: IncomingFileModel) => Number(/(\d+)\D*$/.exec(name.replace(/\.[^./]*$/, ''))![1]);

/** What the folder is called that the files were dropped in: those of the game that are called so come first. */
function folderHint([first]: readonly IncomingFileModel[]): string | null {
  const name = first?.name.split('/').at(-2);
  return name === undefined ? null : name.toLowerCase().replaceAll(/[\\%_]/g, '\\$&');
}

async function pathsIn(gameId: number, folder: string, kinds: readonly string[]): Promise<string[]> {
  const rows = await database().query<{ path: string }>(
    'select path from entries where game_id = $1 and wins and folder = $2 and kind = any ($3::text[]) order by path',
    { bind: [gameId, folder, kinds], type: QueryTypes.SELECT },
  );
  return rows.map(({ path }) => path);
}
