import PgBoss from 'pg-boss';
import { onePerProcess } from '../one-per-process';
import { env } from '../env';
import { QUEUES } from '../shapes';

/** The queues of this process, see {@link QUEUES}. Only the worker looks after their tables. */
export function queue(role: 'sender' | 'worker'): Promise<PgBoss> {
  return onePerProcess(`queue.${role}`, async () => {
    const worker = role === 'worker';
    const boss = new PgBoss({ connectionString: env().databaseUrl, supervise: worker, schedule: false, max: 4 });
    // A database that restarts is no reason to die: the next poll finds it again.
    boss.on('error', (error) => process.stderr.write(`queue: ${error.message}\n`));
    await boss.start();
    for (const name of QUEUES) await boss.createQueue(name);
    return boss;
  });
}
