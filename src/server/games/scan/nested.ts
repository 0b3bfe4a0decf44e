/** Archives inside archives: entries that are archives themselves are opened in place, to any depth. */
import type { ByteSource } from '../../../core/bytes';
import { FaultError, faultOf, sayFault, throwIfStopped } from '../../../core/faults';
import { kindOf } from '../../../core/game';
import { matches, readEntry, storedSource, type Archive, type Recipe } from '../../../core/recipe';
import { ArchiveModel } from '../../database';
import { presentsForm } from '../../recipes';
import { lockedBands } from '../bands';
import { forgetEntries } from '../entry-index';
import { isSheet } from '../sheets';
import { indexArchive } from './index-archive';

interface NestedSetting {
  readonly recipes: readonly Recipe[];
  readonly signal: AbortSignal;
  readonly log: (text: string) => void;
  readonly depth?: number;
}

/** Archives are not nested deeper than this, except in hostile files. */
const MAX_DEPTH = 8;
/** Archives opened inside one other. */
const MAX_NESTED = 5_000;
/** Entries of one extension that are read before those of the others. */
const TRIED_OF_ENDING = 3;
/** An entry that has to be unpacked whole to be opened is left shut above this. */
const MAX_UNPACKED_BYTES = 1 << 30;

/** Opens every entry that is an archive, writes its entries below it, and forgets those that are none any more. */
export async function openNestedIn(row: ArchiveModel, archive: Archive, setting: NestedSetting): Promise<void> {
  const { signal, log, depth = 0 } = setting;
  const before = await ArchiveModel.findAll({ where: { parentId: row.id } });
  const found = depth >= MAX_DEPTH ? [] : await findNested(archive, setting);
  if (found.length >= MAX_NESTED)
    log(`${row.path}: only the first ${MAX_NESTED.toLocaleString('en')} archives inside it are opened`);
  const paths = new Set(found.map(({ n }) => nestedPath(row, archive, n)));
  for (const old of before) if (!paths.has(old.path)) await old.destroy();
  for (const { n, recipe } of found) {
    throwIfStopped(signal);
    const path = nestedPath(row, archive, n);
    const values = {
      gameId: row.gameId,
      path,
      parentId: row.id,
      parentN: n,
      size: archive.entries.size(n),
      modified: row.modified,
      state: 'locked' as const,
      recipe: recipe.id,
      title: recipe.title,
      slots: Object.fromEntries(recipe.needs),
      fault: null,
      proof: null,
    };
    const known = before.find((one) => one.path === path);
    const child = known === undefined ? await ArchiveModel.create(values) : await known.update(values);
    try {
      await indexArchive({ row: child, recipe, signal, log }, (opened) =>
        openNestedIn(child, opened, { ...setting, depth: depth + 1 }),
      );
    } catch (error) {
      if (signal.aborted) throw error;
      const fault = faultOf(error, path);
      log(sayFault(fault));
      const locked = fault.code === 'key-missing' || fault.code === 'key-wrong';
      await forgetEntries(child.id);
      await child.update({
        state: locked ? 'locked' : 'damaged',
        fault,
        entryCount: 0,
        bands: lockedBands(child.size, locked ? recipe : undefined),
      });
    }
  }
}

function nestedPath(row: ArchiveModel, { entries }: Archive, n: number): string {
  return `${row.path}/${entries.path(n)}`;
}

async function findNested(
  archive: Archive,
  { recipes, signal }: NestedSetting,
): Promise<{ n: number; recipe: Recipe }[]> {
  const { entries } = archive;
  const { words, film, sound } = archive.recipe.entries;
  // Texts, packets and cues are none; keys of texts have as many endings as there are texts.
  if (words !== undefined || film !== undefined || sound !== undefined) return [];
  // What a form presents is one entry; only a sheet has some in it.
  const signed = recipes.filter((recipe) => recipe.match.length > 0 && (!presentsForm(recipe) || isSheet(recipe)));
  const byEnding = new Map<string, number[]>();
  for (let n = 0; n < entries.count; n++) {
    if (entries.isDeleted(n) || !(entries.size(n) > 0) || entries.size(n) > MAX_UNPACKED_BYTES) continue;
    const path = entries.path(n);
    // What has the name of a picture, a sound or a text is looked at as one.
    if (kindOf(path) !== 'bytes') continue;
    const ending = /\.([^./]{1,12})$/.exec(path)?.[1]?.toLowerCase() ?? '';
    const list = byEnding.get(ending);
    if (list === undefined) byEnding.set(ending, [n]);
    else list.push(n);
  }
  const found: { n: number; recipe: Recipe }[] = [];
  for (const list of byEnding.values()) {
    let fits = 0;
    for (const [i, n] of list.entries()) {
      throwIfStopped(signal);
      if ((i >= TRIED_OF_ENDING && fits === 0) || found.length >= MAX_NESTED) break;
      const recipe = await recipeOf(archive, n, signed);
      if (recipe === undefined) continue;
      fits++;
      found.push({ n, recipe });
    }
  }
  return found;
}

/** The only recipe whose signature an entry has. */
async function recipeOf(archive: Archive, n: number, recipes: readonly Recipe[]): Promise<Recipe | undefined> {
  try {
    const source = await headSource(archive, n);
    const fits: Recipe[] = [];
    for (const recipe of recipes) if (await matches(recipe, source).catch(() => false)) fits.push(recipe);
    return fits.length === 1 ? fits[0] : undefined;
  } catch {
    // An entry that cannot be read is reported where it is read, not here.
    return undefined;
  }
}

/** The start of an entry; all of it where it is stored as it is. Reading past what is there fails. */
async function headSource(archive: Archive, n: number): Promise<ByteSource> {
  const { entries: rule } = archive.recipe;
  const raw = rule.wrap === undefined && rule.blocks === undefined;
  if (raw && rule.stepsOf(archive.entries.method(n))?.length === 0) return storedSource(archive, n);
  let head: Uint8Array = new Uint8Array(0);
  for await (const chunk of readEntry(archive, n, { verify: false })) {
    head = chunk;
    break;
  }
  return {
    name: archive.entries.path(n),
    size: archive.entries.size(n),
    read: async (offset, length) => {
      if (offset + length <= head.length) return head.subarray(offset, offset + length);
      throw new FaultError({ code: 'cut-short', what: 'only the start of the entry is looked at' });
    },
  };
}
