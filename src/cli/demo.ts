import { spawnSync } from 'node:child_process';
import { join, resolve } from 'node:path';

/**
 * The demo game and its judge are programs of their own: the judge shares nothing with the core, not even a process.
 */
function run(script: string, args: readonly string[]): void {
  const root = join(__dirname, '..', '..');
  const result = spawnSync(process.execPath, ['--require', 'tsx/cjs', join(root, 'demo', script), ...args], {
    stdio: 'inherit',
    // The process runs at the root for tsx to be found; folders are handed over as absolute paths.
    cwd: root,
  });
  process.exitCode = result.status ?? 1;
}

export function demo(options: { to: string; build: string; size: string }): void {
  run('make.ts', [resolve(options.to), options.build, options.size]);
}

export function judge(folders: readonly string[], options: { json?: boolean; scene?: string }): void {
  const flags = [
    ...(options.json === true ? ['--json'] : []),
    ...(options.scene === undefined ? [] : ['--scene', resolve(options.scene)]),
  ];
  run('judge.ts', [...flags, ...folders.map((folder) => resolve(folder))]);
}
