import { stat } from 'node:fs/promises';
import { basename } from 'node:path';
import { faultOf, FaultError, sayFault } from '../../core/faults';
import { isProven, type Proof } from '../../core/recipe';
import {
  ArchiveModel,
  BuildModel,
  ChangeModel,
  database,
  GameModel,
  InstallModel,
  KeyModel,
  ScanModel,
  TrayItemModel,
} from '../database';
import { startRun } from '../runs';
import { faultAnswer } from '../runs/run-service';
import type { GameAnswer, GameRow, ProofAnswer, RunAnswer, ScanAnswer } from '../shapes';
import { underRoots } from '../storage';
import { bytesOf } from './archive-access';
import { profileOf } from './load-order';
import { listNames } from './names/name-service';
import { requireGame } from './require-game';

export async function listGames(): Promise<GameRow[]> {
  const games = await GameModel.findAll({ order: [['id', 'ASC']] });
  const archives = await ArchiveModel.findAll({ attributes: ['gameId', 'state'] });
  return games.map((game) => ({
    id: game.id,
    name: game.name,
    folder: game.folder,
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
  const run = await startRun({ kind: 'scan', title: `Scanning ${game.name}`, gameId: game.id });
  return { game: { id: game.id, name: game.name, folder, archives: 0 }, run };
}

function readable(folder: string): string {
  const words = folder.replace(/[-_]+/g, ' ').trim();
  return words.replace(/\b\p{L}/gu, (letter) => letter.toUpperCase()) || folder;
}

/** Forgets a game. Its folder is not touched; while a build is in it, the way back is not thrown away. */
export async function removeGame(id: number): Promise<void> {
  const game = await requireGame(id);
  const inFolder = await InstallModel.count({ where: { gameId: id, state: ['in', 'putting-in', 'taking-out'] } });
  if (inFolder > 0)
    throw new FaultError({ code: 'conflict', what: 'a build is in the game folder', hint: 'Take it out again first.' });
  await database().transaction(async (transaction) => {
    await InstallModel.destroy({ where: { gameId: id }, transaction });
    await game.destroy({ transaction });
  });
}

export async function gameAnswer(id: number): Promise<GameAnswer> {
  const game = await requireGame(id);
  const profile = profileOf(game);
  const [archives, keys, trayCount, changes, builds, installed, scan, nameLists] = await Promise.all([
    ArchiveModel.findAll({
      where: { gameId: id },
      order: [
        ['position', 'ASC'],
        ['path', 'ASC'],
      ],
    }),
    KeyModel.findAll({ where: { gameId: id }, order: [['id', 'ASC']] }),
    TrayItemModel.count({ where: { gameId: id } }),
    ChangeModel.findAll({ where: { gameId: id, undone: false } }),
    BuildModel.findAll({ where: { gameId: id }, order: [['number', 'DESC']], limit: 1 }),
    InstallModel.count({ where: { gameId: id, state: 'in' } }),
    ScanModel.findOne({ where: { gameId: id }, order: [['id', 'DESC']] }),
    listNames(id),
  ]);
  const [build] = builds;
  const built = new Map(build?.changes.map((change) => [change.path, change.blob]));
  const gone = [...built.keys()].filter((path) => !changes.some((change) => change.path === path)).length;
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
    archives: archives.map((archive) => ({
      id: archive.id,
      path: archive.path,
      title: archive.title,
      state: archive.state,
      slots: archive.slots,
      fault: faultAnswer(archive.fault),
      size: bytesOf(archive),
      volumes: archive.volumes.map(({ name, size }) => ({ name, size })),
      entryCount: archive.entryCount,
      proof: proofAnswer(archive.proof),
      bands: archive.bands,
      fits: archive.fits,
      recipe: archive.recipe,
      parent: archive.parentId ?? null,
      hashed: archive.hashed,
      named: archive.namedCount,
      covers: archive.covers,
      removes: archive.removes,
      news: archive.news ?? null,
    })),
    keys: keys.map((key) => ({
      id: key.id,
      kind: key.kind,
      mask: key.mask,
      name: key.name ?? null,
      build: key.build ?? null,
      opens: archives.filter((archive) => Object.values(archive.keys).includes(key.id)).map((archive) => archive.path),
    })),
    nameLists,
    entryCount: game.entryCount,
    trayCount,
    changeCount: changes.length,
    behind: changes.filter((change) => built.get(change.path) !== change.blob).length + gone,
    lastBuild: build?.number ?? null,
    installed: installed > 0,
  };
}

function scanAnswer({ scannedAt, build, files, bytes, news, trouble }: ScanModel): ScanAnswer {
  return { scannedAt: scannedAt.toISOString(), build, files, bytes, news, trouble: trouble.map(sayFault) };
}

export function proofAnswer(proof: Proof | null): ProofAnswer | null {
  if (proof === null) return null;
  const { bytes, formulas, identical, changed } = proof;
  return {
    bytes: { explained: bytes.explained, total: bytes.total },
    formulas: { agree: formulas.agree, total: formulas.total },
    identical: identical.same,
    changed: { equal: changed.equal, tested: changed.tested, total: changed.total },
    proven: isProven(proof),
    firsts: [bytes.first, formulas.first, identical.first, changed.first].flatMap((fault) =>
      fault === undefined ? [] : [sayFault(fault)],
    ),
  };
}
