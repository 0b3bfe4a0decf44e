import PgBoss from 'pg-boss';
import { onePerProcess } from '../one-per-process';
import { env } from '../env';

export const QUEUE = 'runs';
/** Long work nobody waits for: it must not stand in the way of what somebody asked for. */
export const BEHIND = 'behind';

/** Short work somebody looks at the page for: it must not wait behind an hour of taking out. */
export const FRONT = 'front';

/** The queue of this process. Only the worker looks after the queue's own tables. */
export function queue(role: 'sender' | 'worker'): Promise<PgBoss> {
  return onePerProcess(`queue.${role}`, async () => {
    const worker = role === 'worker';
    const boss = new PgBoss({ connectionString: env().databaseUrl, supervise: worker, schedule: false, max: 4 });
    // A database that restarts is no reason to die: the next poll finds it again.
    boss.on('error', (error) => process.stderr.write(`queue: ${error.message}\n`));
    await boss.start();
    await boss.createQueue(QUEUE);
    await boss.createQueue(BEHIND);
    await boss.createQueue(FRONT);
    return boss;
  });
}
