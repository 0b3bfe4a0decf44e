import { sayFault, visible } from '../core/faults';
import { kindOf } from '../core/game';
import { entrySize, uniquePaths, type Archive } from '../core/recipe';
import { warn, withOpened, type ArchiveOptions } from './archive-options';

/** Entries without a readable path, reported one by one up to this many: with a wrong recipe that may be all. */
const MOST_NOTES = 20;

export async function list(files: readonly string[], options: ArchiveOptions & { json?: boolean }): Promise<void> {
  await withOpened(files, options, async (archive) => {
    const { entries, volumes } = archive;
    const pathOf = uniquePaths(entries);
    const known = (value: number) => (Number.isNaN(value) ? null : value);
    const row = (i: number) => {
      const time = entries.time(i);
      const link = entries.link(i);
      return {
        path: pathOf(i),
        size: entries.isDeleted(i) ? 0 : known(entrySize(archive, i)),
        stored: known(entries.stored(i)),
        offset: entries.at(i),
        volume: entries.volume(i),
        kind: entries.isDirectory(i) ? 'folder' : link === undefined ? kindOf(entries.path(i)) : 'link',
        ...(link === undefined ? {} : { link }),
        ...(entries.isDeleted(i) ? { deleted: true } : {}),
        ...(entries.isNamed(i) ? {} : { nameless: true, ...damageOf(archive, i) }),
        ...(time === undefined ? {} : { time: new Date(time).toISOString() }),
      };
    };
    if (options.json === true) {
      const head = {
        file: archive.outer.name,
        size: volumes.reduce((sum, { source }) => sum + source.size, 0),
        recipe: archive.recipe.id,
        volumes: volumes.map(({ name, source }) => ({ name, size: source.size })),
        entries: entries.count,
        complaints: archive.complaints,
      };
      // Written row by row: a million entries are never in memory as one text.
      process.stdout.write(`{"archive":${JSON.stringify(head)},"entries":[`);
      for (let i = 0; i < entries.count; i++) await print(`${i === 0 ? '' : ','}\n${JSON.stringify(row(i))}`);
      await print(']}\n');
      return;
    }
    warn(archive, sayFault);
    let damaged = 0;
    for (let i = 0; i < entries.count; i++) {
      const { path, size, kind, link, deleted, damage } = row(i);
      if (damage !== undefined && damaged++ < MOST_NOTES) process.stderr.write(`Note: ${damage}\n`);
      await print(
        `${String(deleted === true ? 'deleted' : (size ?? '?')).padStart(12)}  ${kind.padEnd(8)}  ${visible(path)}${link === undefined ? '' : ` → ${visible(link)}`}\n`,
      );
    }
    const left = damaged - MOST_NOTES;
    if (left > 0)
      process.stderr.write(`Note: and ${left.toLocaleString('en')} more entries like these; --json has them all.\n`);
  });
}

/** Why there is no path for an entry whose archive stores paths. */
function damageOf({ entries, source }: Archive, entry: number): { damage?: string } {
  const fault = entries.pathDamage(entry);
  return fault === undefined ? {} : { damage: sayFault({ file: source.name, ...fault, entry: entries.path(entry) }) };
}

function print(text: string): Promise<void> | undefined {
  if (process.stdout.write(text)) return undefined;
  return new Promise((resolve) => process.stdout.once('drain', resolve));
}
