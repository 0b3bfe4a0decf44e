/**
 * `npm run soak [-- --cases 20000] [--formats 5000] [--seed 1] [--kind archive]`: cases at random, in processes of their own that are ended
 * when one takes too long. Ends with 1 when a case ended as none may; `--one` runs a single case again.
 */
import { fork, type ChildProcess } from 'node:child_process';
import { availableParallelism } from 'node:os';
import { parseArgs } from 'node:util';
import { z } from 'zod';
import { KINDS, runCase, type Kind } from './cases';
import { Broken } from './exercise';

const number = z.coerce.number().int().min(0);
const { values } = parseArgs({
  options: {
    cases: { type: 'string', default: '20000' },
    seed: { type: 'string', default: '1' },
    kind: { type: 'string' },
    /** So many formats made by chance, instead of cases. */
    formats: { type: 'string' },
    one: { type: 'string' },
    /** Breaks this case, to see that the run fails. */
    'broken-at': { type: 'string' },
    child: { type: 'boolean', default: false },
  },
});
const kinds =
  values.formats !== undefined
    ? ['format' as const]
    : values.kind === undefined
      ? KINDS.filter((kind) => kind !== 'format')
      : [z.enum(KINDS).parse(values.kind)];
const seed = number.parse(values.seed);

/** No case takes a tenth of it, on a busy machine neither. */
const MOST_MS = 30_000;
const CHILD_MEGABYTES = 512;

interface Told {
  readonly index: number;
  /** Undefined when it begins. */
  readonly outcome?: string;
  readonly broken?: string;
}

const kindOf = (index: number): Kind => kinds[index % kinds.length]!;
const seedOf = (index: number): number => seed * 1_000_003 + index;

async function tell(index: number): Promise<Told> {
  try {
    if (values['broken-at'] === String(index)) throw new Broken('it was asked for');
    return { index, outcome: await runCase(kindOf(index), seedOf(index)) };
  } catch (error) {
    return {
      index,
      outcome: 'broken',
      broken: error instanceof Error ? (error.stack ?? error.message) : String(error),
    };
  }
}

function runChild(): void {
  process.on('message', (index: number) => void tell(index).then((told) => process.send!(told)));
}

async function runAll(cases: number): Promise<number> {
  const counts = new Map<string, number>();
  const broken: { index: number; how: string }[] = [];
  const start = performance.now();
  let next = 0;
  let done = 0;
  const note = (index: number, outcome: string, how?: string) => {
    const key = `${kindOf(index)}: ${outcome}`;
    counts.set(key, (counts.get(key) ?? 0) + 1);
    done++;
    if (how !== undefined) {
      broken.push({ index, how });
      process.stdout.write(
        `\n${kindOf(index)} case ${index} (--seed ${seed}${kindOf(index) === 'format' ? ' --kind format' : ''} --one ${index}): ${how}\n`,
      );
    }
    if (done % 1_000 === 0) process.stdout.write(`${done} of ${cases} cases\n`);
  };
  /** One process after the other on the cases that are left. */
  const lane = async () => {
    let child: ChildProcess | undefined;
    while (next < cases) {
      const index = next++;
      child ??= fork(__filename, [...process.argv.slice(2), '--child'], {
        execArgv: [`--max-old-space-size=${CHILD_MEGABYTES}`],
        stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
      });
      const told = await answerOf(child, index);
      if (typeof told === 'string') {
        note(index, 'broken', told);
        child.kill('SIGKILL');
        child = undefined;
      } else note(index, told.outcome!, told.broken);
    }
    child?.kill();
  };
  await Promise.all(Array.from({ length: availableParallelism() }, lane));
  for (const [key, count] of [...counts].sort(([a], [b]) => (a < b ? -1 : 1)))
    process.stdout.write(`${String(count).padStart(7)}  ${key}\n`);
  const seconds = Math.round((performance.now() - start) / 1000);
  process.stdout.write(`${done} cases in ${seconds} s, ${broken.length} broken (seed ${seed})\n`);
  return broken.length === 0 ? 0 : 1;
}

/** What a process says of a case; words when it says nothing. */
function answerOf(child: ChildProcess, index: number): Promise<Told | string> {
  return new Promise((resolve) => {
    const end = (told: Told | string) => {
      clearTimeout(timer);
      child.off('message', heard);
      child.off('exit', left);
      resolve(told);
    };
    const heard = (told: unknown) => end(told as Told);
    const left = (code: number | null, signal: string | null) => end(`the process ended (${code ?? signal})`);
    const timer = setTimeout(() => end(`no end after ${MOST_MS / 1000} s`), MOST_MS);
    child.on('message', heard);
    child.on('exit', left);
    child.send(index);
  });
}

async function runOne(index: number): Promise<number> {
  const told = await tell(index);
  process.stdout.write(
    `${kindOf(index)} case ${index}, seed ${seedOf(index)}: ${told.outcome}\n${told.broken ?? ''}\n`,
  );
  return told.broken === undefined ? 0 : 1;
}

async function main(): Promise<number> {
  if (values.one !== undefined) return runOne(number.parse(values.one));
  return runAll(number.parse(values.formats ?? values.cases));
}

if (values.child) runChild();
else void main().then((code) => (process.exitCode = code));
