/** Events of runs, from NOTIFY to the listeners in this process. */
import { EventEmitter } from 'node:events';
import { setTimeout as pause } from 'node:timers/promises';
import { Client } from 'pg';
import { database } from '../database';
import { onePerProcess } from '../one-per-process';
import { env } from '../env';
import type { RunNews } from '../shapes';

const CHANNEL = 'zero_latch_runs';
const VIEWING = 'zero_latch_viewing';
const RECONNECT_MS = 1_000;

/** PostgreSQL refuses events of more than 8,000 bytes. A character takes six as an escape. */
const MOST_OF_LINE = 1_000;

/** Sends the state of a run to every process. */
export async function announce({ id, gameId, state, done, total, unit, lines, lastLine }: RunNews): Promise<void> {
  const news: RunNews = { id, gameId, state, done, total, unit, lines, lastLine: lastLine?.slice(0, MOST_OF_LINE) };
  const payload = JSON.stringify(news);
  await database().query('select pg_notify(:channel, :payload)', { replacements: { channel: CHANNEL, payload } });
}

/** The shortest time between two announcements. */
const VIEWING_MS = 300;

/** Announces to every process that a user is waiting for a preview. A failure is ignored: the preview does not depend on it. */
export function announceViewing(): void {
  const last = onePerProcess('last-viewing', () => ({ at: -Infinity }));
  if (performance.now() - last.at < VIEWING_MS) return;
  last.at = performance.now();
  const replacements = { channel: VIEWING, payload: '' };
  void database()
    .query('select pg_notify(:channel, :payload)', { replacements })
    .catch(() => {});
}

/** Emits `run` with the payload of {@link announce}, and `viewing`; keeps listening over a restart of the database. */
export function runEvents(): EventEmitter {
  return onePerProcess('events', () => {
    const emitter = new EventEmitter().setMaxListeners(0);
    void listen(emitter);
    return emitter;
  });
}

async function listen(emitter: EventEmitter): Promise<never> {
  for (;;) {
    const client = new Client({ connectionString: env().databaseUrl });
    try {
      await client.connect();
      client.on('notification', ({ channel, payload }) =>
        channel === VIEWING ? emitter.emit('viewing') : emitter.emit('run', payload ?? '{}'),
      );
      await client.query(`listen ${CHANNEL}; listen ${VIEWING}`);
      // One empty event stands in for what was missed while disconnected: listeners fetch again.
      emitter.emit('run', '{}');
      await new Promise<void>((resolve) => {
        client.on('error', () => resolve());
        client.on('end', () => resolve());
      });
    } catch {
      // Not there yet: try again below.
    }
    // Not waited for: the end of a connection that broke may never come.
    void client.end().catch(() => {});
    await pause(RECONNECT_MS);
  }
}
