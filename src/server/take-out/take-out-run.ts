/** Taking the tray out: into a folder as a run, or as one ZIP that streams to the browser. */
import { lstat, mkdir, statfs } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { ZipWriterStream } from '@zip.js/zip.js';
import { readChunks } from '../../core/bytes';
import { createFile, openFile } from '../../core/bytes/node';
import { faultOf, FaultError, sayFault, throwIfStopped } from '../../core/faults';
import { SafePaths } from '../../core/game';
import { readEntry, storedSource, type Archive } from '../../core/recipe';
import type { PictureOut } from '../../core/forms/picture';
import { SOUND_OUT, type SoundOut } from '../../core/forms/sound/out-formats';
import { ArchiveModel } from '../database';
import { pictureFileAs, soundFileAs } from '../forms';
import { requireGame, standsAt, withArchive } from '../games';
import { startRun } from '../runs';
import type { RunContext } from '../runs/run-context';
import type { EntryRow, RunAnswer, TakeOutOrder } from '../shapes';
import { underRoots } from '../storage';
import { threadCount } from '../threads';
import { trayEntries } from './tray-service';

/** @throws FaultError when the tray is empty or the folder is outside of the roots */
export async function startTakeOut(gameId: number, order: TakeOutOrder): Promise<RunAnswer> {
  const game = await requireGame(gameId);
  const entries = await trayEntries(gameId);
  if (entries.length === 0)
    throw new FaultError({ code: 'conflict', what: 'the tray is empty', hint: 'Add entries to it in Find.' });
  const to = await underRoots(order.to);
  const bytes = entries.reduce((sum, entry) => sum + entry.size, 0);
  await checkSpace(to, bytes);
  // The list is kept with the run: a run that is resumed takes what it was given, not what the tray holds by then.
  const input = {
    ...order,
    to,
    entries: entries.map(({ archive, n, path, size, kind }) => ({ archive, n, path, size, kind })),
  };
  return startRun({
    kind: 'take-out',
    title: `${entries.length.toLocaleString('en')} entries of ${game.name}`,
    gameId,
    input,
  });
}

async function checkSpace(folder: string, bytes: number): Promise<void> {
  let existing = folder;
  while ((await lstat(existing).catch(() => undefined)) === undefined) existing = dirname(existing);
  const space = await statfs(existing);
  const free = space.bavail * space.bsize;
  if (free < bytes) {
    throw new FaultError({
      code: 'disk-full',
      what: 'there is not enough room',
      file: folder,
      expected: `${bytes.toLocaleString('en')} bytes`,
      found: `${free.toLocaleString('en')} free`,
      hint: 'Free some space or choose another folder.',
    });
  }
}

/** Faults that stop the whole run: no entry after it would fare better. */
const FATAL = ['disk-full', 'read-only', 'stopped'];
const MAX_FAILURES_LISTED = 200;

type TurnOrder = Pick<TakeOutOrder, 'pictures' | 'sounds'>;
type Taken = Pick<EntryRow, 'archive' | 'n' | 'path' | 'size' | 'kind'>;

export async function takeOutRun({ input, signal, progress, log }: RunContext): Promise<object> {
  const order = input as unknown as TakeOutOrder & { entries: Taken[] };
  const to = await underRoots(order.to);
  const paths = new SafePaths();
  const failures: { path: string; why: string }[] = [];
  const sums = { taken: 0, bytes: 0, skipped: 0, turned: 0 };
  let done = 0;
  const takeInto = async (entry: Taken) => {
    const name = order.layout === 'flat' ? entry.path.slice(entry.path.lastIndexOf('/') + 1) : entry.path;
    const as = order.form === 'open' ? turnedInto(entry, order) : undefined;
    const safe = paths.clean(withEnding(name, as));
    if (safe.renamed !== undefined) log(`${entry.path} goes out as ${safe.path}, because ${safe.renamed}.`);
    try {
      const target = await safeTarget(to, safe.path);
      if (as !== undefined) {
        sums.bytes += await takeTurned(entry, as, target, signal);
        sums.turned++;
        sums.taken++;
      } else if (order.form === 'open' && (await isThere(entry, target))) sums.skipped++;
      else {
        await withArchive(entry.archive, (archive) => takeOne(archive, entry, target, order.form, signal));
        sums.taken++;
        sums.bytes += entry.size;
      }
    } catch (error) {
      const fault = faultOf(error, entry.path);
      if (FATAL.includes(fault.code) || signal.aborted) throw error;
      if (failures.length < MAX_FAILURES_LISTED) failures.push({ path: entry.path, why: sayFault(fault) });
      log(sayFault(fault));
    }
    progress(++done, order.entries.length, 'entries');
  };
  // What is turned into another format takes cores: as many at a time as there are. Bytes flow one after the other.
  const atOnce = order.pictures === undefined && order.sounds === undefined ? 1 : threadCount();
  const waiting = order.entries.values();
  const ends = new Set<unknown>();
  const lane = async () => {
    for (const entry of waiting) {
      // What ends one ends all, and the run is not over while another still writes.
      if (ends.size > 0) return;
      throwIfStopped(signal);
      await takeInto(entry);
    }
  };
  await Promise.all(Array.from({ length: atOnce }, () => lane().catch((error: unknown) => ends.add(error))));
  for (const error of ends) throw error;
  progress(order.entries.length, order.entries.length, 'entries');
  return { ...sums, failures, folder: to };
}

/** Written whole or not at all: a file that is there from an earlier try of this run is done. */
async function isThere(entry: Taken, target: string): Promise<boolean> {
  const there = await lstat(target).catch(() => undefined);
  return there?.isFile() === true && there.size === entry.size && sameBytes(entry, target);
}

const isSoundOut = (as: PictureOut | SoundOut): as is SoundOut => (SOUND_OUT as readonly string[]).includes(as);

/** The format an entry goes out in, when that is another than its own. */
function turnedInto(entry: Taken, { pictures, sounds }: TurnOrder): PictureOut | SoundOut | undefined {
  const as = entry.kind === 'picture' ? pictures : entry.kind === 'sound' ? sounds : undefined;
  return entry.path.toLowerCase().endsWith(`.${as}`) ? undefined : as;
}

async function turnedBytes(entry: Taken, as: PictureOut | SoundOut, signal: AbortSignal): Promise<Uint8Array> {
  await withArchive(entry.archive, (archive) => checkStillThere(archive, entry));
  const { bytes } = isSoundOut(as)
    ? await soundFileAs(entry.archive, entry.n, as)
    : await pictureFileAs(entry.archive, entry.n, as, signal);
  return bytes;
}

const withEnding = (path: string, as: string | undefined) =>
  as === undefined ? path : `${path.replace(/\.[^./]*$/, '')}.${as}`;

/** @returns the bytes that were written */
async function takeTurned(
  entry: Taken,
  as: PictureOut | SoundOut,
  target: string,
  signal: AbortSignal,
): Promise<number> {
  const bytes = await turnedBytes(entry, as, signal);
  const sink = await createFile(target, { durable: false });
  try {
    await sink.write(bytes);
    await sink.close();
  } catch (error) {
    await sink.abandon();
    throw error;
  }
  return bytes.length;
}

/** The path under `to`, made sure that no link in between leads out of it. */
async function safeTarget(to: string, path: string): Promise<string> {
  const target = join(to, path);
  await mkdir(dirname(target), { recursive: true }).catch((error: unknown) => {
    throw new FaultError(faultOf(error, path), { cause: error });
  });
  const real = await underRoots(dirname(target));
  if (!`${real}/`.startsWith(`${await underRoots(to)}/`)) {
    throw new FaultError({
      code: 'not-allowed',
      what: 'a link in the folder leads out of it',
      file: path,
      found: real,
    });
  }
  return join(real, path.slice(path.lastIndexOf('/') + 1));
}

async function sameBytes(entry: { archive: number; n: number }, target: string): Promise<boolean> {
  const file = await openFile(target);
  try {
    return await withArchive(entry.archive, async (archive) => {
      let at = 0;
      for await (const chunk of readEntry(archive, entry.n)) {
        if (Buffer.compare(chunk, await file.read(at, chunk.length)) !== 0) return false;
        at += chunk.length;
      }
      return at === file.size;
    });
  } finally {
    await file.close();
  }
}

async function takeOne(
  archive: Archive,
  entry: { archive: number; n: number; path: string },
  target: string,
  form: TakeOutOrder['form'],
  signal: AbortSignal,
): Promise<void> {
  await checkStillThere(archive, entry);
  const sink = await createFile(target, { durable: false });
  try {
    const chunks =
      form === 'stored'
        ? readChunks(storedSource(archive, entry.n), 0, archive.entries.stored(entry.n), { signal })
        : readEntry(archive, entry.n, { signal });
    for await (const chunk of chunks) await sink.write(chunk);
    await sink.close();
  } catch (error) {
    await sink.abandon();
    throw error;
  }
}

async function checkStillThere(archive: Archive, entry: { archive: number; n: number; path: string }): Promise<void> {
  const row = await ArchiveModel.findByPk(entry.archive);
  if (row !== null && (await standsAt(row, archive, entry.n, entry.path))) return;
  throw new FaultError({
    code: 'no-such-entry',
    entry: entry.path,
    file: archive.source.name,
    what: 'the archive has changed since the last scan',
    hint: 'Scan the folder again.',
  });
}

/** The tray as a ZIP, made while it is downloaded; unpacking it needs nothing but any ZIP program. */
export async function trayZip(
  gameId: number,
  turn: TurnOrder,
  signal: AbortSignal,
): Promise<ReadableStream<Uint8Array>> {
  const entries = await trayEntries(gameId);
  if (entries.length === 0)
    throw new FaultError({ code: 'conflict', what: 'the tray is empty', hint: 'Add entries to it in Find.' });
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
      const as = turnedInto(entry, turn);
      const safe = paths.clean(withEnding(entry.path, as));
      try {
        if (as !== undefined) {
          // Turned first: a file that fails must not stand half in the ZIP.
          const bytes = await turnedBytes(entry, as, signal);
          const writer = zip.writable(safe.path).getWriter();
          await writer.write(bytes);
          await writer.close();
          continue;
        }
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
