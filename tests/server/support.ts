/** A real worker and copies of the demo game for the tests of services. */
import { spawn, type ChildProcess } from 'node:child_process';
import { cpSync, mkdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { gameKey } from '../../demo/make-game';
import { database, migrate, RunModel } from '../../src/server/database';
import { env } from '../../src/server/env';
import { programFile } from '../../src/server/programs';
import { addGame, addKey } from '../../src/server/games';
import { stopRun } from '../../src/server/runs';

export const games = join(env().home, 'games');
export const key = gameKey('1.4.1', 'content').toString('hex');

export async function startWorker(): Promise<ChildProcess> {
  const child = spawn(process.execPath, [programFile('worker')], {
    cwd: env().checkout,
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  await new Promise<void>((resolve) =>
    child.stdout.on('data', (text: Buffer) => String(text).includes('worker ready') && resolve()),
  );
  return child;
}

/** How often a run is asked for, and how many times at most: other tests go on next to these. */
const WAIT_MS = 40;
const MOST_WAITS = 6_000;

export async function ended(id: number, states = ['done', 'failed', 'stopped']): Promise<RunModel> {
  for (let i = 0; i < MOST_WAITS; i++) {
    const run = (await RunModel.findByPk(id))!;
    if (states.includes(run.state)) return run;
    await pause(WAIT_MS);
  }
  throw new Error(`run ${id} does not end`);
}

/** They take a core for ten seconds a game, and nothing here looks at them. */
async function stopProofs(gameId: number): Promise<void> {
  const proofs = await RunModel.findAll({ where: { gameId, kind: 'prove', state: ['waiting', 'working'] } });
  for (const { id } of proofs) await stopRun(id);
}

/** Waits until no run of a game is waiting or working; proofs are stopped. */
export async function settled(gameId: number): Promise<void> {
  for (let i = 0; i < MOST_WAITS; i++) {
    await stopProofs(gameId);
    if ((await RunModel.count({ where: { gameId, state: ['waiting', 'working', 'stopping'] } })) === 0) return;
    await pause(WAIT_MS);
  }
  throw new Error(`the runs of game ${gameId} do not end`);
}

export async function fault(work: Promise<unknown>): Promise<{ code: string }> {
  return work.then(
    () => ({ code: 'none' }),
    (error: { fault: { code: string } }) => error.fault,
  );
}

/** The demo game as it was made before the tests. */
export const demoAsMade = (build: '1.4.1' | '1.4.2'): string => join(process.env.ZERO_LATCH_DEMO_AS_MADE!, build);

/** A copy of it. */
export function freshGame(folder: string, build: '1.4.1' | '1.4.2' = '1.4.1'): void {
  cpSync(demoAsMade(build), folder, { recursive: true });
}

export async function openedGame(name: string): Promise<{ id: number; folder: string }> {
  const folder = join(games, name);
  rmSync(folder, { recursive: true, force: true });
  freshGame(folder);
  const { game, run } = await addGame({ folder });
  expect((await ended(run.id)).state).toBe('done');
  expect((await ended((await addKey(game.id, key)).id)).result).toEqual({
    opened: ['core.hold', 'core-spring.hold'],
    refused: [],
  });
  await stopProofs(game.id);
  return { id: game.id, folder };
}

/** Starts a worker before the tests of a file and ends it behind them. */
export function withWorker(): { worker: ChildProcess | undefined } {
  const held: { worker: ChildProcess | undefined } = { worker: undefined };
  beforeAll(async () => {
    mkdirSync(games, { recursive: true });
    await migrate();
    held.worker = await startWorker();
  });
  afterAll(async () => {
    held.worker?.kill('SIGTERM');
    await database().close();
  });
  return held;
}

export async function* once(bytes: Uint8Array | string): AsyncGenerator<Uint8Array> {
  yield Buffer.from(bytes);
}
