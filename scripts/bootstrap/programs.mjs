/**
 * What runs next to the pages, bundled: the command line, the worker, its threads, and the demo game's own programs. A bundle
 * starts in a third of the time that hundreds of files take, and its hot loops run twice as fast as files that are
 * transformed one by one, which name every closure again whenever it is made.
 */
import { createHash, randomBytes } from 'node:crypto';
import { mkdirSync, readdirSync, readFileSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

const PROGRAMS = {
  'zero-latch': 'src/cli/main.ts',
  worker: 'src/worker/main.ts',
  web: 'src/server/web/main.ts',
  'pool-thread': 'src/workers/pool-thread.ts',
  'mesh-thread': 'src/workers/mesh-thread.ts',
  'font-thread': 'src/workers/font-thread.ts',
  'recipe-thread': 'src/workers/recipe-thread.ts',
  'catalogue-thread': 'src/workers/catalogue-thread.ts',
  'demo-make': 'demo/make.ts',
  'demo-judge': 'demo/judge.ts',
  bench: 'tests/bench/main.ts',
  soak: 'tests/soak/main.ts',
  foreign: 'tests/foreign/main.ts',
  'bench-index-peak': 'tests/bench/index-peak.ts',
  'killed-child': 'tests/server/killed-child.ts',
};
/** What they are made of. */
const SOURCES = [
  'src',
  'demo',
  'tests/bench',
  'tests/formats',
  'tests/soak',
  'tests/foreign',
  'tests/support',
  'tests/server/killed-child.ts',
  'package-lock.json',
  'scripts/bootstrap/programs.mjs',
];

/**
 * Bundles the programs when what they are made of has changed. Safe to call from several processes at once.
 *
 * @returns the folder they lie in, as `NAME.cjs`
 */
export async function ensurePrograms(checkout) {
  const folder = join(checkout, '.zero-latch', 'programs');
  const mark = join(folder, 'made-of');
  const wanted = fingerprint(checkout);
  if (textOf(mark) === wanted) return folder;
  // Only now: what is built already starts without it.
  const { build } = await import('esbuild');
  const fresh = `${folder}-${randomBytes(6).toString('hex')}`;
  try {
    mkdirSync(fresh, { recursive: true });
    await build({
      absWorkingDir: checkout,
      entryPoints: PROGRAMS,
      outdir: fresh,
      outExtension: { '.js': '.cjs' },
      bundle: true,
      platform: 'node',
      format: 'cjs',
      target: 'node20',
      external: loadedAsTheyAre(checkout),
      logLevel: 'error',
    });
    mkdirSync(folder, { recursive: true });
    // One by one: a program that starts meanwhile finds each either as it was or as it is.
    for (const name of readdirSync(fresh)) renameSync(join(fresh, name), join(folder, name));
    writeFileSync(mark, wanted);
  } finally {
    rmSync(fresh, { recursive: true, force: true });
  }
  return folder;
}

/** Loaded by `import()`, which takes modules too: it reads a file of its own from its folder. */
const IMPORTED = ['manifold-3d'];

/** Every command loads these, from dozens of files: in the bundle they are one. */
const BUNDLED = ['zod', 'yaml', 'commander'];

/** Packages stay next to the bundle, but for those that are modules only: what is required cannot be one. */
function loadedAsTheyAre(checkout) {
  const { dependencies, devDependencies } = JSON.parse(readFileSync(join(checkout, 'package.json'), 'utf8'));
  return Object.keys({ ...dependencies, ...devDependencies }).filter((name) => {
    if (BUNDLED.includes(name)) return false;
    const { type, exports: offers } = JSON.parse(
      readFileSync(join(checkout, 'node_modules', name, 'package.json'), 'utf8'),
    );
    return type !== 'module' || IMPORTED.includes(name) || JSON.stringify(offers ?? '').includes('"require"');
  });
}

/** Names, sizes and times of all sources: reading them would take longer than most commands. */
function fingerprint(checkout) {
  const hash = createHash('sha256');
  const visit = (path) => {
    const facts = statSync(path);
    if (facts.isDirectory()) for (const name of readdirSync(path).sort()) visit(join(path, name));
    else hash.update(`${path} ${facts.size} ${facts.mtimeMs}\n`);
  };
  for (const source of SOURCES) visit(join(checkout, source));
  return hash.digest('hex');
}

function textOf(path) {
  try {
    return readFileSync(path, 'utf8');
  } catch {
    return undefined;
  }
}
