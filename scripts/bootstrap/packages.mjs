import { createHash } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { quietly } from './run.mjs';
import { Stop, step } from './say.mjs';

/** Installs the npm packages of package-lock.json, unless exactly these are there. */
export async function ensurePackages(checkout) {
  const wanted = createHash('sha256')
    .update(readFileSync(join(checkout, 'package-lock.json')))
    .digest('hex');
  const mark = join(checkout, 'node_modules', '.zero-latch-lock');
  if (existsSync(mark) && readFileSync(mark, 'utf8') === wanted) return step('npm packages: all there');
  step('Installing npm packages (a minute or two the first time)');
  const { code, output } = quietly('npm', ['ci', '--no-audit', '--no-fund'], { cwd: checkout });
  if (code !== 0) throw new Stop(`npm ci failed:\n${output.split('\n').slice(-20).join('\n')}`);
  writeFileSync(mark, wanted);
}
