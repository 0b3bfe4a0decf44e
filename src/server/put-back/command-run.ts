/** A program of the user's own that tests a build. What it is is in the server's configuration alone. */
import { spawn } from 'node:child_process';
import { CancelledError } from '../../core/faults';
import type { TestCommand } from '../config';
import type { CommandReport, JudgeFinding } from '../shapes';

/** Bytes of what it writes that are kept, from the end. */
const MOST_OUTPUT = 64 << 10;
const FILE = 'config.json';
/** Nothing of the server's own settings, such as where its database is. */
const PLAIN_ENVIRONMENT = () => ({
  PATH: process.env['PATH'],
  HOME: process.env['HOME'],
  NODE_ENV: process.env.NODE_ENV,
});

/**
 * Runs without a shell; the folders are passed as `ZERO_LATCH_GAME` and `ZERO_LATCH_BUILD`, never on its command line.
 *
 * @throws CancelledError when the run is stopped
 */
export async function runTestCommand(
  { command: [program, ...args], seconds }: TestCommand,
  game: string,
  build: string,
  signal: AbortSignal,
): Promise<CommandReport & { findings: JudgeFinding[] }> {
  const from = Date.now();
  const { exit, output, failure } = await new Promise<{ exit: number | null; output: string; failure?: string }>(
    (resolve) => {
      const kept: Buffer[] = [];
      const child = spawn(program!, args, {
        cwd: build,
        env: { ...PLAIN_ENVIRONMENT(), ZERO_LATCH_GAME: game, ZERO_LATCH_BUILD: build },
        stdio: ['ignore', 'pipe', 'pipe'],
        timeout: seconds * 1000,
        killSignal: 'SIGKILL',
        signal,
      });
      const keep = (chunk: Buffer) => void kept.push(chunk);
      child.stdout.on('data', keep);
      child.stderr.on('data', keep);
      const output = () => Buffer.concat(kept).subarray(-MOST_OUTPUT).toString('utf8');
      child.on('error', ({ message }) => resolve({ exit: null, output: output(), failure: message }));
      child.on('close', (code) => resolve({ exit: code, output: output() }));
    },
  );
  if (signal.aborted) throw new CancelledError();
  const finding = (code: string, rule: string, found: string): JudgeFinding => ({
    severity: 'stop',
    ...{ code, file: FILE, offset: 0, rule, found },
  });
  const findings =
    failure !== undefined
      ? [finding('COMMAND-START', `“${program}” of the server’s configuration can be started.`, failure)]
      : exit === null
        ? [finding('COMMAND-HANG', `“${program}” ends within ${seconds} seconds.`, 'it did not')]
        : exit !== 0
          ? [finding('COMMAND', `“${program}” ends with 0.`, `${exit}`)]
          : [];
  return { exit, seconds: Math.round((Date.now() - from) / 100) / 10, output, findings };
}
