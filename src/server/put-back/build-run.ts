/** Building: files from the changes, proven from disk, and loaded by the stand-in game. */
import { statfs } from 'node:fs/promises';
import { bufferSource, collect, readChunks } from '../../core/bytes';
import { fileScratch, openFile, type FileSource } from '../../core/bytes/node';
import { FaultError } from '../../core/faults';
import {
  NO_EDITS,
  openArchive,
  planRebuild,
  prove,
  readEntry,
  storedSource,
  uniquePaths,
  volumeBytes,
  type Archive,
  type PlannedVolume,
  type Proof,
} from '../../core/recipe';
import { ArchiveModel, BuildModel, ChangeModel, InstallModel } from '../database';
import { env } from '../env';
import { findWinner } from '../entries';
import { bytesOf, requireGame, withArchive } from '../games';
import { startRun } from '../runs';
import type { RunContext } from '../runs/run-context';
import type { BuildFile, RunAnswer } from '../shapes';
import { blobPath, keepBlob } from '../storage';
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
  readonly changes: ChangeModel[];
}

export async function buildRun({ gameId, input, signal, progress, log }: RunContext): Promise<object> {
  const how = input['how'] as How;
  const game = await requireGame(gameId);
  const changes = await ChangeModel.findAll({ where: { gameId, undone: false }, order: [['path', 'ASC']] });
  const groups = await groupByArchive(gameId, changes);
  await checkSpace(groups, how);
  const files: BuildFile[] = [];
  let proof: Proof | null = null;
  for (const group of groups) {
    const name = how === 'keep' ? group.archive.path : overridingName(group.archive.path);
    const made = await withArchive(group.archive.id, (archive) =>
      buildOne(archive, group, name, how, { signal, progress, log }),
    );
    files.push(...made.files);
    proof = joinProofs(proof, made.proof);
  }
  log('Letting the stand-in game load it');
  const installed = await InstallModel.count({ where: { gameId, state: 'in' } });
  const report = await testRun(game.folder, files, { signal, includeBefore: installed === 0 });
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
    changes: changes.map(({ path, blob }) => ({ path, blob })),
    proof,
    report,
  });
  return { build: build.id, number: build.number, files, started: report?.started ?? null };
}

async function groupByArchive(gameId: number, changes: readonly ChangeModel[]): Promise<Group[]> {
  const groups = new Map<number, Group>();
  for (const change of changes) {
    const { archive: id } = await findWinner(gameId, change.path);
    const known = groups.get(id);
    if (known !== undefined) known.changes.push(change);
    else groups.set(id, { archive: (await ArchiveModel.findByPk(id))!, changes: [change] });
  }
  return [...groups.values()];
}

/** A name that sorts behind every other: the game loads it last, so it wins. */
function overridingName(path: string): string {
  const slash = path.lastIndexOf('/') + 1;
  return `${path.slice(0, slash)}zz-my-${path.slice(slash)}`;
}

async function checkSpace(groups: readonly Group[], how: How): Promise<void> {
  const changed = groups.flatMap((group) => group.changes).reduce((sum, change) => sum + change.size, 0);
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

async function buildOne(
  archive: Archive,
  group: Group,
  name: string,
  how: How,
  { signal, progress, log }: Pick<RunContext, 'signal' | 'progress' | 'log'>,
): Promise<{ files: BuildFile[]; proof: Proof }> {
  const scratch = fileScratch();
  const opened: FileSource[] = [];
  try {
    const byPath = pathsOf(archive);
    const replace = new Map<number, FileSource>();
    for (const change of group.changes) {
      const n = byPath.get(change.path);
      if (n === undefined)
        throw new FaultError({
          code: 'no-such-entry',
          entry: change.path,
          file: archive.source.name,
          hint: 'The archive has changed: scan the folder again.',
        });
      const source = await openFile(blobPath(change.blob), change.fileName);
      opened.push(source);
      replace.set(n, source);
    }
    const plan = await planRebuild(archive, { ...NO_EDITS, replace }, { layout: how, name, scratch, signal });
    const made: BuildFile[] = [];
    const built: FileSource[] = [];
    let done = 0;
    for (const volume of plan.volumes) {
      const before = done;
      const chunks = volumeBytes(volume, { signal, progress: (bytes) => progress(before + bytes, plan.size, 'bytes') });
      const blob = await keepBlob(chunks);
      done += volume.size;
      const path = `${name.slice(0, name.lastIndexOf('/') + 1)}${volume.name}`;
      const source = await openFile(blobPath(blob.sha256), path);
      opened.push(source);
      built.push(source);
      // A volume nothing changed in stays as it is in the game's folder.
      if (how !== 'keep' || !isCopy(volume)) made.push({ name: path, size: blob.size, sha256: blob.sha256 });
    }
    log(
      `${name}: ${plan.size.toLocaleString('en')} bytes, ${plan.changed.length} changed, ${plan.movedBytes.toLocaleString('en')} bytes moved`,
    );
    const again = await openArchive(archive.recipe, built, { keys: archive.keys, signal, scratch });
    await checkBuilt(archive, again, group.changes, how, signal);
    const proof = await prove(again, {
      scratch,
      signal,
      progress: (entry, total) => progress(entry, total, 'entries'),
    });
    return { files: made, proof };
  } finally {
    await scratch.release();
    for (const source of opened) await source.close();
  }
}

function pathsOf({ entries }: Archive): ReadonlyMap<string, number> {
  const pathOf = uniquePaths(entries);
  return new Map(Array.from({ length: entries.count }, (_, n) => [pathOf(n), n]));
}

/** True when a planned volume is nothing but a copy of the old one. */
function isCopy({ pieces, base, size }: PlannedVolume): boolean {
  return base?.size === size && pieces.every((piece) => piece.source === base && piece.from === piece.at);
}

/** Changed entries equal what was meant; everything else is byte for byte as it was. */
async function checkBuilt(
  before: Archive,
  after: Archive,
  changes: readonly ChangeModel[],
  how: How,
  signal: AbortSignal,
): Promise<void> {
  const wanted = new Map(changes.map((change) => [change.path, change.blob]));
  const count = how === 'keep' ? before.entries.count : wanted.size;
  const differs = (entry: string, what: string) =>
    new FaultError({ code: 'not-reproduced', file: after.source.name, entry, what });
  if (after.entries.count !== count)
    throw differs(after.source.name, `it holds ${after.entries.count} entries instead of ${count}`);
  for (let n = 0; n < after.entries.count; n++) {
    const path = after.entries.path(n);
    const blob = wanted.get(path);
    if (blob !== undefined) {
      const found = await sha256Of(bufferSource(await collect(readEntry(after, n, { signal }))));
      if (found !== blob) throw differs(path, 'the changed entry does not read back as it was meant');
    } else if (path !== before.entries.path(n) || !(await sameStored(before, after, n, signal))) {
      throw differs(path, 'an entry that was not changed is no longer as it was');
    }
  }
}

async function sameStored(before: Archive, after: Archive, n: number, signal: AbortSignal): Promise<boolean> {
  const a = storedSource(before, n);
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
