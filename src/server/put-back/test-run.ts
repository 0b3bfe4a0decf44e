/** The test run of a build: by the stand-in game, or by the rules of the profile, and by a command of the user's own. */
import { stat } from 'node:fs/promises';
import { join } from 'node:path';
import type { GameModel } from '../database';
import { testCommandFor } from '../config';
import type { BuildFile, BuiltChange, JudgeReport } from '../shapes';
import { checkRules } from './check-rules';
import { runTestCommand } from './command-run';
import { withOverlay } from './overlay';
import { PROGRAM, standInRun } from './stand-in-run';
import type { TestOptions, TestReport } from './test-report';

/** @throws CancelledError when the run is stopped */
export async function testRun(
  game: GameModel,
  files: readonly BuildFile[],
  changes: readonly BuiltChange[],
  options: TestOptions,
): Promise<TestReport> {
  const standIn = (await stat(join(game.folder, PROGRAM)).catch(() => undefined)) !== undefined;
  const command = await testCommandFor(game.folder);
  return withOverlay(files, async (build, room) => {
    const report = standIn
      ? await standInRun([game.folder, build], room, options)
      : await checkRules(game, files, changes, options.signal);
    if (command === undefined) return report;
    const { findings, ...said } = await runTestCommand(command, game.folder, build, options.signal);
    const all = [...report.findings, ...findings];
    return { ...report, findings: all, started: all.every(({ severity }) => severity !== 'stop'), command: said };
  });
}

/** A report in one line, for the log. */
export function sayReport({ started, findings, by, rules, command }: JudgeReport): string {
  const stop = findings.find(({ severity }) => severity === 'stop')?.rule ?? 'no reason given';
  if (started && by === 'rules' && rules === 0)
    return command === undefined
      ? 'The build was not tested: this game has no rules.'
      : 'Your own test command accepts the build.';
  if (by === 'rules') return started ? 'The build keeps the rules of the game.' : `The build breaks a rule: ${stop}`;
  return started ? 'The stand-in game starts.' : `The stand-in game stops: ${stop}`;
}
