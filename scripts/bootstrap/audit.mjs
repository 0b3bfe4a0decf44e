/** Dependencies with known holes, or left behind: asked of the registry where it answers. */
import { execFile } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { step } from './say.mjs';

const YEAR_MS = 365 * 24 * 60 * 60 * 1000;
const LIMIT_MS = 90_000;
const AT_ONCE = 8;

/** Held back on purpose, at this version, and why. */
const HELD = { '@napi-rs/lzma': { version: '1.4.5', why: 'the programs of 1.5 want Node 22' } };

/**
 * `npm audit` where the registry has one. Else no dependency may be older by a year than the newest release of its major
 * version. Without a registry nothing is checked, and that is said.
 */
export async function auditPackages(checkout) {
  step('Dependencies: known holes and age');
  const audit = await npm(checkout, ['audit', '--omit=dev', '--json']);
  const said = jsonOf(audit);
  if (said?.metadata?.vulnerabilities !== undefined) {
    const { high = 0, critical = 0, total = 0 } = said.metadata.vulnerabilities;
    process.stdout.write(`  npm audit: ${total} known holes, ${high + critical} of them high or critical\n`);
    return high + critical > 0 ? 1 : 0;
  }
  const { dependencies } = JSON.parse(readFileSync(join(checkout, 'package.json'), 'utf8'));
  const names = Object.keys(dependencies);
  const late = [];
  let asked = 0;
  const waiting = names.values();
  const lane = async () => {
    for (const name of waiting) {
      const { version } = JSON.parse(readFileSync(join(checkout, 'node_modules', name, 'package.json'), 'utf8'));
      const times = jsonOf(await npm(checkout, ['view', name, 'time', '--json']));
      if (times?.[version] === undefined) continue;
      asked++;
      if (HELD[name]?.version === version) {
        process.stdout.write(`  ${name} ${version} is held back: ${HELD[name].why}\n`);
        continue;
      }
      const newest = newestOf(times, version);
      if (Date.parse(times[newest]) - Date.parse(times[version]) > YEAR_MS)
        late.push(
          `${name} ${version} of ${times[version].slice(0, 10)}: ${newest} is of ${times[newest].slice(0, 10)}`,
        );
    }
  };
  await Promise.all(Array.from({ length: AT_ONCE }, lane));
  process.stdout.write(
    asked === 0
      ? '  The registry does not answer: nothing was checked.\n'
      : `  The registry has no audit; ${asked} of ${names.length} were compared with the newest of their major version.\n`,
  );
  for (const one of late) process.stdout.write(`  ${one}\n`);
  return late.length > 0 ? 1 : 0;
}

/** The highest release of the same major version, prereleases apart. */
function newestOf(times, version) {
  const major = (one) =>
    one
      .split('.')
      .slice(0, one.startsWith('0.') ? 2 : 1)
      .join('.');
  const same = Object.keys(times).filter((one) => /^\d+\.\d+\.\d+$/.test(one) && major(one) === major(version));
  return same.sort((a, b) => b.localeCompare(a, 'en', { numeric: true }))[0] ?? version;
}

function npm(cwd, args) {
  return new Promise((resolve) =>
    execFile('npm', args, { cwd, timeout: LIMIT_MS, maxBuffer: 64 << 20 }, (_error, output) => resolve(output)),
  );
}

function jsonOf(text) {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}
