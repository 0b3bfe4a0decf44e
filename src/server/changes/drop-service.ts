/** Dropped files on their way to becoming changes: kept as they come, matched and fitted by a run. */
import { FaultError } from '../../core/faults';
import { kindOf } from '../../core/game';
import { IncomingFileModel, DropModel } from '../database';
import { findWinner } from '../content';
import { filmChoices, isForFilm } from '../forms/film';
import { requireGame } from '../games';
import { faultAnswer, startRun } from '../runs';
import type { IncomingFile, IncomingFiles, FilmChoices, FilmOptions, ImportFile, RunAnswer } from '../shapes';
import { keepBlob, openBlob } from '../storage';
import { endImport, expectFiles, noteReceived } from './import-files';
import { changedFrom } from './instead';
import { isFilmOfPackets } from './take-change';
import { MAX_CHANGE_BYTES } from './take-order';

/** The largest film that is taken as a change. */
const MAX_FILM_BYTES = 16 * 2 ** 30;
/** Rows that are sent to the page. */
const MOST_LISTED = 500;

/** @param files what is going to be sent, so that an import that is cut off can be finished */
export async function newDrop(gameId: number, files: readonly ImportFile[] = []): Promise<{ id: number }> {
  await requireGame(gameId);
  const { id } = await DropModel.create({ gameId });
  if (files.length > 0) await expectFiles(id, files);
  return { id };
}

/**
 * Keeps a dropped file, as it is. @param path the entry it is for; without it, a run looks for that
 * @throws FaultError `limit-reached` when it is too large, `not-found` when there is no such drop
 */
export async function addIncomingFile(
  gameId: number,
  dropId: number,
  { name, path, bytes }: { name: string; path?: string | undefined; bytes: AsyncIterable<Uint8Array> },
): Promise<IncomingFile> {
  await requireDrop(gameId, dropId);
  const { sha256, size } = await keepBlob(bytes, {
    maxBytes: isForFilm(name) ? MAX_FILM_BYTES : MAX_CHANGE_BYTES,
  });
  const source = await openBlob(sha256, name);
  const head = await source.read(0, Math.min(64, source.size)).finally(() => source.close());
  const row = await IncomingFileModel.create({
    gameId,
    dropId,
    name: name.replaceAll('\\', '/').replace(/^[./]+/, ''),
    blob: sha256,
    size,
    kind: kindOf(name, head),
    path: path ?? null,
    matchedBy: path === undefined ? null : { code: 'by-hand' },
  });
  await noteReceived(dropId, { name, size });
  return incomingFile(row);
}

/** Entries that are to take the places of others. @throws FaultError `no-such-entry` */
export async function addInstead(
  gameId: number,
  dropId: number,
  pairs: readonly { readonly path: string; readonly from: string }[],
): Promise<{ added: number }> {
  await requireDrop(gameId, dropId);
  for (const { path, from } of pairs) {
    await findWinner(gameId, path);
    const { kind, size } = await changedFrom(gameId, from);
    await IncomingFileModel.create({
      gameId,
      dropId,
      name: from,
      blob: null,
      fromPath: from,
      size,
      kind,
      path,
      matchedBy: { code: 'from-entry' },
    });
  }
  return { added: pairs.length };
}

/** Starts the run that matches and fits what waits in a drop. */
export async function startBringIn(gameId: number, dropId: number): Promise<RunAnswer> {
  const game = await requireGame(gameId);
  await requireDrop(gameId, dropId);
  await endImport(dropId);
  const rows = await IncomingFileModel.findAll({ where: { gameId, dropId, state: 'waiting' }, limit: 2 });
  const waiting = await IncomingFileModel.count({ where: { gameId, dropId, state: 'waiting' } });
  const what =
    waiting === 1 ? rows[0]!.name.slice(rows[0]!.name.lastIndexOf('/') + 1) : `${waiting.toLocaleString('en')} files`;
  return startRun('bring-in', {
    title: `Importing ${what} into ${game.name}`,
    gameId,
    input: { dropId, alone: waiting === 1 },
  });
}

/** What waits for a person, and what is still on its way. */
export async function listIncomingFiles(gameId: number): Promise<IncomingFiles> {
  const { count, rows } = await IncomingFileModel.findAndCountAll({
    where: { gameId },
    order: [
      ['dropId', 'DESC'],
      ['name', 'ASC'],
    ],
    limit: MOST_LISTED,
  });
  return { total: count, rows: rows.map(incomingFile) };
}

/** A person says which entry a file is for. @throws FaultError `no-such-entry` */
export async function placeIncomingFile(
  gameId: number,
  dropId: number,
  id: number,
  path: string,
): Promise<IncomingFile> {
  const row = await requireIncomingFile(gameId, dropId, id);
  await findWinner(gameId, path);
  await row.update({ path, matchedBy: { code: 'by-hand' }, state: 'waiting', choices: [], fault: null });
  return incomingFile(row);
}

/** What is to be chosen before a dropped film is converted. @throws FaultError `conflict` when nothing is */
export async function choicesOf(gameId: number, dropId: number, id: number): Promise<FilmChoices> {
  const row = await requireIncomingFile(gameId, dropId, id);
  const choices = await filmChoicesOf(row);
  if (choices !== undefined) return choices;
  throw new FaultError({ code: 'conflict', file: row.name, what: 'there is nothing to choose for this file' });
}

/** What there is to choose for a file that waits; undefined when nothing is, or a person has chosen. */
export async function filmChoicesOf({
  gameId,
  name,
  path,
  blob,
  fitOptions,
}: IncomingFileModel): Promise<FilmChoices | undefined> {
  if (blob === null || path == null || fitOptions?.film !== undefined || !isForFilm(name)) return undefined;
  const { archive, n } = await findWinner(gameId, path);
  const isFilm = kindOf(path) === 'film' || (await isFilmOfPackets(archive));
  return isFilm ? filmChoices(archive, n, blob, name) : undefined;
}

/** A person has said how a film is converted. */
export async function convertIncomingFile(
  gameId: number,
  dropId: number,
  id: number,
  film: FilmOptions,
): Promise<IncomingFile> {
  const row = await requireIncomingFile(gameId, dropId, id);
  await row.update({ fitOptions: { ...row.fitOptions, film }, state: 'waiting', fault: null });
  return incomingFile(row);
}

/** Passes over one file of a drop, or over all that are left. @returns how many */
export async function skipFile(gameId: number, dropId: number, id?: number): Promise<{ passed: number }> {
  const where = { gameId, dropId, ...(id === undefined ? {} : { id }) };
  if (id === undefined) await endImport(dropId);
  return { passed: await IncomingFileModel.destroy({ where }) };
}

async function requireDrop(gameId: number, id: number): Promise<void> {
  if ((await DropModel.count({ where: { gameId, id } })) === 0)
    throw new FaultError({ code: 'not-found', what: 'there is no such drop' });
}

async function requireIncomingFile(gameId: number, dropId: number, id: number): Promise<IncomingFileModel> {
  const row = await IncomingFileModel.findOne({ where: { gameId, dropId, id } });
  if (row !== null) return row;
  throw new FaultError({ code: 'not-found', what: 'this file is no longer waiting' });
}

function incomingFile(row: IncomingFileModel): IncomingFile {
  const { id, dropId, name, kind, size, state, path, matchedBy, choices, fault } = row;
  return {
    ...{ id, drop: dropId, name, kind, size: Number(size) },
    ...{ state: state ?? 'waiting', path: path ?? null, matchedBy: matchedBy ?? null, choices: choices ?? [] },
    fault: faultAnswer(fault ?? null),
  };
}
