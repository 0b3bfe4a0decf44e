import { existsSync } from 'node:fs';
import { mkdir } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import picomatch from 'picomatch';
import { readChunks } from '../core/bytes';
import { createFile } from '../core/bytes/node';
import { FaultError, faultOf, sayFault } from '../core/faults';
import { SafePaths } from '../core/game';
import { readEntry, storedSource, uniquePaths, type Archive } from '../core/recipe';
import { warn, withOpened, type ArchiveOptions } from './archive-options';

interface TakeOptions extends ArchiveOptions {
  readonly to: string;
  readonly as: 'open' | 'stored';
}

/** @param more further volumes of the archive, as long as they are files, then patterns */
export async function take(file: string, more: readonly string[], options: TakeOptions): Promise<void> {
  const first = more.findIndex((one) => !existsSync(one));
  const volumes = first < 0 ? more : more.slice(0, first);
  const patterns = first < 0 ? [] : more.slice(first);
  await withOpened([file, ...volumes], options, async (archive) => {
    warn(archive, sayFault);
    const pathOf = uniquePaths(archive.entries);
    const wanted = chooseEntries(archive, pathOf, patterns);
    const paths = new SafePaths();
    let failed = 0;
    for (const entry of wanted) {
      const name = pathOf(entry);
      const safe = paths.clean(name);
      if (safe.renamed !== undefined)
        process.stderr.write(`Note: ${name} goes out as ${safe.path}, because ${safe.renamed}.\n`);
      try {
        await takeOne(archive, entry, join(options.to, safe.path), options.as);
      } catch (error) {
        if (error instanceof FaultError && ['disk-full', 'read-only', 'file-changed'].includes(error.fault.code))
          throw error;
        process.stderr.write(`${sayFault(faultOf(error, file))}\n`);
        failed++;
      }
    }
    process.stdout.write(`${wanted.length - failed} of ${wanted.length} entries taken out to ${options.to}\n`);
    if (failed > 0) process.exitCode = 1;
  });
}

function chooseEntries(archive: Archive, pathOf: (entry: number) => string, patterns: readonly string[]): number[] {
  const { entries } = archive;
  const all = Array.from({ length: entries.count }, (_, i) => i).filter((entry) => !entries.isDeleted(entry));
  if (patterns.length === 0) return all;
  const exact = new Set(patterns);
  const matches = picomatch([...patterns], { dot: true });
  const wanted = all.filter((entry) => exact.has(pathOf(entry)) || matches(pathOf(entry)));
  if (wanted.length > 0) return wanted;
  throw new FaultError({
    code: 'no-such-entry',
    what: `no entry is called ${patterns.join(' or ')}`,
    file: archive.source.name,
    hint: 'zero-latch list shows the paths; ** stands for any folders.',
  });
}

async function takeOne(archive: Archive, entry: number, target: string, as: 'open' | 'stored'): Promise<void> {
  await mkdir(dirname(target), { recursive: true });
  const sink = await createFile(target, { durable: false });
  try {
    const chunks = as === 'stored' ? readChunks(storedSource(archive, entry)) : readEntry(archive, entry);
    for await (const chunk of chunks) await sink.write(chunk);
    await sink.close();
  } catch (error) {
    await sink.abandon();
    throw error;
  }
}
