/** The command line as a process of its own, with the memory and processor time it took. */
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

const program = join(__dirname, '../../bin/zero-latch');

export interface Ran {
  readonly status: number | null;
  readonly stdout: string;
  readonly stderr: string;
  /** The most memory it held at once. */
  readonly megabytes: number;
  /** Processor time of all its threads. */
  readonly seconds: number;
}

/** Runs it in `cwd`. Ended after `timeout` milliseconds: `status` is null then. */
export function commandLine(args: readonly string[], { cwd = process.cwd(), timeout = 120_000 } = {}): Ran {
  const home = mkdtempSync(join(tmpdir(), 'zero-latch-ran-'));
  try {
    const measured = join(home, 'measured.json');
    const hook = join(home, 'measure.cjs');
    writeFileSync(
      hook,
      `process.on('exit', () => require('fs').writeFileSync(${JSON.stringify(measured)}, JSON.stringify(process.resourceUsage())));`,
    );
    const { status, stdout, stderr } = spawnSync(process.execPath, ['--require', hook, program, ...args], {
      encoding: 'utf8',
      cwd,
      timeout,
      maxBuffer: 1 << 26,
    });
    if (status === null) return { status, stdout, stderr, megabytes: NaN, seconds: NaN };
    const used = JSON.parse(readFileSync(measured, 'utf8')) as NodeJS.ResourceUsage;
    return {
      status,
      stdout,
      stderr,
      megabytes: used.maxRSS / 1024,
      seconds: (used.userCPUTime + used.systemCPUTime) / 1e6,
    };
  } finally {
    rmSync(home, { recursive: true, force: true });
  }
}
