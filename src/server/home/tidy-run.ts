/** Frees what nothing refers to and what is made again when it is needed. */
import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import { env } from '../env';
import { startRun } from '../runs';
import type { RunContext } from '../runs/run-context';
import type { RunAnswer, RunResult } from '../shapes';
import { collect } from './collect';
import { MADE_ANEW } from './home-answer';
import { filesBelow } from './folders';

export function startTidy(): Promise<RunAnswer> {
  return startRun('tidy', { title: 'Freeing space', gameId: null, input: {} });
}

export async function tidyRun({ progress, signal, log }: RunContext<'tidy'>): Promise<RunResult<'tidy'>> {
  let freed = 0;
  for (const name of MADE_ANEW) {
    for await (const { path, bytes } of filesBelow(join(env().home, name))) {
      await rm(path, { force: true });
      freed += bytes;
    }
  }
  freed += await collect((done) => progress(done, 0, 'files'), signal);
  log(`${freed.toLocaleString('en')} bytes are free now.`);
  return { freed };
}
