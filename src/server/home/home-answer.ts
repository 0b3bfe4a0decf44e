/** What the home holds, and what of it can be freed. */
import { readdir, stat, statfs } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { throwIfStopped } from '../../core/faults';
import { BuildModel, GameModel, InstallModel } from '../database';
import { env } from '../env';
import type { HomeAnswer, HomePart } from '../shapes';
import { blobPath } from '../storage';
import { unusedFiles, unusedSmall } from './collect';
import { heldBelow } from './folders';
import { references, type References } from './references';

/** Folders of the home, and what a person would call them. */
const PARTS: Readonly<Record<string, string>> = {
  blobs: 'Files of changes, builds and mods',
  pg: 'Database',
  thumbnails: 'Thumbnails',
  demo: 'The demo game',
  games: 'Games that were sent to this server',
  out: 'Files that were taken out',
  uploads: 'Uploads',
  programs: 'Programs of the application',
};
/** What is made again when it is needed. */
export const MADE_ANEW = ['thumbnails'];

/**
 * @param counted called with the number of files counted so far
 * @throws FaultError `stopped`
 */
export async function homeAnswer(
  counted: (files: number) => void = () => {},
  signal = new AbortController().signal,
): Promise<HomeAnswer> {
  const { home } = env();
  let files = 0;
  const count = () => {
    throwIfStopped(signal);
    counted(++files);
  };
  const used = await references();
  const parts: HomePart[] = [];
  let others = 0;
  for (const entry of await readdir(home, { withFileTypes: true })) {
    const held = entry.isDirectory() ? await heldBelow(join(home, entry.name), count) : { bytes: 0, files: 0 };
    const name = PARTS[entry.name];
    if (name === undefined) {
      others += held.bytes;
      continue;
    }
    const frees = MADE_ANEW.includes(entry.name) ? held.bytes : entry.name === 'blobs' ? await unusedBytes(used) : 0;
    parts.push({ id: entry.name, name, ...held, frees });
  }
  if (others > 0) parts.push({ id: 'others', name: 'Everything else', bytes: others, files: 0, frees: 0 });
  const { bavail, bsize } = await statfs(home);
  return {
    home,
    free: bavail * bsize,
    parts: parts.sort((a, b) => b.bytes - a.bytes),
    builds: await buildsAnswer(used),
  };
}

async function unusedBytes(used: ReadonlyMap<string, References>): Promise<number> {
  let bytes = await unusedSmall(used);
  for await (const file of unusedFiles(used)) bytes += file.bytes;
  return bytes;
}

async function buildsAnswer(used: ReadonlyMap<string, References>): Promise<HomeAnswer['builds']> {
  const games = new Map((await GameModel.findAll()).map((game) => [game.id, game.name]));
  const builds = await BuildModel.findAll({
    attributes: ['id', 'gameId', 'number', 'createdAt'],
    order: [['id', 'DESC']],
  });
  const installs = await InstallModel.findAll({ attributes: ['buildId', 'state'] });
  const isIn = new Set(installs.flatMap(({ buildId, state }) => (state === 'out' ? [] : [buildId])));
  const held = new Map<number, { bytes: number; frees: number }>();
  for (const [sha256, { builds: by, others }] of used) {
    if (by.size === 0) continue;
    const facts = await stat(blobPath(basename(sha256))).catch(() => undefined);
    for (const id of by) {
      const sums = held.get(id) ?? { bytes: 0, frees: 0 };
      sums.bytes += facts?.size ?? 0;
      if (!others && by.size === 1) sums.frees += facts?.size ?? 0;
      held.set(id, sums);
    }
  }
  return builds.map(({ id, gameId, number, createdAt }) => ({
    ...{ id, number },
    game: { id: gameId, name: games.get(gameId) ?? '' },
    createdAt: createdAt.toISOString(),
    ...(held.get(id) ?? { bytes: 0, frees: 0 }),
    isIn: isIn.has(id),
  }));
}
