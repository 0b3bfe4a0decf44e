import { stat } from 'node:fs/promises';
import { basename } from 'node:path';
import { faultOf, FaultError, sayFault } from '../../core/faults';
import { Op } from 'sequelize';
import { LOOSE_RECIPE } from '../../core/carve';
import {
  ArchiveModel,
  IncomingFileModel,
  BuildChangeModel,
  BuildModel,
  database,
  GameModel,
  InstallModel,
  KeyModel,
  ScanModel,
  TrayItemModel,
} from '../database';
import { startRun } from '../runs';
import type { GameAnswer, GameRow, RunAnswer, ScanAnswer } from '../shapes';
import { underRoots } from '../storage';
import { activeMarks } from './active-changes';
import { memoizeByVersion } from './memoize-by-version';
import { archivesOf } from './archive-service';
import { looseFilesOf } from './loose-files';
import { profileOf } from './load-order';
import { listNames } from './names/name-service';
import { requireGame } from './require-game';

export async function listGames(): Promise<GameRow[]> {
  const games = await GameModel.findAll({ order: [['id', 'ASC']] });
  const archives = await ArchiveModel.findAll({
    attributes: ['gameId', 'state'],
    where: { parentId: null, recipe: { [Op.or]: [null, { [Op.ne]: LOOSE_RECIPE }] } },
  });
  return games.map((game) => ({
    id: game.id,
    name: game.name,
    folder: game.folder,
    build: game.build ?? null,
    forgottenAt: game.forgottenAt?.toISOString() ?? null,
    archives: archives.filter((archive) => archive.gameId === game.id && archive.state !== 'unknown').length,
  }));
}

/**
 * Takes a folder in as a game and starts its first scan. The same folder twice is the same game.
 *
 * @throws FaultError `not-allowed` outside of the roots, `not-found`, `wrong-kind` for a file
 */
export async function addGame(order: {
  folder: string;
  name?: string | undefined;
}): Promise<{ game: GameRow; run: RunAnswer }> {
  const folder = await underRoots(order.folder);
  const facts = await stat(folder).catch((error: unknown) => {
    throw new FaultError(faultOf(error, order.folder), { cause: error });
  });
  if (!facts.isDirectory())
    throw new FaultError({ code: 'wrong-kind', file: order.folder, expected: 'the folder of a game', found: 'a file' });
  const name = order.name ?? readable(basename(folder));
  const [game] = await GameModel.findOrCreate({ where: { folder }, defaults: { folder, name } });
  await game.update({ forgottenAt: null });
  const run = await startRun('scan', { title: `Scanning ${game.name}`, gameId: game.id, input: {} });
  return { game: { id: game.id, name: game.name, folder, archives: 0, build: null, forgottenAt: null }, run };
}

function readable(folder: string): string {
  const words = folder.replace(/[-_]+/g, ' ').trim();
  return words.replace(/\b\p{L}/gu, (letter) => letter.toUpperCase()) || folder;
}

/** Sets a game aside with everything a person made for it, or brings it back. */
export async function forgetGame(id: number, forgotten: boolean): Promise<void> {
  const game = await requireGame(id);
  await game.update({ forgottenAt: forgotten ? new Date() : null });
}

/**
 * Deletes a game with its keys, changes and builds. Its folder is not touched; while a build is in it, the way back is not
 * thrown away.
 */
export async function removeGame(id: number): Promise<void> {
  const game = await requireGame(id);
  await database().transaction(async (transaction) => {
    // No build gets on its way into the folder from here on: its row would refer to this one.
    await game.reload({ transaction, lock: transaction.LOCK.UPDATE });
    const inFolder = await InstallModel.count({
      where: { gameId: id, state: ['in', 'putting-in', 'taking-out'] },
      transaction,
    });
    if (inFolder > 0)
      throw new FaultError({
        code: 'conflict',
        what: 'a build is in the game folder',
        hint: 'Take it out again first.',
      });
    await InstallModel.destroy({ where: { gameId: id }, transaction });
    await game.destroy({ transaction });
  });
}

export async function gameAnswer(id: number): Promise<GameAnswer> {
  const game = await requireGame(id);
  const profile = profileOf(game);
  const [archives, loose, opened, keys, trayCount, waitingFiles, changes, installed, scan, nameLists] =
    await Promise.all([
      archivesOf(id),
      looseFilesOf(id),
      ArchiveModel.findAll({
        where: { gameId: id, parentId: null, keys: { [Op.ne]: {} } },
        attributes: ['path', 'keys'],
        order: [['position', 'ASC']],
      }),
      KeyModel.findAll({ where: { gameId: id }, order: [['id', 'ASC']] }),
      TrayItemModel.count({ where: { gameId: id } }),
      IncomingFileModel.count({ where: { gameId: id } }),
      changesOf(id),
      // On its way in or out counts as well: nothing else may be put there meanwhile.
      InstallModel.count({ where: { gameId: id, state: ['in', 'putting-in', 'taking-out'] } }),
      ScanModel.findOne({ where: { gameId: id }, order: [['id', 'DESC']] }),
      listNames(id),
    ]);
  return {
    id,
    name: game.name,
    folder: game.folder,
    scannedAt: game.scannedAt?.toISOString() ?? null,
    build: game.build ?? null,
    buildFrom: game.buildFrom ?? null,
    lastScan: scan === null ? null : scanAnswer(scan),
    loadOrder: profile.loadOrder,
    ordered: profile.byHand.length > 0,
    archives,
    loose,
    keys: keys.map((key) => ({
      id: key.id,
      kind: key.kind,
      mask: key.mask,
      name: key.name ?? null,
      build: key.build ?? null,
      opens: opened.filter(({ keys: own }) => Object.values(own).includes(key.id)).map(({ path }) => path),
    })),
    nameLists,
    entryCount: game.entryCount,
    trayCount,
    waitingFiles,
    ...changes,
    installed: installed > 0,
  };
}

/** How many changes there are, and how many of them the newest build does not have, or has and they are gone. */
async function changesOf(gameId: number): Promise<Pick<GameAnswer, 'changeCount' | 'behind' | 'lastBuild'>> {
  const lastBuild = (await BuildModel.max('number', { where: { gameId } })) as number | null;
  return memoizeByVersion(gameId, `behind build ${lastBuild}`, async () => {
    const changes = await activeMarks(gameId);
    const build = lastBuild === null ? null : await BuildModel.findOne({ where: { gameId, number: lastBuild } });
    const went =
      build === null
        ? []
        : await BuildChangeModel.findAll({
            where: { buildId: build.id },
            attributes: ['path', 'blob', 'action', 'loop'],
            raw: true,
          });
    // The same samples with another loop are another change.
    const meant = ({ blob, action, loop }: { blob: string; action: string | null; loop: readonly number[] | null }) =>
      `${action ?? 'replace'} ${blob} ${loop?.join() ?? ''}`;
    const built = new Map(went.map((change) => [change.path, meant(change)]));
    const now = new Set(changes.map(({ path }) => path));
    const gone = [...built.keys()].filter((path) => !now.has(path)).length;
    return {
      // A change that belongs to another is counted with it.
      changeCount: changes.filter(({ withId }) => withId === null).length,
      behind: changes.filter((change) => built.get(change.path) !== meant(change)).length + gone,
      lastBuild,
    };
  });
}

function scanAnswer({ scannedAt, build, files, bytes, news, trouble }: ScanModel): ScanAnswer {
  return { scannedAt: scannedAt.toISOString(), build, files, bytes, news, trouble: trouble.map(sayFault) };
}
