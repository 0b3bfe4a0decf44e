/** A value of a record, typed in its table, becomes a change of the file it is in. */
import { posix } from 'node:path';
import type { Pointer } from '../../core/forms/records';
import { entryBytes, findWinner } from '../content';
import { ChangeModel } from '../database';
import { checkReference, withValue } from '../records';
import type { CellEdit, ChangeAnswer } from '../shapes';
import { readBlob } from '../storage';
import { takeChange } from './take-change';

/**
 * Writes one value into its file, which becomes a change.
 *
 * @throws FormatError `wrong-kind` for a value of another kind
 * @throws FaultError `conflict` when the field refers to rows and none is called so, unless it is wanted anyway
 */
export async function setCell(gameId: number, edit: CellEdit): Promise<ChangeAnswer> {
  const { path, pointer, column, typed } = edit;
  const active = await ChangeModel.findOne({ where: { gameId, path, undone: false, modId: null, action: 'replace' } });
  const winner = await findWinner(gameId, path);
  const bytes = active === null ? (await entryBytes(winner.archive, winner.n)).bytes : await readBlob(active.blob);
  const fresh = await withValue(gameId, bytes, path, pointer as Pointer, column, typed);
  if (!edit.anyway) await checkReference(gameId, edit);
  return takeChange(gameId, {
    path,
    fileName: posix.basename(path),
    bytes: fresh,
    matchedBy: { code: 'typed', in: 'records' },
  });
}
