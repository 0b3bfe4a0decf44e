/** Runs a routine of a running Zero Latch, and follows it to its end. */
import { setTimeout as pause } from 'node:timers/promises';
import { z } from 'zod';
import { FaultError } from '../core/faults';

const POLL_MS = 400;

const routines = z.array(z.object({ id: z.number(), name: z.string(), game: z.number(), gameName: z.string() }));
const run = z.object({
  id: z.number(),
  state: z.string(),
  done: z.number(),
  total: z.number(),
  unit: z.string(),
  lines: z.number(),
  fault: z.object({ sentence: z.string() }).nullable(),
});
const log = z.array(z.object({ text: z.string() }));
const refusal = z.object({ fault: z.object({ sentence: z.string() }) });

/**
 * @param options.at where Zero Latch answers, such as `http://127.0.0.1:4310`
 * @throws FaultError when it does not answer, has no such routine, or the run fails
 */
export async function runRoutine(name: string, options: { game?: string; at: string }): Promise<void> {
  const api = apiAt(options.at);
  const found = routines
    .parse(await api('routines'))
    .filter((one) => one.name === name && (options.game === undefined || one.gameName === options.game));
  const [routine] = found;
  if (routine === undefined)
    throw new FaultError({ code: 'not-found', what: `there is no routine ${name}`, hint: 'Put back lists them.' });
  if (found.length > 1)
    throw new FaultError({
      code: 'conflict',
      what: `${found.length} games have a routine ${name}`,
      found: found.map(({ gameName }) => gameName).join(', '),
      hint: 'Say which with --game.',
    });
  let now = run.parse(await api(`games/${routine.game}/routines/${routine.id}`, 'POST'));
  let written = 0;
  for (;;) {
    if (now.lines > written) {
      const lines = log.parse(await api(`runs/${now.id}/log`));
      for (const { text } of lines.slice(written)) process.stdout.write(`${text}\n`);
      written = lines.length;
    }
    if (!['waiting', 'working', 'stopping'].includes(now.state)) break;
    await pause(POLL_MS);
    now = run.parse(await api(`runs/${now.id}`));
  }
  if (now.state === 'done') return void process.stdout.write(`${name}: done\n`);
  throw new FaultError({
    code: 'conflict',
    what: `the routine ended as ${now.state}`,
    ...(now.fault === null ? {} : { found: now.fault.sentence }),
  });
}

function apiAt(at: string): (path: string, method?: string) => Promise<unknown> {
  const { origin } = new URL(at);
  return async (path, method = 'GET') => {
    const answer = await fetch(`${origin}/api/${path}`, { method, headers: { origin } }).catch((error: unknown) => {
      throw new FaultError(
        { code: 'not-found', what: `Zero Latch does not answer at ${origin}`, hint: 'Start it with npm run demo.' },
        { cause: error },
      );
    });
    const body: unknown = await answer.json().catch(() => null);
    if (answer.ok) return body;
    const refused = refusal.safeParse(body);
    throw new FaultError({
      code: 'conflict',
      what: refused.success ? refused.data.fault.sentence.replace(/\.$/, '') : `it answers ${answer.status}`,
    });
  };
}
