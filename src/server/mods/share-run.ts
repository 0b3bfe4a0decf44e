/** Making a mod file of one's own changes. */
import { sayNote, type Note } from '../../core/notes';
import { Readable } from 'node:stream';
import { createHash } from 'node:crypto';
import { ZipWriterStream } from '@zip.js/zip.js';
import { QueryTypes } from 'sequelize';
import { readChunks } from '../../core/bytes';
import { FaultError, throwIfStopped } from '../../core/faults';
import { MOD_MANIFEST, MOSTLY_THE_GAMES, modFile, SafePaths, type ModChange, type ModFile } from '../../core/game';
import { readEntry } from '../../core/recipe';
import { ChangeModel, database } from '../database';
import { requireGame, withArchive } from '../games';
import { startRun } from '../runs';
import type { RunContext } from '../runs/run-context';
import type { RunAnswer, ShareOrder, SharedFile, RunResult } from '../shapes';
import { keepBlob, openBlob, type Blob } from '../storage';
import { differenceOf } from './difference';

/** @throws FaultError `conflict` when nothing of one's own is changed */
export async function startShare(gameId: number, order: ShareOrder): Promise<RunAnswer> {
  await requireGame(gameId);
  if ((await ChangeModel.count({ where: { gameId, undone: false, modId: null } })) === 0)
    throw new FaultError({ code: 'conflict', what: 'nothing of yours is changed', hint: 'Drop an edited file first.' });
  return startRun('share', { title: `Making the mod file ${order.name}`, gameId, input: order });
}

interface Member {
  readonly name: string;
  readonly blob: string;
}

export async function shareRun({
  gameId,
  input: order,
  signal,
  progress,
  log,
}: RunContext<'share'>): Promise<RunResult<'share'>> {
  const game = await requireGame(gameId);
  const own = await ChangeModel.findAll({ where: { gameId, undone: false, modId: null }, order: [['path', 'ASC']] });
  const members: Member[] = [];
  const changes: ModChange[] = [];
  const shared: SharedFile[] = [];
  const names = new SafePaths();
  for (const [i, change] of own.entries()) {
    throwIfStopped(signal);
    progress(i, own.length, 'entries');
    const made = await modChangeOf(change, order.differences, names, signal);
    shared.push(made.shared);
    if (made.shared.as === 'left out') log(`${change.path} is left out: ${sayNote(made.shared.reason)}.`);
    if (made.change === undefined) continue;
    changes.push(made.change);
    if (made.member !== undefined) members.push(made.member);
  }
  if (changes.length === 0)
    throw new FaultError({
      code: 'conflict',
      what: 'nothing is left that may be passed on',
      found: shared[0] === undefined ? 'nothing' : sayNote(shared[0].reason),
      hint: 'What is the game’s own is not yours to share.',
    });
  if (order.picture !== undefined) members.push({ name: 'picture.png', blob: order.picture });
  const manifest = modFile.parse({
    format: 'zero-latch mod',
    version: 1,
    ...{ name: order.name, release: order.release, author: order.author, notes: order.notes, licence: order.licence },
    ...(order.picture === undefined ? {} : { picture: 'picture.png' }),
    game: { name: game.name, build: game.build ?? null },
    changes,
  });
  const file = await zipOf(manifest, members);
  progress(own.length, own.length, 'entries');
  return { file: file.sha256, bytes: file.size, name: `${names.clean(order.name).path}.zip`, files: shared };
}

/** How one change goes into a mod file. */
async function modChangeOf(
  change: ChangeModel,
  differences: boolean,
  names: SafePaths,
  signal: AbortSignal,
): Promise<{ shared: SharedFile; change?: ModChange; member?: Member }> {
  const { path, action, note, blob, base, size } = change;
  const leftOut = (reason: Note) => ({ shared: { path, as: 'left out' as const, reason, bytes: 0 } });
  if (action !== 'add' && base == null) return leftOut({ code: 'share-original-unknown' });
  const replaces = base == null ? undefined : await contentOf(base);
  if (action === 'remove')
    return {
      shared: { path, as: 'gone', reason: { code: 'share-removal' }, bytes: 0 },
      change: { action, path, note, replaces: replaces! },
    };
  if (blob === base && change.loop == null) return leftOut({ code: 'share-unchanged' });
  const twin = await entryWith(change.gameId, blob, size);
  if (twin !== undefined) return leftOut({ code: 'share-copy', entry: twin });
  const becomes = { sha256: blob, size };
  const loop = change.loop == null ? {} : { loop: change.loop as [number, number] };
  if (action === 'replace') {
    const difference = await differenceOf(base!, blob, signal);
    // What repeats itself is short either way: only what is shorter for knowing the game's is the game's.
    const alone = await differenceOf(undefined, blob, signal);
    if (difference.size < alone.size * MOSTLY_THE_GAMES) {
      const percent = Math.round((1 - difference.size / alone.size) * 100);
      if (!differences) return leftOut({ code: 'share-mostly-game', percent });
      const name = names.clean(`differences/${path}.vcdiff`).path;
      return {
        shared: { path, as: 'difference', reason: { code: 'share-difference', percent }, bytes: difference.size },
        change: { action, path, note, replaces: replaces!, becomes, difference: name, ...loop },
        member: { name, blob: difference.sha256 },
      };
    }
  }
  const name = names.clean(`files/${path}`).path;
  const shared: SharedFile = { path, as: 'whole', reason: { code: 'share-own' }, bytes: size };
  const member = { name, blob };
  return action === 'add'
    ? { shared, change: { action, path, note, becomes, file: name, into: change.intoArchive! }, member }
    : { shared, change: { action, path, note, replaces: replaces!, becomes, file: name, ...loop }, member };
}

async function contentOf(sha256: string): Promise<{ sha256: string; size: number }> {
  const source = await openBlob(sha256, sha256);
  await source.close();
  return { sha256, size: source.size };
}

/** Entries of the same size that are looked at. */
const MOST_TWINS = 50;

/** An entry of the game that is just these bytes. */
async function entryWith(gameId: number, blob: string, size: number): Promise<string | undefined> {
  const rows = await database().query<{ archive: number; n: number; path: string }>(
    `select archive_id as archive, n, path from entries where game_id = :gameId and size = :size and not deleted limit :most`,
    { replacements: { gameId, size, most: MOST_TWINS }, type: QueryTypes.SELECT },
  );
  for (const { archive, n, path } of rows) {
    const found = await withArchive(archive, async (opened) => {
      const hash = createHash('sha256');
      for await (const chunk of readEntry(opened, n, { verify: false })) hash.update(chunk);
      return hash.digest('hex');
    }).catch(() => undefined);
    if (found === blob) return path;
  }
  return undefined;
}

async function zipOf(manifest: ModFile, members: readonly Member[]): Promise<Blob> {
  const zip = new ZipWriterStream({ level: 6, useWebWorkers: false });
  const fill = async () => {
    const writer = zip.writable(MOD_MANIFEST).getWriter();
    await writer.write(new TextEncoder().encode(`${JSON.stringify(manifest, null, 2)}\n`));
    await writer.close();
    for (const { name, blob } of members) {
      const source = await openBlob(blob, name);
      const bytes = Readable.toWeb(Readable.from(readChunks(source, 0, source.size)));
      await bytes.pipeTo(zip.writable(name) as WritableStream).finally(() => source.close());
    }
    await zip.close();
  };
  const filled = fill();
  const [kept] = await Promise.all([keepBlob(Readable.fromWeb(zip.readable as never)), filled]);
  return kept;
}
