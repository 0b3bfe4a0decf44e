import { kindOf } from '../core/game';
import { sayFault } from '../core/faults';
import { warn, withOpened, type ArchiveOptions } from './archive-options';

export async function list(files: readonly string[], options: ArchiveOptions & { json?: boolean }): Promise<void> {
  await withOpened(files, options, async (archive, source) => {
    const { entries } = archive;
    const row = (i: number) => ({
      path: entries.path(i),
      size: Number.isNaN(entries.size(i)) ? null : entries.size(i),
      stored: entries.stored(i),
      offset: entries.at(i),
      volume: 0,
      kind: kindOf(entries.path(i)),
    });
    if (options.json === true) {
      // Written row by row: a million entries need not stand in memory as one text.
      process.stdout.write(
        `{"archive":${JSON.stringify({ file: source.name, size: source.size, recipe: archive.recipe.id, entries: entries.count, complaints: archive.complaints })},"entries":[`,
      );
      for (let i = 0; i < entries.count; i++) await print(`${i === 0 ? '' : ','}\n${JSON.stringify(row(i))}`);
      await print(']}\n');
      return;
    }
    warn(archive, sayFault);
    for (let i = 0; i < entries.count; i++) {
      const { path, size, kind } = row(i);
      await print(`${String(size ?? '?').padStart(12)}  ${kind.padEnd(8)}  ${path}\n`);
    }
  });
}

function print(text: string): Promise<void> | undefined {
  if (process.stdout.write(text)) return undefined;
  return new Promise((resolve) => process.stdout.once('drain', resolve));
}
