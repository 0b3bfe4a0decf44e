/** Building: files from the changes, proven from disk, and loaded by the stand-in game. */
import { posix } from 'node:path';
import { FOUND_RECIPE } from '../../core/carve';
import { FaultError } from '../../core/faults';
import { SafePaths } from '../../core/game';
import type { Archive, Proof } from '../../core/recipe';
import { BuildModel, database, GameModel, InstallModel, ModModel } from '../database';
import { env } from '../env';
import { activeChanges, bytesOf, isSheet, profileOf, requireGame, withArchive } from '../games';
import { kindsByEnding, knownRecipes } from '../recipes';
import { startRun } from '../runs';
import { requireSpace } from '../storage';
import type { RunContext } from '../runs/run-context';
import type { BuildFile, BuildWays, BuiltChange, How, RunAnswer, RunResult } from '../shapes';
import { buildArchive, type BuildSetting } from './build-archive';
import { buildChanges, keepBuildChanges } from './build-changes';
import { buildFound } from './build-found';
import { buildSheet } from './build-sheet';
import { groupChanges, wayOf, type Group, type Groups } from './groups';
import { joinProofs } from './join-proofs';
import { sayReport, testRun } from './test-run';

/**
 * @param archives ways of single archives, by their paths in the game's folder
 * @param again the build whose changes are built once more
 * @throws FaultError when nothing is changed
 */
export async function startBuild(
  gameId: number,
  how: How,
  { archives = {}, again }: { readonly archives?: BuildWays['archives']; readonly again?: number | undefined } = {},
): Promise<RunAnswer> {
  const game = await requireGame(gameId);
  const changes = again === undefined ? await changesNow(gameId) : await changesOfBuild(gameId, again);
  const count = changes.filter(({ beside }) => beside !== true).length;
  if (count === 0)
    throw new FaultError({
      code: 'conflict',
      what: 'nothing is changed',
      hint: 'Drop an edited file on an entry first.',
    });
  return startRun('build', {
    title: `Building ${count} ${count === 1 ? 'change' : 'changes'} of ${game.name}`,
    gameId,
    input: { how, archives, ...(again === undefined ? {} : { again }) },
  });
}

/** What is to go into the game, as a build keeps it. */
export async function changesNow(gameId: number): Promise<BuiltChange[]> {
  const mods = new Map((await ModModel.findAll({ where: { gameId } })).map(({ id, name }) => [id, name]));
  return (await activeChanges(gameId)).map(({ intoArchive, loop, base, modId, withId, createdAt: _, ...change }) => ({
    ...change,
    ...(intoArchive === null ? {} : { into: intoArchive }),
    ...(loop === null ? {} : { loop }),
    ...(base === null ? {} : { base }),
    ...(modId === null ? {} : { mod: mods.get(modId) ?? 'a mod' }),
    ...(withId === null ? {} : { beside: true }),
  }));
}

async function changesOfBuild(gameId: number, id: number): Promise<readonly BuiltChange[]> {
  const build = await BuildModel.findOne({ where: { gameId, id } });
  if (build === null) throw new FaultError({ code: 'not-found', what: 'there is no such build' });
  return buildChanges(id);
}

export async function buildRun(context: RunContext<'build'>): Promise<RunResult<'build'>> {
  const { gameId, input, signal, log } = context;
  const { how, archives, again } = input;
  const ways: BuildWays = { how, archives };
  const game = await requireGame(gameId);
  const changes = again === undefined ? await changesNow(gameId) : await changesOfBuild(gameId, again);
  const groups = await groupChanges(gameId, changes, ways);
  await checkSpace(groups.all, ways);
  const { files, proof } = await buildGroups(groups, ways, profileOf(game).looseFolder, { ...context, dry: false });
  log('Test run');
  const installed = await InstallModel.count({ where: { gameId, state: 'in' } });
  const show = await shownInGame(gameId, changes);
  const report = await testRun(game, files, changes, { signal, includeBefore: installed === 0, show });
  log(sayReport(report));
  const build = await keepBuild({ gameId, how, archives, files, proof, report }, changes);
  return { build: build.id, number: build.number, files, started: report.started };
}

/** Gives the build the next number. Another worker that does the same waits until it is written. */
async function keepBuild(
  build: Pick<BuildModel, 'gameId' | 'how' | 'archives' | 'files' | 'proof' | 'report'>,
  changes: readonly BuiltChange[],
): Promise<BuildModel> {
  const { gameId } = build;
  return database().transaction(async (transaction) => {
    await GameModel.findByPk(gameId, { transaction, lock: transaction.LOCK.UPDATE });
    const last = (await BuildModel.max('number', { where: { gameId }, transaction })) as number | null;
    const changeCount = changes.filter(({ beside }) => beside !== true).length;
    const made = await BuildModel.create({ ...build, changeCount, number: (last ?? 0) + 1 }, { transaction });
    await keepBuildChanges(made.id, changes, transaction);
    return made;
  });
}

/**
 * Builds every archive that changes; one inside another first, for it is what changes in the one around it.
 *
 * @param refused called with an archive that cannot be built that way, instead of throwing: the others go on
 */
export async function buildGroups(
  groups: Groups,
  ways: BuildWays,
  looseFolder: string,
  setting: BuildSetting,
  refused?: (group: Group, error: unknown) => void,
): Promise<{ files: BuildFile[]; proof: Proof | null }> {
  const files: BuildFile[] = [...groups.files];
  let proof: Proof | null = null;
  const safe = new SafePaths();
  for (let group = groups.takeDeepest(); group !== undefined; group = groups.takeDeepest()) {
    const how = wayOf(ways, group.file);
    try {
      const made: Made =
        group.archive.parentId !== null
          ? await buildNested(group, groups, setting)
          : how === 'loose' && !group.isNew && !(await isLoose(group))
            ? await looseFiles(group, looseFolder, safe, setting)
            : await buildFile(group, how === 'loose' ? 'keep' : how, setting);
      files.push(...made.files);
      proof = made.proof === null ? proof : joinProofs(proof, made.proof);
    } catch (error) {
      if (refused === undefined || setting.signal.aborted) throw error;
      refused(group, error);
    }
  }
  return { files, proof };
}

interface Made {
  readonly files: readonly BuildFile[];
  /** None for a sheet, which is proven with the archive around it, and for a file that no recipe describes. */
  readonly proof: Proof | null;
}

/** Changes that are looked at and listened to in the game. */
const MOST_SHOWN = 60;

/** The paths of changed pictures and sounds, as the game knows them: a small picture is seen on its sheet. */
async function shownInGame(gameId: number, changes: readonly BuiltChange[]): Promise<string[]> {
  const endings = [...(await kindsByEnding(gameId)).keys(), 'png', 'wav', 'pcm', 'adpcm'];
  const paths = changes
    .filter(({ beside, action }) => beside !== true && action !== 'remove')
    .map(({ path }) => path.replace(/(\.\w+)\/[^/]+\.dds$/, '$1'))
    .filter((path) => endings.some((ending) => path.toLowerCase().endsWith(`.${ending}`)));
  return [...new Set(paths)].slice(0, MOST_SHOWN);
}

/** Whether it is a file that the game reads by its name: one no recipe knows, one that is read alone, a scrambled one. */
async function isLoose({ archive }: Group): Promise<boolean> {
  if (archive.recipe === FOUND_RECIPE) return true;
  return withArchive(archive.id, ({ recipe }) =>
    Promise.resolve(recipe.presents === 'folder' || recipe.alone === true),
  );
}

/** An archive of the game's folder. */
async function buildFile(group: Group, wanted: Exclude<How, 'loose'>, setting: BuildSetting): Promise<Made> {
  const { path } = group.archive;
  if (group.archive.recipe === FOUND_RECIPE) {
    refuseNewAndGone(group, 'a file no recipe knows');
    if (setting.dry) return { files: [{ name: path, size: group.archive.size, sha256: '' }], proof: null };
    return { files: [await buildFound(group.archive, group.replace, setting)], proof: null };
  }
  return withArchive(group.archive.id, async (archive) => {
    // A loose file has no archive to lie in: it takes the place of the one that changed; a new one covers nothing.
    const layout = archive.recipe.presents === 'folder' || archive.recipe.alone || group.isNew ? 'keep' : wanted;
    const name = layout === 'patch' ? overridingName(path) : path;
    const { volumes, proof } = await buildArchive(archive, group, name, layout, setting);
    const folder = name.slice(0, name.lastIndexOf('/') + 1);
    // A volume nothing changed in stays as it is in the game's folder.
    const fresh = volumes.filter((volume) => layout === 'patch' || group.isNew || !volume.copied);
    return { files: fresh.map(({ name, size, sha256 }) => ({ name: folder + name, size, sha256 })), proof };
  });
}

/** Changed entries as files of their own, below the folder the game looks into before its archives. */
async function looseFiles(group: Group, below: string, safe: SafePaths, { log }: BuildSetting): Promise<Made> {
  return withArchive(group.archive.id, ({ entries }) => {
    const [gone] = group.remove;
    if (gone !== undefined)
      throw new FaultError({
        code: 'conflict',
        file: group.archive.path,
        entry: entries.path(gone),
        what: 'a file beside the game cannot say that an entry is gone',
        hint: 'Make a small archive that loads last, or rebuild.',
      });
    const looped = group.replace.find(({ loop }) => loop !== undefined);
    if (looped !== undefined)
      throw new FaultError({
        code: 'conflict',
        file: group.archive.path,
        entry: entries.path(looped.n),
        what: 'the loop of a sound lies in its archive, and not in a file beside the game',
        hint: 'Make a small archive that loads last, or rebuild.',
      });
    const files = [
      ...group.replace.map(({ n, blob, size }) => ({ path: entries.path(n), blob, size })),
      ...group.add,
    ].map(({ path, blob, size }) => {
      const name = safe.clean(posix.join(below, path));
      if (name.renamed !== undefined) log(`${path} is written as ${name.path}: ${name.renamed}`);
      return { name: name.path, size, sha256: blob };
    });
    return Promise.resolve({ files, proof: null });
  });
}

/** An archive that is an entry of another: its files become changes of that. */
async function buildNested(group: Group, groups: Groups, setting: BuildSetting): Promise<Made> {
  const { id, parentId, parentN } = group.archive;
  // It is small, and what is around it cannot be worked out without it.
  const whole: BuildSetting = { ...setting, dry: false };
  const sheet = (await knownRecipes(group.archive.gameId)).find(
    (one) => one.id === group.archive.recipe && isSheet(one),
  );
  const around = await groups.of(parentId!);
  if (sheet !== undefined) {
    refuseNewAndGone(group, 'a sheet of small pictures');
    const { replace } = around;
    const made = await withArchive(parentId!, (archive) =>
      buildSheet(group.archive, sheet, group.replace, { archive, replace }),
    );
    const others = replace.filter(({ n }) => made.every((one) => one.n !== n));
    replace.splice(0, replace.length, ...others, ...made);
    return { files: [], proof: null };
  }
  const { volumes, proof } = await withArchive(id, (archive: Archive) =>
    buildArchive(archive, group, archive.source.name, 'keep', whole),
  );
  await withArchive(parentId!, async ({ entries }) => {
    const folder = posix.dirname(entries.path(parentN!));
    for (const [i, { name, size, sha256, copied }] of volumes.entries()) {
      if (copied) continue;
      const n = i === 0 ? parentN! : indexWhere(entries.count, (at) => entries.path(at) === posix.join(folder, name));
      around.replace.push({ n, blob: sha256, size, fileName: name });
    }
  });
  return { files: [], proof };
}

function refuseNewAndGone({ archive, add, remove }: Group, what: string): void {
  if (add.length + remove.size === 0) return;
  throw new FaultError({
    code: 'cannot-add',
    file: archive.path,
    what: `nothing is added to ${what}, and nothing removed from it`,
    hint: 'Undo what is to be new or gone in it.',
  });
}

function indexWhere(count: number, fits: (n: number) => boolean): number {
  for (let n = 0; n < count; n++) if (fits(n)) return n;
  throw new FaultError({ code: 'no-such-entry', what: 'a volume of an archive inside has gone', hint: 'Scan again.' });
}

/** A name that sorts behind every other: the game loads it last, so it wins. */
function overridingName(path: string): string {
  const slash = path.lastIndexOf('/') + 1;
  return `${path.slice(0, slash)}zz-my-${path.slice(slash)}`;
}

async function checkSpace(groups: readonly Group[], ways: BuildWays): Promise<void> {
  const changed = groups.flatMap(({ replace, add }) => [...replace, ...add]).reduce((sum, one) => sum + one.size, 0);
  const rebuilt = groups
    .filter(({ file }) => !['patch', 'loose'].includes(wayOf(ways, file)))
    .reduce((sum, { archive }) => sum + bytesOf(archive), 0);
  await requireSpace(env().home, changed * 2 + rebuilt, {
    what: 'there is not enough room to build',
    hint: 'Free some space, or make a small archive that loads last.',
  });
}
