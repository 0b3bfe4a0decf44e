/**
 * A worker that is killed at any moment loses nothing and leaves nothing behind: the run is resumed, and everything is as
 * if nothing had happened. `npm run soak -- --kills 200` kills more often.
 */
import { mkdirSync } from 'node:fs';
import { ChangeModel, database, migrate } from '../../../src/server/database';
import { Dice } from '../../soak/dice';
import { ended, games, openedGame, settled } from '../support';
import { changeSome } from './game-facts';
import { jobsFor } from './jobs';
import { killedAfter, MortalWorker, stopOthers, type Job } from './kill-worker';

const KILLS = Number(process.env['ZERO_LATCH_KILLS'] ?? 5);
const SEED = Number(process.env['ZERO_LATCH_KILLS_SEED'] ?? 1);
/** Of one kill, with all that is done around it. */
const MOST_MS = 60_000;

/** What is changed while no job is on: every job is undone whole. */
async function leftOver(gameIds: readonly number[]): Promise<string[]> {
  const changes = await ChangeModel.findAll({ where: { gameId: [...gameIds], undone: false } });
  return changes.map(({ gameId, path, blob }) => `${gameId} ${path} ${blob}`).sort();
}

const worker = new MortalWorker();
let jobs: Job[];
let ids: number[];

beforeAll(async () => {
  mkdirSync(games, { recursive: true });
  await migrate();
  await worker.begin();
  const game = await openedGame('killed');
  const other = await openedGame('killed-other');
  ids = [game.id, other.id];
  for (const id of ids) await settled(id);
  await changeSome(game.id);
  jobs = await jobsFor(game, other);
});
afterAll(async () => {
  worker.end();
  await database().close();
});

test(
  `after ${KILLS} kills at random moments everything is as without them`,
  async () => {
    const dice = new Dice(SEED);
    /** What each job comes to, and how long it takes, when no one kills it. */
    const known = new Map<Job, { facts: unknown; milliseconds: number }>();
    let underWay = 0;
    const before = await leftOver(ids);
    for (let i = 0; i < KILLS; i++) {
      const job = jobs[(SEED * 7 + i) % jobs.length]!;
      let reference = known.get(job);
      if (reference === undefined) {
        const run = await ended((await job.start()).id);
        expect({ job: job.name, state: run.state, fault: run.fault }).toEqual({
          job: job.name,
          state: 'done',
          fault: null,
        });
        reference = { milliseconds: run.endedAt!.getTime() - run.startedAt!.getTime(), facts: await job.facts(run) };
        known.set(job, reference);
        await job.undo?.();
        await stopOthers(ids);
      }
      // Most runs are short: the last part of one is over before its worker is dead.
      const after = dice.upTo(Math.floor(reference.milliseconds * 0.7));
      const { run, wasUnderWay } = await killedAfter(worker, job, after);
      if (wasUnderWay) underWay++;
      const told = { job: job.name, kill: i, after };
      expect({ ...told, state: run.state, fault: run.fault }).toEqual({ ...told, state: 'done', fault: null });
      expect({ ...told, facts: await job.facts(run) }).toEqual({ ...told, facts: reference.facts });
      await job.undo?.();
      await stopOthers(ids);
      expect({ ...told, left: await leftOver(ids) }).toEqual({ ...told, left: before });
    }
    process.stdout.write(`${KILLS} kills, ${underWay} of them while the run was under way (seed ${SEED})\n`);
    // Of a few, all may have come too late; of many, not.
    if (KILLS >= 100) expect(underWay).toBeGreaterThan(KILLS / 6);
  },
  KILLS * MOST_MS,
);
