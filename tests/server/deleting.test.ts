/** A game is deleted whole, or not at all; its folder stays as it is. */
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { QueryTypes } from 'sequelize';
import { ArchiveModel, BuildModel, database, InstallModel, KeyModel } from '../../src/server/database';
import { env } from '../../src/server/env';
import { gameAnswer, removeGame } from '../../src/server/games';
import { fault, openedGame, settled, withWorker } from './support';

withWorker();

async function rowsOf(id: number): Promise<readonly number[]> {
  const [{ entries }] = (await database().query<{ entries: string }>(
    'select count(*) as entries from entries where archive_id in (select id from archives where game_id = $1)',
    { bind: [id], type: QueryTypes.SELECT },
  )) as [{ entries: string }];
  return [
    Number(entries),
    await ArchiveModel.count({ where: { gameId: id } }),
    await KeyModel.count({ where: { gameId: id } }),
  ];
}

test('killed while a game is deleted, nothing of it is lost; deleted again, its rows go and its folder stays', async () => {
  const { id, folder } = await openedGame('half-deleted');
  await settled(id);
  const before = await rowsOf(id);
  expect(before).not.toContain(0);

  // Someone holds rows that the deletion comes to after others: it waits there, half done.
  const holding = await database().transaction();
  await ArchiveModel.findAll({ where: { gameId: id }, transaction: holding, lock: holding.LOCK.UPDATE });
  const program = join(env().checkout, '.zero-latch/programs/killed-child.cjs');
  const child = spawn(process.execPath, [program, JSON.stringify({ gameId: id })], { cwd: env().checkout });
  const ends = once(child, 'close');
  const waits = 'select pid from pg_stat_activity where cardinality(pg_blocking_pids(pid)) > 0';
  while ((await database().query(waits, { type: QueryTypes.SELECT })).length === 0) await pause(50);
  child.kill('SIGKILL');
  expect(await ends).toEqual([null, 'SIGKILL']);
  await holding.rollback();
  expect(await rowsOf(id)).toEqual(before);

  await removeGame(id);
  expect(await rowsOf(id)).toEqual([0, 0, 0]);
  expect(await fault(gameAnswer(id))).toMatchObject({ code: 'not-found' });
  expect(readdirSync(folder)).toContain('core.hold');
});

test('a game is not deleted while a build gets on its way into its folder at the same moment', async () => {
  const { id } = await openedGame('deleted-meanwhile');
  const { id: buildId } = await BuildModel.create({
    ...{ gameId: id, number: 1, how: 'keep' },
    ...{ files: [], proof: null, report: null },
  });
  const puttingIn = await database().transaction();
  await InstallModel.create({ gameId: id, buildId, state: 'putting-in', files: [] }, { transaction: puttingIn });
  const refused = fault(removeGame(id));
  await pause(200);
  await puttingIn.commit();
  expect(await refused).toMatchObject({ code: 'conflict' });
  expect((await gameAnswer(id)).id).toBe(id);
});
