/** Texts in files and entries of unknown format: replaced by others of the same length. */
import { bufferSource, collect } from '../../core/bytes';
import { openFile } from '../../core/bytes/node';
import { FaultError } from '../../core/faults';
import { fillTextRun, textRunAt, type TextRun } from '../../core/inside';
import { entrySize, readEntry } from '../../core/recipe';
import { ChangeModel, database } from '../database';
import { archiveFile, pathInGameOf, requireArchive, takeUpText, withArchive } from '../games';
import { FILE_ITSELF } from '../inside';
import type { TextOrder, TextPlace, TextPlaceAnswer } from '../shapes';
import { keepBytes, readBlob } from '../storage';
import { supersedeChange, setUndone } from './change-service';
import { takeChange } from './take-change';

/** The largest entry that is changed so: all of it is read. */
const MOST_BYTES = 64 << 20;

/** @throws FaultError `outside-file` when there is no such place any more */
export async function textPlaceOf(gameId: number, place: TextPlace): Promise<TextPlaceAnswer> {
  const { path, run } = await placeOf(gameId, place);
  const { at, length, encoding, text, fill, counted } = run;
  return { path, at, length, encoding, text, fill, counted };
}

/**
 * The text becomes a change: of the entry, or of a piece of the file, which is then an entry of it.
 *
 * @throws FaultError `limit-reached` when it is longer than its place, `conflict` when it says what is there
 */
export async function changeText(gameId: number, { text, join, ...place }: TextOrder): Promise<{ change: number }> {
  const { path, run, bytes, old } = await placeOf(gameId, place);
  const filled = fillTextRun(run, text, path);
  if (text === run.text) throw new FaultError({ code: 'conflict', file: path, what: 'the text is the same' });
  if (bytes !== undefined) {
    const patched = new Uint8Array(bytes);
    patched.set(filled, run.at);
    const { id } = await takeChange(gameId, {
      path,
      fileName: path.slice(path.lastIndexOf('/') + 1),
      bytes: patched,
      matchedBy: { code: 'typed', in: 'words' },
    });
    if (!join) await setUndone(gameId, id, true);
    return { change: id };
  }
  const row = await requireArchive(gameId, place.archive);
  const entry = await pathInGameOf(row.id, await takeUpText(row, run));
  const { sha256: base } = await keepBytes(old);
  const blob = await keepBytes(filled);
  return database().transaction(async (transaction) => {
    await supersedeChange(gameId, entry, transaction);
    const made = await ChangeModel.create(
      {
        ...{ gameId, path: entry, kind: 'words', base, undone: !join, matchedBy: { code: 'typed', in: 'words' } },
        ...{ blob: blob.sha256, size: blob.size, fileName: 'text.txt' },
      },
      { transaction },
    );
    return { change: made.id };
  });
}

interface Placed {
  readonly path: string;
  readonly run: TextRun;
  /** Of the entry, as it is changed now; undefined for a file as a whole. */
  readonly bytes: Uint8Array | undefined;
  /** Of the text. */
  readonly old: Uint8Array;
}

async function placeOf(gameId: number, { archive, n, at, length, encoding }: TextPlace): Promise<Placed> {
  const row = await requireArchive(gameId, archive);
  if (n === FILE_ITSELF) {
    const source = await openFile(await archiveFile(row), row.path);
    try {
      const run = await textRunAt(source, at, length, encoding);
      return { path: row.path, run, bytes: undefined, old: await source.read(run.at, run.length) };
    } finally {
      await source.close();
    }
  }
  const path = await pathInGameOf(archive, n);
  const bytes =
    (await changedBytes(gameId, path)) ??
    (await withArchive(archive, (opened) => {
      if (entrySize(opened, n) <= MOST_BYTES) return collect(readEntry(opened, n));
      throw new FaultError({
        code: 'limit-reached',
        entry: path,
        what: 'the entry is too large for its texts to be changed in place',
        limit: `bytes, ${MOST_BYTES.toLocaleString('en')}`,
      });
    }));
  const run = await textRunAt(bufferSource(bytes, path), at, length, encoding);
  return { path, run, bytes, old: bytes.subarray(run.at, run.at + run.length) };
}

/** Several texts of one entry are changed one after the other. */
async function changedBytes(gameId: number, path: string): Promise<Uint8Array | undefined> {
  const change = await ChangeModel.findOne({ where: { gameId, path, undone: false, modId: null, action: 'replace' } });
  if (change === null || change.size > MOST_BYTES) return undefined;
  return readBlob(change.blob);
}
