/** The run that makes changes of what was dropped: each file finds its entry and is made to fit, or says what it needs. */
import { faultOf, isFaultError, throwIfStopped } from '../../core/faults';
import { kindOf, type Kind } from '../../core/game';
import { IncomingFileModel } from '../database';
import type { RunContext, RunSetting } from '../runs/run-context';
import type { RunResult } from '../shapes';
import { threadCount } from '../threads';
import { entryAsFile } from './instead';
import { matchDrop } from './match-drop';
import { filmChoicesOf } from './drop-service';
import { takeChange } from './take-change';
import { type Given } from './take-order';

export async function bringInRun({
  gameId,
  input,
  signal,
  progress,
  log,
}: RunContext<'bring-in'>): Promise<RunResult<'bring-in'>> {
  const { dropId, alone } = input;
  await findPlaces(gameId, dropId);
  const rows = await IncomingFileModel.findAll({ where: { gameId, dropId, state: 'waiting' }, order: [['id', 'ASC']] });
  const paths: string[] = [];
  let same = 0;
  let done = 0;
  progress(0, rows.length, 'files');
  // What goes into one entry goes in one after the other.
  const waiting = byEntry(rows).values();
  const ends = new Set<unknown>();
  const take = async (row: IncomingFileModel) => {
    const end = await bringIn(row, signal, alone ? progress : undefined);
    if (end === 'taken') paths.push(row.path!);
    else if (end === 'same') {
      same++;
      log(`${row.name} is the same as what the game has.`);
    } else if (row.state === 'needsOptions') log(`${row.name} waits for a decision on how to convert it.`);
    else log(`${row.name} was not taken.`);
    progress(++done, rows.length, 'files');
  };
  const lane = async () => {
    for (const forOne of waiting)
      for (const row of forOne) {
        if (ends.size > 0) return;
        throwIfStopped(signal);
        await take(row);
      }
  };
  // Fitting takes cores: as many files at a time as there are.
  await Promise.all(Array.from({ length: threadCount() }, () => lane().catch((error: unknown) => ends.add(error))));
  for (const error of ends) throw error;
  const left = await IncomingFileModel.findAll({
    where: { gameId, dropId },
    order: [['name', 'ASC']],
    attributes: ['id'],
  });
  const ask = left[0]?.id ?? null;
  return { drop: dropId, taken: paths.length, same, left: left.length, first: paths[0] ?? null, ask };
}

/** Files by the entry they are for; those that have none yet are left out. */
function byEntry(rows: readonly IncomingFileModel[]): Map<string, IncomingFileModel[]> {
  const found = new Map<string, IncomingFileModel[]>();
  for (const row of rows) {
    if (row.state !== 'waiting' || row.path == null) continue;
    const same = found.get(row.path);
    if (same === undefined) found.set(row.path, [row]);
    else same.push(row);
  }
  return found;
}

/** Files without a place find theirs, or a person is asked. Two that are alike for one entry are asked about. */
async function findPlaces(gameId: number, dropId: number): Promise<void> {
  const rows = await IncomingFileModel.findAll({ where: { gameId, dropId, state: 'waiting' }, order: [['id', 'ASC']] });
  const fresh = rows.filter(({ path }) => path === null);
  // A text that calls itself a picture is for a picture, which then says that it is none.
  const called = (name: string, kind: Kind) => (kindOf(name) === 'bytes' ? kind : kindOf(name));
  const matches = await matchDrop(
    gameId,
    fresh.map(({ name, kind }) => ({ name, kind: called(name, kind) })),
  );
  for (const [i, match] of matches.entries()) {
    const row = fresh[i]!;
    if (match.is === 'one') {
      const { path, matchedBy } = match.choice;
      row.set({ path, matchedBy: match.part === undefined ? matchedBy : { code: 'by-part', part: match.part.suffix } });
      if (match.part !== undefined) row.set({ fitOptions: { part: match.part } });
    } else if (match.is === 'several') row.set({ state: 'ambiguous', choices: match.choices });
    else row.set({ state: match.is === 'number' ? 'numbered' : 'unmatched' });
  }
  for (const [path, same] of byEntry(rows)) {
    // Parts of one picture go in one after the other.
    const parts = new Set(same.map(({ fitOptions, id }) => fitOptions.part?.suffix ?? `file ${id}`));
    if (
      same.length === 1 ||
      (parts.size === same.length && same.every(({ fitOptions }) => fitOptions.part !== undefined))
    )
      continue;
    const byFolder = same.filter(({ matchedBy }) => matchedBy?.code === 'by-path');
    for (const row of same) {
      // The only one whose folders agree is the one; the others have no more than its name.
      if (byFolder.length === 1 && row === byFolder[0]) continue;
      const others = same.filter((one) => one !== row).map(({ name }) => name.slice(name.lastIndexOf('/') + 1));
      row.set({
        state: 'ambiguous',
        choices: [{ path, matchedBy: { code: 'also-matched', files: others } }],
        path: null,
        matchedBy: null,
      });
    }
  }
  for (const row of rows) await row.save();
}

/**
 * @param progress of one that comes alone
 * @returns whether it became a change, or is what the game has and gone; `asks` when a person has to look
 */
async function bringIn(
  row: IncomingFileModel,
  signal: AbortSignal,
  progress: RunSetting['progress'] | undefined,
): Promise<'taken' | 'same' | 'asks'> {
  const { gameId, dropId, name, path, matchedBy, fitOptions } = row;
  try {
    if ((await filmChoicesOf(row)) !== undefined) {
      await row.update({ state: 'needsOptions' });
      return 'asks';
    }
    const change = await takeChange(gameId, {
      ...(await fileOf(row, signal)),
      path: path!,
      matchedBy,
      dropId,
      fitOptions,
      signal,
      ...(progress === undefined ? {} : { progress }),
    });
    await row.destroy();
    // A file for a link, or for a half of a picture, is the change of another entry.
    row.path = change.path;
    return 'taken';
  } catch (error) {
    if (signal.aborted) throw error;
    // A defect of ours is one file's trouble, and not that of all behind it.
    if (!isFaultError(error)) process.stderr.write(`${name}: ${(error as Error).stack ?? String(error)}\n`);
    const fault = faultOf(error, name);
    if (fault.code === 'conflict' && progress === undefined) {
      // Of a folder, most files are often what they were: there is nothing to ask about them.
      await row.destroy();
      return 'same';
    }
    await row.update({ state: fault.code === 'conflict' ? 'same' : 'refused', fault });
    return 'asks';
  }
}

async function fileOf(
  { gameId, name, blob, fromPath }: IncomingFileModel,
  signal: AbortSignal,
): Promise<Given & { readonly fileName: string }> {
  if (blob !== null) return { kept: blob, fileName: name.slice(name.lastIndexOf('/') + 1) };
  const { bytes, name: fileName } = await entryAsFile(gameId, fromPath!, signal);
  return { bytes, fileName };
}
