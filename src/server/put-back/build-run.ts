/** Building: files from the changes, proven from disk, and loaded by the stand-in game. */
import { statfs } from 'node:fs/promises';
import { posix } from 'node:path';
import { bufferSource, collect, readChunks } from '../../core/bytes';
import { fileScratch, openFile, type FileSource } from '../../core/bytes/node';
import { FOUND_RECIPE } from '../../core/carve';
import { loopEdits, soundFormatOf } from '../../core/forms/sound';
import { FaultError } from '../../core/faults';
import {
  NO_EDITS,
  isUnchanged,
  openArchive,
  planRebuild,
  prove,
  readEntry,
  storedSource,
  volumeBytes,
  type Archive,
  type FieldEdit,
  type Proof,
} from '../../core/recipe';
import { ArchiveModel, BuildModel, ChangeModel, InstallModel } from '../database';
import { env } from '../env';
import { findWinner } from '../entries';
import { bytesOf, isSheet, knownNames, requireGame, withArchive } from '../games';
import { kindsByEnding, knownRecipes } from '../recipes';
import { startRun } from '../runs';
import type { RunContext } from '../runs/run-context';
import type { BuildFile, RunAnswer } from '../shapes';
import { blobPath, keepBlob } from '../storage';
import { buildFound } from './build-found';
import { buildSheet } from './build-sheet';
import type { Replacement } from './replacement';
import { sha256Of } from './sha256';
import { testRun } from './test-run';

export type How = 'patch' | 'keep';

/** @throws FaultError when nothing is changed */
export async function startBuild(gameId: number, how: How): Promise<RunAnswer> {
  const game = await requireGame(gameId);
  const changes = await ChangeModel.count({ where: { gameId, undone: false } });
  if (changes === 0)
    throw new FaultError({
      code: 'conflict',
      what: 'nothing is changed',
      hint: 'Drop an edited file on an entry first.',
    });
  return startRun({
    kind: 'build',
    title: `Building ${changes} ${changes === 1 ? 'change' : 'changes'} of ${game.name}`,
    gameId,
    input: { how },
  });
}

interface Group {
  readonly archive: ArchiveModel;
  /** How many archives this one lies in. */
  readonly depth: number;
  readonly replace: Replacement[];
}

interface Made {
  readonly files: readonly BuildFile[];
  /** None for a sheet, which is proven with the archive around it, and for a file that no recipe describes. */
  readonly proof: Proof | null;
}

export async function buildRun(context: RunContext): Promise<object> {
  const { gameId, input, signal, log } = context;
  const how = input['how'] as How;
  const game = await requireGame(gameId);
  const changes = await ChangeModel.findAll({ where: { gameId, undone: false }, order: [['path', 'ASC']] });
  const groups = await groupByArchive(gameId, changes);
  await checkSpace([...groups.values()], how);
  const files: BuildFile[] = [];
  let proof: Proof | null = null;
  // An archive inside another is built first: it is what changes in the one around it.
  for (let group = deepest(groups); group !== undefined; group = deepest(groups)) {
    const { archive: row } = group;
    groups.delete(row.id);
    const made =
      row.parentId === null ? await buildFile(group, how, context) : await buildNested(group, groups, context);
    files.push(...made.files);
    proof = made.proof === null ? proof : joinProofs(proof, made.proof);
  }
  log('Letting the stand-in game load it');
  const installed = await InstallModel.count({ where: { gameId, state: 'in' } });
  const show = await shownInGame(changes);
  const report = await testRun(game.folder, files, { signal, includeBefore: installed === 0, show });
  if (report === null) log('There is no stand-in game for this one: the build was not test run.');
  else
    log(
      report.started
        ? 'The stand-in game starts.'
        : `The stand-in game stops: ${report.findings[0]?.rule ?? 'no reason given'}`,
    );
  const last = (await BuildModel.max('number', { where: { gameId } })) as number | null;
  const build = await BuildModel.create({
    gameId,
    number: (last ?? 0) + 1,
    how,
    files,
    changes: changes.map(({ path, blob, loop }) => ({ path, blob, ...(loop == null ? {} : { loop }) })),
    proof,
    report,
  });
  return { build: build.id, number: build.number, files, started: report?.started ?? null };
}

/** Changes that are looked at and listened to in the game. */
const MOST_SHOWN = 60;

/** The paths of changed pictures and sounds, as the game knows them: a small picture is seen on its sheet. */
async function shownInGame(changes: readonly ChangeModel[]): Promise<string[]> {
  const endings = [...(await kindsByEnding()).keys(), 'png', 'wav', 'pcm', 'adpcm'];
  const paths = changes
    .filter(({ withId }) => withId === null)
    .map(({ path }) => path.replace(/(\.\w+)\/[^/]+\.dds$/, '$1'))
    .filter((path) => endings.some((ending) => path.toLowerCase().endsWith(`.${ending}`)));
  return [...new Set(paths)].slice(0, MOST_SHOWN);
}

async function groupByArchive(gameId: number, changes: readonly ChangeModel[]): Promise<Map<number, Group>> {
  const groups = new Map<number, Group>();
  for (const { path, blob, size, fileName, loop } of changes) {
    const { archive: id, n } = await findWinner(gameId, path);
    const group = await groupOf(groups, id);
    group.replace.push({ n, blob, size, fileName, loop: loop ?? undefined });
  }
  return groups;
}

async function groupOf(groups: Map<number, Group>, id: number): Promise<Group> {
  const known = groups.get(id);
  if (known !== undefined) return known;
  const archive = (await ArchiveModel.findByPk(id))!;
  let depth = 0;
  for (let at = archive; at.parentId !== null; depth++) at = (await ArchiveModel.findByPk(at.parentId))!;
  const group: Group = { archive, depth, replace: [] };
  groups.set(id, group);
  return group;
}

function deepest(groups: ReadonlyMap<number, Group>): Group | undefined {
  return [...groups.values()].sort((a, b) => b.depth - a.depth)[0];
}

/** An archive of the game's folder. */
async function buildFile(group: Group, wanted: How, context: RunContext): Promise<Made> {
  const { path } = group.archive;
  if (group.archive.recipe === FOUND_RECIPE)
    return { files: [await buildFound(group.archive, group.replace, context)], proof: null };
  return withArchive(group.archive.id, async (archive) => {
    // A loose file has no archive to lie in: it takes the place of the one that changed.
    const how = archive.recipe.presents === 'folder' ? 'keep' : wanted;
    const name = how === 'keep' ? path : overridingName(path);
    const { volumes, proof } = await buildOne(archive, group, name, how, context);
    const folder = name.slice(0, name.lastIndexOf('/') + 1);
    // A volume nothing changed in stays as it is in the game's folder.
    const fresh = volumes.filter((volume) => how !== 'keep' || !volume.copied);
    return { files: fresh.map(({ name, size, sha256 }) => ({ name: folder + name, size, sha256 })), proof };
  });
}

/** An archive that is an entry of another: its files become changes of that. */
async function buildNested(group: Group, groups: Map<number, Group>, context: RunContext): Promise<Made> {
  const { id, parentId, parentN } = group.archive;
  const sheet = (await knownRecipes()).find((one) => one.id === group.archive.recipe && isSheet(one));
  if (sheet !== undefined) {
    const { replace } = await groupOf(groups, parentId!);
    const made = await withArchive(parentId!, (archive) =>
      buildSheet(group.archive, sheet, group.replace, { archive, replace }),
    );
    const others = replace.filter(({ n }) => made.every((one) => one.n !== n));
    replace.splice(0, replace.length, ...others, ...made);
    return { files: [], proof: null };
  }
  const { volumes, proof } = await withArchive(id, (archive) =>
    buildOne(archive, group, archive.source.name, 'keep', context),
  );
  const around = await groupOf(groups, parentId!);
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

function indexWhere(count: number, fits: (n: number) => boolean): number {
  for (let n = 0; n < count; n++) if (fits(n)) return n;
  throw new FaultError({ code: 'no-such-entry', what: 'a volume of an archive inside has gone', hint: 'Scan again.' });
}

/** A name that sorts behind every other: the game loads it last, so it wins. */
function overridingName(path: string): string {
  const slash = path.lastIndexOf('/') + 1;
  return `${path.slice(0, slash)}zz-my-${path.slice(slash)}`;
}

async function checkSpace(groups: readonly Group[], how: How): Promise<void> {
  const changed = groups.flatMap((group) => group.replace).reduce((sum, one) => sum + one.size, 0);
  const needed = changed * 2 + (how === 'keep' ? groups.reduce((sum, group) => sum + bytesOf(group.archive), 0) : 0);
  const space = await statfs(env().home);
  const free = space.bavail * space.bsize;
  if (free >= needed) return;
  throw new FaultError({
    code: 'disk-full',
    what: 'there is not enough room to build',
    file: env().home,
    expected: `${needed.toLocaleString('en')} bytes`,
    found: `${free.toLocaleString('en')} free`,
    hint: 'Free some space, or make a small archive that loads last.',
  });
}

interface BuiltVolume extends BuildFile {
  /** Nothing changed in it. */
  readonly copied: boolean;
}

async function buildOne(
  archive: Archive,
  { archive: row, replace: wanted }: Group,
  name: string,
  how: How,
  { signal, progress, log }: Pick<RunContext, 'signal' | 'progress' | 'log'>,
): Promise<{ volumes: BuiltVolume[]; proof: Proof }> {
  const scratch = fileScratch();
  const opened: FileSource[] = [];
  try {
    const replace = new Map<number, FileSource>();
    for (const { n, blob, fileName } of wanted) {
      const source = await openFile(blobPath(blob), fileName);
      opened.push(source);
      replace.set(n, source);
    }
    const values = wanted.flatMap((one) => loopValues(archive, one));
    const plan = await planRebuild(archive, { ...NO_EDITS, replace, values }, { layout: how, name, scratch, signal });
    const volumes: BuiltVolume[] = [];
    const built: FileSource[] = [];
    let done = 0;
    for (const volume of plan.volumes) {
      const before = done;
      const chunks = volumeBytes(volume, { signal, progress: (bytes) => progress(before + bytes, plan.size, 'bytes') });
      const blob = await keepBlob(chunks);
      const copied = volume.base !== undefined && (await isUnchanged(volume, volume.base));
      done += volume.size;
      const source = await openFile(blobPath(blob.sha256), `${name.slice(0, name.lastIndexOf('/') + 1)}${volume.name}`);
      opened.push(source);
      built.push(source);
      volumes.push({ name: volume.name, size: blob.size, sha256: blob.sha256, copied });
    }
    log(
      `${name}: ${plan.size.toLocaleString('en')} bytes, ${plan.changed.length} changed, ${plan.movedBytes.toLocaleString('en')} bytes moved`,
    );
    const names = archive.recipe.entries.hashing === undefined ? [] : await knownNames(row.gameId);
    const again = await openArchive(archive.recipe, built, { keys: archive.keys, signal, scratch, names });
    await checkBuilt(archive, again, wanted, how, signal);
    const proof = await prove(again, {
      scratch,
      signal,
      progress: (entry, total) => progress(entry, total, 'entries'),
    });
    return { volumes, proof };
  } finally {
    await scratch.release();
    for (const source of opened) await source.close();
  }
}

/** What a changed loop writes into the row of its cue. @throws FaultError when the row does not take one any more */
function loopValues(archive: Archive, { n, loop }: Replacement): FieldEdit[] {
  if (loop === undefined) return [];
  const values = loopEdits(archive, n, loop);
  if (values !== undefined) return values;
  throw new FaultError({
    code: 'conflict',
    file: archive.source.name,
    entry: archive.entries.path(n),
    what: 'the recipe of the archive no longer lets the loop of a sound be changed',
    hint: 'Bring the sound again: it is then fitted to the loop of the game.',
  });
}

/** Changed entries equal what was meant; everything else is byte for byte as it was. */
async function checkBuilt(
  before: Archive,
  after: Archive,
  wanted: readonly Replacement[],
  how: How,
  signal: AbortSignal,
): Promise<void> {
  const differs = (entry: string, what: string) =>
    new FaultError({ code: 'not-reproduced', file: after.source.name, entry, what });
  // An archive of its own holds the changed entries alone, in the order they had.
  const kept = how === 'keep' ? undefined : wanted.map(({ n }) => n).sort((a, b) => a - b);
  const count = kept?.length ?? before.entries.count;
  if (after.entries.count !== count)
    throw differs(after.source.name, `it holds ${after.entries.count} entries instead of ${count}`);
  const changed = new Map(wanted.map((one) => [one.n, one]));
  for (let n = 0; n < count; n++) {
    const old = kept?.[n] ?? n;
    const path = before.entries.path(old);
    const one = changed.get(old);
    if (after.entries.path(n) !== path) throw differs(path, 'an entry has another name than it had');
    if (one !== undefined) {
      const found = await sha256Of(bufferSource(await collect(readEntry(after, n, { signal }))));
      if (found !== one.blob) throw differs(path, 'the changed entry does not read back as it was meant');
      if (one.loop !== undefined && soundFormatOf(after, n)?.loop?.join() !== one.loop.join())
        throw differs(path, 'the loop of the sound does not read back as it was meant');
    } else if (!(await sameStored(before, after, old, n, signal)))
      throw differs(path, 'an entry that was not changed is no longer as it was');
  }
}

async function sameStored(
  before: Archive,
  after: Archive,
  old: number,
  n: number,
  signal: AbortSignal,
): Promise<boolean> {
  const a = storedSource(before, old);
  const b = storedSource(after, n);
  if (a.size !== b.size) return false;
  let at = 0;
  for await (const chunk of readChunks(a, 0, a.size, { signal })) {
    if (Buffer.compare(chunk, await b.read(at, chunk.length)) !== 0) return false;
    at += chunk.length;
  }
  return true;
}

function joinProofs(a: Proof | null, b: Proof): Proof {
  if (a === null) return b;
  const either = <T extends { first?: unknown }>(x: T, y: T) =>
    x.first === undefined ? (y.first === undefined ? {} : { first: y.first }) : { first: x.first };
  return {
    bytes: {
      explained: a.bytes.explained + b.bytes.explained,
      total: a.bytes.total + b.bytes.total,
      ...either(a.bytes, b.bytes),
    },
    formulas: {
      agree: a.formulas.agree + b.formulas.agree,
      total: a.formulas.total + b.formulas.total,
      ...either(a.formulas, b.formulas),
    },
    identical: { same: a.identical.same && b.identical.same, ...either(a.identical, b.identical) },
    changed: {
      equal: a.changed.equal + b.changed.equal,
      tested: a.changed.tested + b.changed.tested,
      total: a.changed.total + b.changed.total,
      ...either(a.changed, b.changed),
    },
  } as Proof;
}
