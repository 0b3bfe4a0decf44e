/** Profiles as files: how a game is set up, to pass on. They hold no keys and no game data. */
import { readFile } from 'node:fs/promises';
import { FaultError } from '../../core/faults';
import { parseSplit } from '../../core/forms/picture';
import { profileFile, type ProfileFile } from '../../core/game';
import { NameListModel } from '../database';
import { listLabels, setLabels } from '../labels';
import { checkTexts, importCollection, recipesUsedIn } from '../recipes';
import { startRun } from '../runs';
import type { ProfileTaken } from '../shapes';
import { blobPath, keepBlob } from '../storage';
import { settleWinners } from './entry-index';
import { profileOf, settleOrder } from './load-order';
import { checkPatternText } from './names/name-service';
import { requireGame } from './require-game';

/** Name lists that go into a profile together; larger ones are passed on as files of their own. */
const MAX_LIST_CHARACTERS = 32 << 20;

export async function exportProfile(gameId: number): Promise<ProfileFile> {
  const game = await requireGame(gameId);
  const lists = await NameListModel.findAll({ where: { gameId, kind: ['list', 'pattern'] }, order: [['id', 'ASC']] });
  const nameLists: ProfileFile['nameLists'] = [];
  let characters = 0;
  for (const { name, kind, source } of lists) {
    const text = kind === 'list' ? await readFile(blobPath(source), 'utf8') : source;
    characters += text.length;
    if (characters > MAX_LIST_CHARACTERS)
      throw new FaultError({
        code: 'limit-reached',
        what: 'the name lists are too large for a profile',
        limit: `characters of name lists, ${MAX_LIST_CHARACTERS.toLocaleString('en')}`,
        hint: 'Remove the largest and pass it on as a file of its own.',
      });
    nameLists.push({ name: name.slice(0, 200), kind: kind as 'list' | 'pattern', text });
  }
  return {
    format: 'zero-latch profile',
    version: 1,
    game: game.name,
    build: game.build ?? null,
    settings: {
      ...profileOf(game),
      labels: (await listLabels(gameId)).map(({ path, text }) => ({ path, label: text })),
    },
    recipes: (await recipesUsedIn(gameId)).map(({ id, revision, text }) => ({ id, revision, text })),
    nameLists,
  };
}

/**
 * Takes a profile in: its settings replace those of the game, newer recipes are kept next to the older ones, and lists the
 * game does not have are added. The folder is then scanned with them.
 *
 * @throws ZodError when the file is no profile
 */
export async function importProfile(gameId: number, content: unknown): Promise<ProfileTaken> {
  const game = await requireGame(gameId);
  const profile = profileFile.parse(content);
  // Looked at whole before anything of it is kept.
  for (const { fault } of await checkTexts(profile.recipes.map(({ text }) => text)))
    if (fault !== undefined) throw new FaultError(fault);
  for (const rule of profile.settings.splits) parseSplit(rule);
  for (const { kind, text } of profile.nameLists) if (kind === 'pattern') checkPatternText(text);
  const notes: string[] = [];
  const texts = profile.recipes.map(({ text }) => text);
  const { saved, leftOut } = await importCollection(texts, { game: gameId, everywhere: false });
  for (const { id, reason } of leftOut) notes.push(`${id}: ${reason}`);
  const had = await NameListModel.findAll({ where: { gameId } });
  const lists: number[] = [];
  for (const { name, kind, text } of profile.nameLists) {
    const source = kind === 'pattern' ? text : (await keepBlob(once(text))).sha256;
    if (had.some((list) => list.kind === kind && list.source === source)) continue;
    lists.push((await NameListModel.create({ gameId, name, kind, source })).id);
  }
  const { labels, ...settings } = profile.settings;
  await setLabels(
    gameId,
    labels.map(({ path, label }) => ({ path, text: label })),
  );
  await game.update({ profile: { ...settings, labels: [] } });
  if (await settleOrder(gameId).catch((error: Error) => (notes.push(error.message), false)))
    await settleWinners(gameId);
  const run = await startRun('scan', { title: `Scanning ${game.name}`, gameId, input: {} });
  if (lists.length > 0) await startRun('names', { title: `Naming entries of ${game.name}`, gameId, input: { lists } });
  return { recipes: saved.length, nameLists: lists.length, notes, run };
}

async function* once(text: string): AsyncGenerator<Uint8Array> {
  yield Buffer.from(text);
}
