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
      // Not `maxRSS`: that begins with what the process had that started this one.
      `const fs = require('node:fs');
process.on('exit', () => {
  const kilobytes = Number(/VmHWM:\\s+(\\d+)/.exec(fs.readFileSync('/proc/self/status', 'utf8'))[1]);
  const { user, system } = process.cpuUsage();
  fs.writeFileSync(${JSON.stringify(measured)}, JSON.stringify({ megabytes: kilobytes / 1024, seconds: (user + system) / 1e6 }));
});`,
    );
    const { status, stdout, stderr } = spawnSync(process.execPath, ['--require', hook, program, ...args], {
      encoding: 'utf8',
      cwd,
      timeout,
      maxBuffer: 1 << 26,
    });
    if (status === null) return { status, stdout, stderr, megabytes: NaN, seconds: NaN };
    const used = JSON.parse(readFileSync(measured, 'utf8')) as Pick<Ran, 'megabytes' | 'seconds'>;
    return { status, stdout, stderr, ...used };
  } finally {
    rmSync(home, { recursive: true, force: true });
  }
}
