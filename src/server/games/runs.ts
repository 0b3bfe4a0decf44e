/** The runs of Open: scanning a folder, and trying keys. */
import { readdir, stat } from 'node:fs/promises';
import { basename, dirname, join, relative } from 'node:path';
import { fileScratch, openFile } from '../../core/bytes/node';
import { FaultError, faultOf, sayFault, throwIfStopped, type Fault } from '../../core/faults';
import { prove, recogniseFile, volumeNumber, type Archive, type Fit, type Recipe } from '../../core/recipe';
import { ArchiveModel, GameModel, InstallModel, KeyModel, type VolumeFacts } from '../database';
import { knownRecipes } from '../recipes';
import type { RunContext } from '../runs/run-context';
import { underRoots } from '../storage';
import { archiveFile, openVolumesOf, openWithAny } from './archive-access';
import { bandsOf, lockedBands } from './bands';
import { forgetEntries, settleWinners, writeEntries } from './entry-index';
import { keysFor } from './key-service';

const MAX_FILES = 200_000;

/** Looks through the folder of a game; what has not changed since the last scan is not read again. */
export async function scanRun({ gameId, signal, progress, log }: RunContext): Promise<object> {
  const game = (await GameModel.findByPk(gameId))!;
  const folder = await underRoots(game.folder);
  const files = await filesUnder(folder, signal);
  const installs = await InstallModel.findAll({ where: { gameId, state: 'in' } });
  const ours = new Set(installs.flatMap((install) => install.files.map((file) => file.name)));
  const rows = await ArchiveModel.findAll({ where: { gameId } });
  const recipes = await knownRecipes();
  const seen = new Set<string>();
  const companions = await companionFiles(folder, files, rows, recipes, signal);
  const ofOthers = new Set([...companions.values()].flat().map(({ path }) => path));
  let read = 0;
  for (const [i, file] of files.entries()) {
    throwIfStopped(signal);
    progress(i, files.length, 'files');
    // A volume is no archive of its own.
    if (ofOthers.has(file.path)) continue;
    seen.add(file.path);
    // What we put there ourselves is not the game's.
    if (ours.has(file.path)) continue;
    const known = rows.find((row) => row.path === file.path);
    if (known !== undefined && known.state === 'open' && isUnchanged(known, file, companions.get(file.path) ?? []))
      continue;
    read++;
    await scanFile({ gameId, folder, file, known, recipes, signal, log });
  }
  for (const row of rows) {
    if (seen.has(row.path) || ours.has(row.path)) continue;
    log(`${row.path} has gone`);
    await row.destroy();
  }
  await settleOrder(gameId);
  await game.update({ scannedAt: new Date() });
  progress(files.length, files.length, 'files');
  return { files: files.length, read };
}

/** Neither the main file nor those beside it have changed, come or gone. */
function isUnchanged(known: ArchiveModel, file: FoundFile, beside: readonly FoundFile[]): boolean {
  const facts = (name: string, size: number, modified: number) => `${name}\n${size}\n${modified}`;
  const before = known.volumes.slice(1).map(({ name, size, modified }) => facts(name, size, modified));
  const now = beside.map(({ path, size, modified }) => facts(basename(path), size, modified));
  return known.size === file.size && known.modified === file.modified && before.sort().join() === now.sort().join();
}

/** Files that are volumes of an archive whose main file is another, by the path of that. */
async function companionFiles(
  folder: string,
  files: readonly FoundFile[],
  rows: readonly ArchiveModel[],
  recipes: readonly Recipe[],
  signal: AbortSignal,
): Promise<ReadonlyMap<string, FoundFile[]>> {
  const found = new Map<string, FoundFile[]>();
  const many = recipes.filter(({ volumes }) => volumes.length > 1);
  if (many.length === 0) return found;
  for (const file of files) {
    throwIfStopped(signal);
    const known = rows.find(
      (row) => row.path === file.path && row.size === file.size && row.modified === file.modified,
    );
    const isMain =
      known === undefined || known.recipe === null
        ? await mainOf(many, join(folder, file.path), known?.chosen)
        : many.filter(({ id }) => id === known.recipe);
    const sets = isMain.flatMap(({ volumes }) => volumes.slice(1));
    if (sets.length === 0) continue;
    for (const other of files) {
      if (other.path === file.path || dirname(other.path) !== dirname(file.path)) continue;
      if (sets.every((set) => volumeNumber(set, file.path, other.path) === undefined)) continue;
      found.set(file.path, [...(found.get(file.path) ?? []), other]);
    }
  }
  return found;
}

/** The recipes a file may be the main volume of; one, when a person has chosen. */
async function mainOf(recipes: readonly Recipe[], path: string, chosen?: string | null): Promise<Recipe[]> {
  const source = await openFile(path).catch(() => undefined);
  if (source === undefined) return [];
  try {
    const fits = (await recogniseFile(recipes, source)).fits.map(({ recipe }) => recipe);
    const own = fits.filter(({ id }) => id === chosen);
    return own.length > 0 ? own : fits;
  } finally {
    await source.close();
  }
}

interface FoundFile {
  readonly path: string;
  readonly size: number;
  readonly modified: number;
}

async function filesUnder(folder: string, signal: AbortSignal): Promise<FoundFile[]> {
  const found: FoundFile[] = [];
  const names = await readdir(folder, { recursive: true, withFileTypes: true }).catch((error: unknown) => {
    throw new FaultError(faultOf(error, folder), { cause: error });
  });
  for (const name of names) {
    throwIfStopped(signal);
    if (!name.isFile() || name.name.startsWith('.')) continue;
    if (found.length >= MAX_FILES)
      throw new FaultError({
        code: 'limit-reached',
        what: 'the folder has too many files',
        limit: `files of one game, ${MAX_FILES.toLocaleString('en')}`,
      });
    const path = join(name.parentPath, name.name);
    const facts = await stat(path).catch(() => undefined);
    if (facts !== undefined)
      found.push({ path: relative(folder, path).replaceAll('\\', '/'), size: facts.size, modified: facts.mtimeMs });
  }
  return found.sort((a, b) => (a.path < b.path ? -1 : 1));
}

interface ScanOne {
  readonly gameId: number;
  readonly folder: string;
  readonly file: FoundFile;
  readonly known: ArchiveModel | undefined;
  readonly recipes: readonly Recipe[];
  readonly signal: AbortSignal;
  readonly log: (text: string) => void;
}

async function scanFile({ gameId, folder, file, known, recipes, signal, log }: ScanOne): Promise<void> {
  const base = { gameId, path: file.path, size: file.size, modified: file.modified };
  let row = known;
  let fits: readonly Fit[] = [];
  const save = async (facts: { state: ArchiveModel['state']; recipe: Recipe | undefined; fault?: Fault | null }) => {
    const values = {
      ...base,
      state: facts.state,
      recipe: facts.recipe?.id ?? null,
      title: facts.recipe?.title ?? null,
      slots: Object.fromEntries(facts.recipe?.needs ?? []),
      fault: facts.fault ?? null,
      fits: fits.map(({ recipe: { id, title }, reason }) => ({ recipe: id, title, reason })),
    };
    row =
      row === undefined ? await ArchiveModel.create(values) : await row.update({ ...values, proof: null, volumes: [] });
    return row;
  };
  let recipe: Recipe | undefined;
  try {
    const source = await openFile(join(folder, file.path), file.path);
    try {
      ({ fits } = await recogniseFile(recipes, source));
      // Several fit: which one is right is for a person to say, not to be guessed.
      recipe = fits.length === 1 ? fits[0]!.recipe : fits.find((fit) => fit.recipe.id === known?.chosen)?.recipe;
    } finally {
      await source.close();
    }
    if (recipe === undefined) {
      const unknown = await save({ state: fits.length > 0 ? 'unsure' : 'unknown', recipe });
      await forgetEntries(unknown.id);
      await unknown.update({ entryCount: 0, bands: lockedBands(file.size, undefined) });
      return;
    }
    const archive = await save({ state: 'locked', recipe });
    await openAndIndex(archive, recipe, signal, log);
  } catch (error) {
    if (signal.aborted) throw error;
    const fault = faultOf(error, file.path);
    log(sayFault(fault));
    const locked = fault.code === 'key-missing' || fault.code === 'key-wrong';
    const saved = await save({ state: locked ? 'locked' : 'damaged', recipe, fault });
    await forgetEntries(saved.id);
    await saved.update({ entryCount: 0, bands: lockedBands(file.size, locked ? recipe : undefined) });
  }
}

/** Opens an archive with the keys of its game, writes its entries to the database, and proves the recipe on it. */
async function openAndIndex(
  row: ArchiveModel,
  recipe: Recipe,
  signal: AbortSignal,
  log: (text: string) => void,
  progress?: RunContext['progress'],
): Promise<number> {
  const files = await openVolumesOf(row, recipe, await archiveFile(row));
  const scratch = fileScratch();
  try {
    const rings = await keysFor(row.gameId, recipe);
    const [archive, ring] = await openWithAny(recipe, files, rings, { signal, scratch });
    await writeEntries(row, archive, signal);
    const [complaint] = archive.complaints;
    await row.update({
      state: complaint === undefined ? 'open' : 'damaged',
      fault: complaint ?? null,
      entryCount: countOf(archive),
      bands: await bandsOf(archive, signal),
      volumes: await volumeFacts(row, archive),
    });
    log(`${row.path}: ${row.entryCount.toLocaleString('en')} entries`);
    for (const one of archive.complaints) log(sayFault(one));
    const proof = await prove(archive, {
      scratch,
      signal,
      ...(progress === undefined
        ? {}
        : { progress: (done: number, total: number) => progress(done, total, 'entries') }),
    });
    await row.update({ proof });
    return ring;
  } finally {
    await scratch.release();
    for (const source of files) await source.close();
  }
}

/** Entries without the markers of a patch. */
function countOf({ entries }: Archive): number {
  let count = 0;
  for (let n = 0; n < entries.count; n++) if (!entries.isDeleted(n)) count++;
  return count;
}

async function volumeFacts(row: ArchiveModel, archive: Archive): Promise<VolumeFacts[]> {
  const game = await GameModel.findByPk(row.gameId);
  const folder = dirname(join(game!.folder, row.path));
  return Promise.all(
    archive.volumes.map(async ({ name, source }) => {
      const facts = await stat(join(folder, name)).catch(() => undefined);
      return { name, size: source.size, modified: facts?.mtimeMs ?? 0 };
    }),
  );
}

/** Archives load in the order of their names without the ending; of one path in several, the last wins. */
async function settleOrder(gameId: number): Promise<void> {
  const rows = await ArchiveModel.findAll({ where: { gameId } });
  const sorted = rows.sort((a, b) => (stem(a.path) < stem(b.path) ? -1 : 1));
  for (const [position, row] of sorted.entries()) if (row.position !== position) await row.update({ position });
  await settleWinners(gameId);
}

/** Without the ending, so that a patch of `core.hold` called `core-spring.hold` comes behind it. */
function stem(path: string): string {
  return path.replace(/\.[^./]*$/, '');
}

/** Tries new keys on every locked archive; a key that opens nothing is forgotten again. */
export async function unlockRun({ gameId, input, signal, progress, log }: RunContext): Promise<object> {
  const ids = input['keys'] as number[];
  const recipes = await knownRecipes();
  const kinds = new Set((await KeyModel.findAll({ where: { gameId, id: ids } })).map((key) => key.kind));
  const all = await ArchiveModel.findAll({ where: { gameId, state: 'locked' }, order: [['position', 'ASC']] });
  // What asks for keys of other kinds cannot be opened by these.
  const locked = all.filter(({ slots }) => Object.values(slots).some((kind) => kinds.has(kind)));
  const opened: string[] = [];
  const refused: { path: string; why: string }[] = [];
  for (const row of locked) {
    throwIfStopped(signal);
    const recipe = recipes.find((one) => one.id === row.recipe);
    if (recipe === undefined) continue;
    try {
      await openAndIndex(row, recipe, signal, log, progress);
      opened.push(row.path);
    } catch (error) {
      if (signal.aborted) throw error;
      const fault = faultOf(error, row.path);
      refused.push({ path: row.path, why: sayFault(fault) });
      log(sayFault(fault));
      const stillLocked = fault.code === 'key-missing' || fault.code === 'key-wrong';
      await row.update({ state: stillLocked ? 'locked' : 'damaged', fault });
    }
  }
  if (opened.length === 0) {
    await KeyModel.destroy({ where: { gameId, id: ids } });
    log('The key opened nothing and was not kept.');
  } else await settleOrder(gameId);
  return { opened, refused };
}
