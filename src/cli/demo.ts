import { spawnSync } from 'node:child_process';
import { join, resolve } from 'node:path';

/**
 * The demo game and its judge are programs of their own: the judge shares nothing with the core, not even a process.
 */
function run(program: 'demo-make' | 'demo-judge', args: readonly string[]): void {
  // They are bundled next to this one.
  const result = spawnSync(process.execPath, [join(__dirname, `${program}.cjs`), ...args], { stdio: 'inherit' });
  process.exitCode = result.status ?? 1;
}

export function demo(options: { to: string; build: string; size: string }): void {
  run('demo-make', [resolve(options.to), options.build, options.size]);
}

export function judge(folders: readonly string[], options: { json?: boolean; scene?: string }): void {
  const flags = [
    ...(options.json === true ? ['--json'] : []),
    ...(options.scene === undefined ? [] : ['--scene', resolve(options.scene)]),
  ];
  run('demo-judge', [...flags, ...folders.map((folder) => resolve(folder))]);
}
