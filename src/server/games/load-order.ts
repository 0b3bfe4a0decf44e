/** The order in which the archives of a game load, kept as their positions. */
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { FaultError } from '../../core/faults';
import { gameProfile, inLoadOrder, type GameProfile } from '../../core/game';
import { ArchiveModel, database, type GameModel } from '../database';
import type { LoadOrderEdit } from '../shapes';
import { underRoots } from '../storage';
import { settleWinners } from './entry-index';
import { requireGame } from './require-game';

export function profileOf(game: GameModel): GameProfile {
  return gameProfile.parse(game.profile);
}

/** A list file is a few names; what is larger is something else. */
const MAX_LIST_BYTES = 1 << 20;

/**
 * Puts every archive in its place; nested ones come right behind the archive they lie in.
 *
 * @returns true when a place changed
 * @throws FaultError when the list file of the rule cannot be read
 */
export async function settleOrder(gameId: number): Promise<boolean> {
  const game = await requireGame(gameId);
  const { loadOrder, byHand } = profileOf(game);
  const rows = await ArchiveModel.findAll({ where: { gameId }, order: [['path', 'ASC']] });
  const list = loadOrder.by === 'list' ? await listText(game, loadOrder.file) : '';
  const top = rows.filter((row) => row.parentId === null);
  const order = inLoadOrder(
    top.map((row) => row.path),
    loadOrder,
    { byHand, list },
  );
  const byPath = new Map(top.map((row) => [row.path, row]));
  const children = new Map<number, ArchiveModel[]>();
  for (const row of rows)
    if (row.parentId !== null) children.set(row.parentId, [...(children.get(row.parentId) ?? []), row]);
  const sorted: ArchiveModel[] = [];
  const visit = (row: ArchiveModel) => {
    sorted.push(row);
    for (const child of children.get(row.id) ?? []) visit(child);
  };
  for (const path of order) visit(byPath.get(path)!);
  const moved = sorted.flatMap((row, position) => (row.position === position ? [] : [[row.id, position]]));
  if (moved.length === 0) return false;
  await database().query(
    `update archives a set position = (v ->> 1)::int from jsonb_array_elements(cast(:moved as jsonb)) v
     where a.id = (v ->> 0)::int`,
    { replacements: { moved: JSON.stringify(moved) } },
  );
  return true;
}

async function listText(game: GameModel, file: string): Promise<string> {
  const path = await underRoots(join(game.folder, file));
  const bytes = await readFile(path).catch(() => undefined);
  if (bytes !== undefined && bytes.length <= MAX_LIST_BYTES) return bytes.toString('utf8');
  throw new FaultError({
    code: bytes === undefined ? 'not-found' : 'wrong-kind',
    file,
    what: bytes === undefined ? 'the load order is in this file, which is missing' : 'this is no list of archives',
    hint: 'Choose another rule for the load order.',
  });
}

/**
 * Another rule, or an order by hand; who wins is settled at once.
 *
 * @throws FaultError when the rule's list file cannot be read: everything then stays as it was
 */
export async function changeLoadOrder(gameId: number, edit: LoadOrderEdit): Promise<void> {
  const game = await requireGame(gameId);
  const before = game.profile;
  const profile = { ...profileOf(game), ...edit };
  await game.update({ profile });
  try {
    if (await settleOrder(gameId)) await settleWinners(gameId);
  } catch (error) {
    await game.update({ profile: before });
    throw error;
  }
}
