/** A change made again of the file it came from: in another way, or for the same entry in other languages. */
import type { Note } from '../../core/notes';
import { QueryTypes } from 'sequelize';
import { FaultError } from '../../core/faults';
import { IncomingFileModel, ChangeModel, database } from '../database';
import { findWinner } from '../content';
import type { FitOptions, OtherLanguage, RunAnswer } from '../shapes';
import { newDrop, startBringIn } from './drop-service';

/** @throws FaultError `conflict` when the file that was brought is not kept */
async function givenOf(gameId: number, id: number): Promise<ChangeModel & { given: string }> {
  const change = await ChangeModel.findOne({ where: { gameId, id } });
  if (change === null) throw new FaultError({ code: 'not-found', what: 'there is no such change' });
  if (change.given === null)
    throw new FaultError({
      code: 'conflict',
      what: 'the file this change came from is not kept',
      hint: 'Bring it again.',
    });
  return change as ChangeModel & { given: string };
}

/** Starts a run that makes the file fit in another way. */
export async function fitAgain(gameId: number, id: number, fitOptions: FitOptions): Promise<RunAnswer> {
  const change = await givenOf(gameId, id);
  return bring(gameId, change, [change.path], { matchedBy: change.matchedBy, fitOptions });
}

/** Starts a run that brings the same file to other entries. @throws FaultError `no-such-entry` */
export async function bringAlso(gameId: number, id: number, paths: readonly string[]): Promise<RunAnswer> {
  const change = await givenOf(gameId, id);
  for (const path of paths) await findWinner(gameId, path);
  return bring(gameId, change, paths, { matchedBy: { code: 'every-language' }, fitOptions: change.fitOptions });
}

async function bring(
  gameId: number,
  { given, fileName, size, kind }: ChangeModel & { given: string },
  paths: readonly string[],
  { matchedBy, fitOptions }: { readonly matchedBy: Note | null; readonly fitOptions: FitOptions },
): Promise<RunAnswer> {
  const { id: dropId } = await newDrop(gameId);
  for (const path of paths)
    await IncomingFileModel.create({
      ...{
        gameId,
        dropId,
        name: fileName,
        blob: given,
        size,
        kind: kind as IncomingFileModel['kind'],
        path,
        matchedBy,
        fitOptions,
      },
    });
  return startBringIn(gameId, dropId);
}

/** What a language is called in a folder, such as `en` or `pt-br`. */
const LOCALE = /^[a-z]{2,3}([-_][a-z]{2,4})?$/i;

/** Entries of the same name in folders that differ in nothing but the language. */
export async function otherLanguages(gameId: number, path: string): Promise<OtherLanguage[]> {
  const rows = await database().query<OtherLanguage>(
    `select e.path, exists (select 1 from changes c where c.game_id = e.game_id and c.path = e.path and not c.undone) as changed
     from entries e where e.game_id = :gameId and e.wins and e.name = :name and e.path <> :path order by e.path limit 500`,
    { replacements: { gameId, path, name: path.slice(path.lastIndexOf('/') + 1) }, type: QueryTypes.SELECT },
  );
  return rows.filter((row) => differInLanguage(path, row.path));
}

function differInLanguage(a: string, b: string): boolean {
  const [left, right] = [a.split('/'), b.split('/')];
  if (left.length !== right.length) return false;
  const other = left.flatMap((part, i) => (part === right[i] ? [] : [[part, right[i]!] as const]));
  return other.length === 1 && other[0]!.every((part) => LOCALE.test(part));
}
