/** Loose files that are new, brought into the database many at once: a game may have nothing but these. */
import { LOOSE_RECIPE, looseRecipe } from '../../../core/carve';
import type { Kind } from '../../../core/game';
import { ArchiveModel } from '../../database';
import { writeLooseEntries } from '../entry-index';
import type { FoundFile } from './walk';

export interface LooseFile {
  readonly file: FoundFile;
  readonly kind: Kind;
  readonly fingerprint: string;
}

const TOGETHER = 1000;

export class LooseBatch {
  private waiting: LooseFile[] = [];

  constructor(private readonly gameId: number) {}

  async add(one: LooseFile): Promise<void> {
    this.waiting.push(one);
    if (this.waiting.length >= TOGETHER) await this.write();
  }

  async write(): Promise<void> {
    const files = this.waiting;
    this.waiting = [];
    if (files.length === 0) return;
    const rows = await ArchiveModel.bulkCreate(
      files.map(({ file: { path, size, modified }, fingerprint }) => ({
        gameId: this.gameId,
        ...{ path, size, modified, fingerprint },
        state: 'open' as const,
        recipe: LOOSE_RECIPE,
        title: looseRecipe().title,
        slots: {},
        fault: null,
        fits: [],
        found: null,
        isNew: false,
        readWith: null,
        // Counted once they are stored: a run that is killed before that finds the file again.
        entryCount: 0,
        namedCount: 1,
        volumes: [{ name: path.slice(path.lastIndexOf('/') + 1), size, modified }],
        bands: [],
      })),
      { returning: true },
    );
    await writeLooseEntries(rows.map((row, i) => ({ row, kind: files[i]!.kind })));
    await ArchiveModel.update({ entryCount: 1 }, { where: { id: rows.map(({ id }) => id) } });
  }
}
