import { spawn, spawnSync } from 'node:child_process';
import { createWriteStream, mkdirSync } from 'node:fs';
import { dirname } from 'node:path';

/** Runs a command to its end with its output shown. @returns its exit code */
export function run(command, args, options = {}) {
  return new Promise((resolve, reject) => {
    const child = spawn(command, args, { stdio: 'inherit', ...options });
    child.on('error', reject);
    child.on('close', (code, signal) => resolve(signal === null ? code : 1));
  });
}

/** Runs a command quietly. @returns its exit code and everything it said */
export function quietly(command, args, options = {}) {
  const done = spawnSync(command, args, { encoding: 'utf8', ...options });
  return { code: done.status ?? 1, output: `${done.stdout ?? ''}${done.stderr ?? ''}${done.error?.message ?? ''}` };
}

/** Starts a process that stays, with all it says in a log file, and stops it with its children when asked. */
export function start(command, args, { log, ...options }) {
  mkdirSync(dirname(log), { recursive: true });
  const file = createWriteStream(log, { flags: 'a' });
  const child = spawn(command, args, { stdio: ['ignore', 'pipe', 'pipe'], detached: true, ...options });
  const said = [];
  const keep = (chunk) => {
    file.write(chunk);
    said.push(String(chunk));
    if (said.length > 400) said.shift();
  };
  child.stdout.on('data', keep);
  child.stderr.on('data', keep);
  const ended = new Promise((resolve) => child.on('close', (code) => file.end(() => resolve(code ?? 1))));
  return {
    child,
    ended,
    said: () => said.join(''),
    stop: async (signal = 'SIGTERM') => {
      if (child.exitCode !== null || child.signalCode !== null) return;
      try {
        process.kill(-child.pid, signal);
      } catch {
        return;
      }
      const late = setTimeout(() => {
        try {
          process.kill(-child.pid, 'SIGKILL');
        } catch {
          // It went by itself.
        }
      }, 5000);
      await ended;
      clearTimeout(late);
    },
  };
}
