/** An entry in the place of another: what it is, in a format that any of its form can be made from. */
import { QueryTypes } from 'sequelize';
import { FaultError } from '../../core/faults';
import { pairCompanions } from '../../core/game';
import { database } from '../database';
import { findWinner } from '../content';
import { asItself, entrySubject, formOf } from '../forms';
import { linksOf } from '../inside';
import type { InsteadAnswer, KindName } from '../shapes';

/** What an entry is that goes into the place of another. @throws FaultError `no-such-entry` */
export async function changedFrom(gameId: number, from: string): Promise<{ kind: KindName; size: number }> {
  const [row] = await database().query<{ kind: KindName; size: number }>(
    'select kind, size::float8 as size from entries where game_id = :gameId and path = :from and wins',
    { replacements: { gameId, from }, type: QueryTypes.SELECT },
  );
  if (row !== undefined) return row;
  throw new FaultError({ code: 'no-such-entry', what: `there is no entry ${from}` });
}

/** What would go along when an entry takes the place of another, as far as it is known what names what. */
export async function companionsOf(gameId: number, path: string, from: string): Promise<InsteadAnswer> {
  await changedFrom(gameId, from);
  await findWinner(gameId, path);
  const [own, other] = await Promise.all([linksOf(gameId, path), linksOf(gameId, from)]);
  return { known: own.known, ...pairCompanions({ path, from }, own.uses, other.uses) };
}

/** It as a file: in a format that any of its form can be made from, and as it is where its form has none. */
export async function entryAsFile(
  gameId: number,
  from: string,
  signal: AbortSignal,
): Promise<{ bytes: Uint8Array; name: string }> {
  const { archive, n } = await findWinner(gameId, from);
  const subject = asItself(await entrySubject(archive, n));
  const file = await formOf(subject)?.exchange?.(subject, signal);
  return file === undefined ? { bytes: await subject.bytes(), name: from } : { bytes: file.bytes, name: file.path };
}
