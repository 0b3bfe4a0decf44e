/** Scanning a game's folder. What has not changed since the last scan is not read again. */
import { createHash } from 'node:crypto';
import { dirname, posix } from 'node:path';
import { LOOSE_RECIPE, looseRecipe } from '../../../core/carve';
import { faultOf, sayFault, throwIfStopped, type Fault } from '../../../core/faults';
import type { Fit, Recipe } from '../../../core/recipe';
import { ArchiveModel, GameModel, ScanModel } from '../../database';
import { presentsForm, scannedRecipes } from '../../recipes';
import type { RunContext } from '../../runs/run-context';
import type { ScanNews, RunResult } from '../../shapes';
import { underRoots } from '../../storage';
import { lockedBands } from '../bands';
import { forgetEntries, settleWinners } from '../entry-index';
import { filesOfOurs } from '../installed';
import { newFiles } from '../new-files';
import { profileOf, settleOrder } from '../load-order';
import { companionFiles } from './companions';
import { findBuild } from './game-build';
import { glanceAt, type Glance } from './glance';
import { followUp } from './follow-up';
import { indexArchive } from './index-archive';
import { keepEntriesBefore } from './archive-news';
import { openNestedIn } from './nested';
import { LooseBatch } from './loose-batch';
import { walkFolder, type FoundFile } from './walk';

export async function scanRun({ gameId, signal, progress, log }: RunContext<'scan'>): Promise<RunResult<'scan'>> {
  const game = (await GameModel.findByPk(gameId))!;
  const folder = await underRoots(game.folder);
  const { files: found, trouble } = await walkFolder(folder, signal);
  for (const fault of trouble) log(sayFault(fault));
  const ours = await filesOfOurs(gameId, folder);
  const fresh = await newFiles(gameId, folder, ours);
  const files: readonly FoundFile[] = [...found.filter(({ path }) => !fresh.has(path)), ...fresh.values()];
  const rows = await ArchiveModel.findAll({ where: { gameId, parentId: null } });
  const known = new Map(rows.map((row) => [row.path, row]));
  const recipes = await scannedRecipes(gameId);
  const recipesSeen = shelfMark(recipes);
  const marks = readMarks(recipes);
  const sameRecipes = recipesSeen === game.recipesSeen;
  const before = game.build;
  const buildNow = async () => {
    const archives = await ArchiveModel.findAll({ where: { gameId, parentId: null } });
    const build = await findBuild(folder, found, archives, profileOf(game));
    await game.update({ build: build?.version ?? null, buildFrom: build?.how ?? null });
  };
  // Told by the files alone, before archives are opened: what is found in them is compared with the build before.
  if (rows.length > 0) await buildNow();
  const companions = await companionFiles({ folder, files: found, known, recipes, sameRecipes, signal });
  const ofOthers = new Set([...companions.values()].flat().map(({ path }) => path));
  const paths = new Set(files.map(({ path }) => path));
  const scan = new Scan({ gameId, folder, recipes, rows, paths, signal, log });
  const seen = new Set<string>();
  const wanted = files.filter((file) => {
    // A volume is no archive of its own, and what we put there ourselves is not the game's.
    if (ofOthers.has(file.path)) return false;
    seen.add(file.path);
    if (ours.has(file.path) && !fresh.has(file.path)) return false;
    const row = known.get(file.path);
    const isSame = () => isUnchanged(row!, file, companions.get(file.path) ?? []);
    return row === undefined || !isSettled(row, sameRecipes, marks) || !isSame();
  });
  for (const [i, file] of wanted.entries()) {
    throwIfStopped(signal);
    progress(files.length - wanted.length + i, files.length, 'files');
    scan.lookAhead(wanted, i);
    await scan.look(file, known.get(file.path));
  }
  await scan.loose.write();
  for (const row of rows) {
    if (seen.has(row.path) || ours.has(row.path) || scan.movedRows.has(row.id)) continue;
    log(`${row.path} has gone`);
    if (!row.isNew) scan.news.gone.push(row.path);
    await row.destroy();
  }
  await buildNow();
  const moved = await settleOrder(gameId);
  if (moved || scan.read > 0 || scan.news.gone.length > 0) await settleWinners(gameId);
  await game.update({ scannedAt: new Date(), recipesSeen });
  await ScanModel.create({
    gameId,
    build: game.build,
    files: found.length,
    bytes: found.reduce((sum, file) => sum + file.size, 0),
    // The first scan finds everything: that is no news.
    news: {
      ...scan.news,
      added: rows.length === 0 ? [] : scan.news.added,
      buildBefore: before !== null && before !== game.build ? before : null,
    },
    trouble: [...trouble],
  });
  progress(files.length, files.length, 'files');
  await followUp(game, { hashed: scan.hashed, changed: scan.read > 0 || scan.news.gone.length > 0 });
  return { files: files.length, read: scan.read, build: game.build };
}

/** Which recipes there are, in one word: other ones may know files that none of these did. */
function shelfMark(recipes: readonly Recipe[]): string {
  const hash = createHash('sha256');
  for (const { id, revision, text } of recipes) hash.update(`${id}\n${revision}\n${text}\n`);
  return hash.digest('hex');
}

/** What an archive of each recipe is read with, in one word: other forms make other kinds of its entries. */
function readMarks(recipes: readonly Recipe[]): ReadonlyMap<string, string> {
  const forms = shelfMark(recipes.filter(presentsForm));
  return new Map(recipes.map((recipe) => [recipe.id, `${shelfMark([recipe])} ${forms}`]));
}

/** Another look would find the same. */
function isSettled(row: ArchiveModel, sameRecipes: boolean, marks: ReadonlyMap<string, string>): boolean {
  if (row.recipe === LOOSE_RECIPE) return sameRecipes && row.entryCount > 0;
  if (row.state === 'open') return row.readWith === marks.get(row.recipe ?? '');
  return sameRecipes && row.state !== 'locked';
}

/** Neither the main file nor those next to it have changed, come or gone. */
function isUnchanged(row: ArchiveModel, file: FoundFile, beside: readonly FoundFile[]): boolean {
  const facts = (name: string, size: number, modified: number) => `${name}\n${size}\n${modified}`;
  const before = row.volumes.slice(1).map(({ name, size, modified }) => facts(name, size, modified));
  const now = beside.map(({ path, size, modified }) => facts(posix.relative(dirname(file.path), path), size, modified));
  return row.size === file.size && row.modified === file.modified && before.sort().join() === now.sort().join();
}

interface Setting {
  readonly gameId: number;
  readonly folder: string;
  readonly recipes: readonly Recipe[];
  readonly rows: readonly ArchiveModel[];
  /** All paths of the folder. */
  readonly paths: ReadonlySet<string>;
  readonly signal: AbortSignal;
  readonly log: (text: string) => void;
}

/** How many files are read at the same time. */
const AHEAD = 8;
const MOST_AHEAD_BYTES = 1 << 20;

/** One scan: looks at files that are new or have changed, and keeps what was otherwise the time before. */
class Scan {
  readonly news = {
    added: [] as string[],
    changed: [] as string[],
    moved: [] as { from: string; to: string }[],
    gone: [] as string[],
  } satisfies Omit<ScanNews, 'buildBefore'>;
  readonly movedRows = new Set<number>();
  read = 0;
  readonly loose: LooseBatch;
  private readonly glances = new Map<FoundFile, Promise<Glance>>();
  /** An archive that keeps hashes was read. */
  hashed = false;

  constructor(private readonly setting: Setting) {
    this.loose = new LooseBatch(setting.gameId);
  }

  async look(file: FoundFile, known: ArchiveModel | undefined): Promise<void> {
    this.read++;
    const { gameId, recipes, log, signal } = this.setting;
    let row = known;
    let fits: readonly Fit[] = [];
    let recipe: Recipe | undefined;
    let fingerprint: string | null = null;
    const save = async (state: ArchiveModel['state'], fault: Fault | null = null) => {
      const values = {
        gameId,
        path: file.path,
        size: file.size,
        modified: file.modified,
        state,
        recipe: recipe?.id ?? null,
        title: recipe?.title ?? null,
        slots: Object.fromEntries(recipe?.needs ?? []),
        fault,
        fits: fits.map(({ recipe: { id, title }, reason }) => ({ recipe: id, title, reason })),
        fingerprint,
        found: null,
        isNew: file.at !== undefined,
        readWith: recipe === undefined ? null : (readMarks(recipes).get(recipe.id) ?? null),
      };
      row = row === undefined ? await ArchiveModel.create(values) : await row.update({ ...values, proof: null });
      return row;
    };
    const shut = async (state: ArchiveModel['state'], fault: Fault | null = null) => {
      const saved = await save(state, fault);
      await forgetEntries(saved.id);
      // What lies in an archive that cannot be read cannot be read either.
      await ArchiveModel.destroy({ where: { parentId: saved.id } });
      const locked = state === 'locked' ? recipe : undefined;
      await saved.update({ entryCount: 0, namedCount: 0, volumes: [], bands: lockedBands(file.size, locked) });
    };
    try {
      const glance = await this.glanceAt(file);
      ({ fingerprint } = glance);
      if (row === undefined) row = this.movedFrom(file, fingerprint);
      else if (row.fingerprint !== fingerprint && row.fingerprint !== null && file.at === undefined) {
        this.news.changed.push(file.path);
        if (row.entryCount > 0) await keepEntriesBefore(row.id);
      }
      if (row === undefined && file.at === undefined) this.news.added.push(file.path);
      ({ fits } = glance);
      const { kind } = glance;
      if (kind !== undefined && row === undefined && file.at === undefined)
        return await this.loose.add({ file, kind, fingerprint });
      // Several fit: which one is right is for a person to say, not to be guessed.
      if (kind !== undefined) recipe = looseRecipe();
      else recipe = fits.length === 1 ? fits[0]!.recipe : fits.find((fit) => fit.recipe.id === row?.chosen)?.recipe;
      if (recipe === undefined) return await shut(fits.length > 0 ? 'unsure' : 'unknown');
      const archive = await save('locked');
      await indexArchive({ row: archive, recipe, signal, log }, (opened) =>
        openNestedIn(archive, opened, { recipes, signal, log }),
      );
      this.hashed ||= archive.hashed;
    } catch (error) {
      if (signal.aborted) throw error;
      const fault = faultOf(error, file.path);
      log(sayFault(fault));
      await shut(fault.code === 'key-missing' || fault.code === 'key-wrong' ? 'locked' : 'damaged', fault);
    }
  }

  /** Reads the next files while this one is looked at: there may be thousands of small ones. */
  lookAhead(files: readonly FoundFile[], from: number): void {
    for (const file of files.slice(from, from + AHEAD)) {
      // A packed file may be unpacked to see what is in it: large ones one by one.
      if (this.glances.has(file) || file.size > MOST_AHEAD_BYTES) continue;
      const glance = glanceAt(file, this.setting);
      // What went wrong is reported when it is the file's turn.
      glance.catch(() => {});
      this.glances.set(file, glance);
    }
  }

  private async glanceAt(file: FoundFile): Promise<Glance> {
    const ready = this.glances.get(file) ?? glanceAt(file, this.setting);
    this.glances.delete(file);
    return ready;
  }

  /** The archive this file was under another name, when that name is gone. */
  private movedFrom({ path }: FoundFile, fingerprint: string): ArchiveModel | undefined {
    const { rows, paths } = this.setting;
    const row = rows.find(
      (one) => !one.isNew && one.fingerprint === fingerprint && !this.movedRows.has(one.id) && !paths.has(one.path),
    );
    if (row === undefined) return undefined;
    this.setting.log(`${row.path} is now ${path}`);
    this.news.moved.push({ from: row.path, to: path });
    this.movedRows.add(row.id);
    return row;
  }
}
