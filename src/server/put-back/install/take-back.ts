/** Taking a build out of the game folder again: every file as it was before, byte for byte. */
import { FaultError } from '../../../core/faults';
import { join } from 'node:path';
import { InstallModel } from '../../database';
import { requireGame } from '../../games';
import { startRun } from '../../runs';
import type { RunContext } from '../../runs/run-context';
import type { RunAnswer, RunResult } from '../../shapes';
import { underRoots } from '../../storage';
import { sha256OfFile } from '../../storage';
import { restore } from './restore';
import { reached } from './steps';

/** @param leave files that something else wrote since stay as they are; without it they stop everything */
export async function startTakeBack(gameId: number, installId: number, leave: boolean): Promise<RunAnswer> {
  const game = await requireGame(gameId);
  const install = await InstallModel.findOne({ where: { gameId, id: installId, state: 'in' } });
  if (install === null) throw new FaultError({ code: 'not-found', what: 'that build is not in the game folder' });
  return startRun('take-back', {
    title: `Taking the build out of ${game.name}`,
    gameId,
    input: { install: installId, leave },
  });
}

export async function takeBackRun({ input, progress, log }: RunContext<'take-back'>): Promise<RunResult<'take-back'>> {
  const install = (await InstallModel.findByPk(input.install))!;
  const game = await requireGame(install.gameId);
  const folder = await underRoots(game.folder);
  const others: string[] = [];
  for (const [i, file] of install.files.entries()) {
    const found = await sha256OfFile(join(folder, file.name));
    progress(i, install.files.length * 2, 'files');
    if (found === file.sha256 || found === (file.original ?? undefined)) continue;
    if (!input.leave)
      throw new FaultError({
        code: 'conflict',
        file: file.name,
        what:
          found === undefined ? 'the file that was put in has gone' : 'the file is no longer the one that was put in',
        hint: 'The game’s updater may have replaced it. Take out the rest and leave it, or put the file that was there out of the way and try again.',
      });
    others.push(file.name);
  }
  await install.update({ state: 'taking-out', leftAlone: others });
  reached('journal');
  await restore(install, folder);
  progress(1, 1, 'files');
  const left = others.length === 0 ? '' : ` Left as something else wrote them: ${others.join(', ')}.`;
  log(others.length === 0 ? 'The game folder is as it was before.' : `What was put in is out.${left}`);
  return { files: install.files.length - others.length, left: others };
}
