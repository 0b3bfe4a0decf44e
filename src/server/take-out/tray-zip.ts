/** The tray as a ZIP that streams to the browser. */
import { ZipWriterStream } from '@zip.js/zip.js';
import type { z } from 'zod';
import { faultOf, FaultError, sayFault, throwIfStopped } from '../../core/faults';
import { SafePaths } from '../../core/game';
import { readEntry } from '../../core/recipe';
import { withArchive } from '../games';
import { zipQuery } from '../shapes';
import { goingEntries } from './start';
import { isWithin, nameFor, turnedFiles, turnedInto, turnOf, withSuffix } from './turn';
import { checkStillThere } from './write-out';

/** The tray as a ZIP, made while it is downloaded; unpacking it needs nothing but any ZIP program. */
export async function trayZip(
  gameId: number,
  wanted: z.input<typeof zipQuery>,
  signal: AbortSignal,
): Promise<ReadableStream<Uint8Array>> {
  const order = zipQuery.parse(wanted);
  const entries = await goingEntries(gameId, 'e.path in (select path from tray_items where game_id = $1)', []);
  if (entries.length === 0)
    throw new FaultError({ code: 'conflict', what: 'the tray is empty', hint: 'Add entries to it in Find.' });
  const turn = await turnOf(gameId, order, entries);
  const zip = new ZipWriterStream({ level: 6, useWebWorkers: false });
  void fill().catch((error: unknown) =>
    zip
      .writable('failed')
      .abort(error)
      .catch(() => {}),
  );
  return zip.readable as ReadableStream<Uint8Array>;

  async function fill(): Promise<void> {
    const paths = new SafePaths();
    const failures: string[] = [];
    for (const entry of entries) {
      throwIfStopped(signal);
      if (isWithin(entry, turn)) continue;
      const as = turnedInto(entry, turn);
      const name = nameFor(entry, turn, as);
      try {
        if (as !== undefined) {
          // Turned first: a file that fails must not stand half in the ZIP.
          await withArchive(entry.archive, (archive) => checkStillThere(archive, entry));
          for (const { bytes, ...named } of await turnedFiles(entry, as, turn, signal)) {
            const writer = zip.writable(paths.clean(withSuffix(name, named)).path).getWriter();
            await writer.write(bytes);
            await writer.close();
          }
          continue;
        }
        const safe = paths.clean(name);
        await withArchive(entry.archive, async (archive) => {
          await checkStillThere(archive, entry);
          const writer = zip.writable(safe.path).getWriter();
          for await (const chunk of readEntry(archive, entry.n, { signal })) await writer.write(chunk);
          await writer.close();
        });
      } catch (error) {
        if (signal.aborted) throw error;
        failures.push(sayFault(faultOf(error, entry.path)));
      }
    }
    if (failures.length > 0) {
      const writer = zip.writable('could-not-be-read.txt').getWriter();
      await writer.write(new TextEncoder().encode(`${failures.join('\n')}\n`));
      await writer.close();
    }
    await zip.close();
  }
}
