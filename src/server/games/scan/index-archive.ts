/** Opens one archive with the keys and names of its game and writes its entries to the database. */
import { stat } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { fileScratch } from '../../../core/bytes/node';
import { sayFault } from '../../../core/faults';
import { wordLocale } from '../../../core/forms/words';
import { archiveFiles, buildText, type Archive, type Recipe } from '../../../core/recipe';
import { GameModel, type ArchiveModel, type VolumeFacts } from '../../database';
import { openVolumesOf } from '../archive-access';
import { openWithAny } from '../open-archive';
import { bandsOf } from '../bands';
import { writeEntries } from '../entry-index';
import { keysFor } from '../keys/keyring';
import { knownNames } from '../names/known-names';
import { newsOf } from './archive-news';

export interface IndexOrder {
  readonly row: ArchiveModel;
  readonly recipe: Recipe;
  readonly signal: AbortSignal;
  readonly log: (text: string) => void;
}

/**
 * @param look what else is done with the archive while it is open
 * @throws FaultError `key-missing`, `key-wrong`, or what is wrong with its files
 */
export async function indexArchive(
  { row, recipe, signal, log }: IndexOrder,
  look?: (archive: Archive) => Promise<void>,
): Promise<void> {
  const sources = await openVolumesOf(row, recipe);
  const scratch = fileScratch();
  try {
    const rings = await keysFor(row.gameId, recipe, row.keys);
    const hashed = recipe.entries.hashing !== undefined;
    const names = hashed ? await knownNames(row.gameId) : [];
    const { archive, keys } = await openWithAny(recipe, sources.files, rings, { signal, scratch, names });
    const written = await writeEntries(row, archive, signal);
    const complaints = [...archive.complaints, ...written.faults];
    const [complaint] = complaints;
    await row.update({
      state: complaint === undefined ? 'open' : 'damaged',
      fault: complaint ?? null,
      entryCount: written.entries,
      hashed,
      namedCount: written.named,
      methods: written.methods,
      bands: await bandsOf(row.gameId, archive, signal, written.byContent),
      volumes: await volumeFacts(row, archive),
      keys: { ...keys },
      build: buildText(archive) ?? null,
      locale: wordLocale(archive) ?? null,
      news: await newsOf(row),
    });
    log(`${row.path}: ${row.entryCount.toLocaleString('en')} entries`);
    for (const one of complaints) log(sayFault(one));
    await look?.(archive);
  } finally {
    await scratch.release();
    await sources.close();
  }
}

async function volumeFacts(row: ArchiveModel, archive: Archive): Promise<VolumeFacts[]> {
  const game = await GameModel.findByPk(row.gameId);
  const folder = dirname(join(game!.folder, row.path));
  return Promise.all(
    archiveFiles(archive).map(async ({ name, source }) => {
      const facts = row.parentId === null ? await stat(join(folder, name)).catch(() => undefined) : undefined;
      return { name, size: source.size, modified: facts?.mtimeMs ?? 0 };
    }),
  );
}
