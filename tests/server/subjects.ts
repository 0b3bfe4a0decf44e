/** What entries and changes hold, as the forms read them. */
import { changeSubject } from '../../src/server/changes';
import {
  bytesSubject,
  entrySubject,
  formOf,
  meshFileOf,
  pictureOf,
  soundFileAs,
  WEB_PREVIEW_OPTIONS,
} from '../../src/server/forms';
import { ownSound } from '../../src/server/forms/sound/entry-sound';
import type { FitOptions } from '../../src/server/shapes';

export const pictureOfEntry = async (archive: number, n: number) => pictureOf(await entrySubject(archive, n));
export const soundOfEntry = async (archive: number, n: number) => ownSound(await entrySubject(archive, n));
export const wavOfEntry = async (archive: number, n: number) => soundFileAs(await entrySubject(archive, n), 'wav');

export const pictureOfChange = async (game: number, id: number) => pictureOf(await changeSubject(game, id, 'change'));
export const wavOfChange = async (game: number, id: number) =>
  soundFileAs(await changeSubject(game, id, 'change'), 'wav');
export async function bytesOfChange(game: number, id: number, which: 'change' | 'base' = 'change') {
  return (await changeSubject(game, id, which)).bytes();
}

/** A mesh as a page draws it. */
export async function modelOf({ gameId, path, bytes }: Awaited<ReturnType<typeof entrySubject>>) {
  return meshFileOf(gameId, { path, bytes: await bytes() }, WEB_PREVIEW_OPTIONS);
}

/** A file in the place of bytes that are in no game. @returns what becomes of it; the file where it has no form */
export async function fit(
  path: string,
  original: Uint8Array,
  dropped: Uint8Array,
  fileName: string,
  fitOptions: FitOptions = {},
) {
  const companion = () => Promise.resolve(undefined);
  const subject = await bytesSubject({ gameId: 0, path, entry: undefined, companion }, original);
  const { signal } = new AbortController();
  const made = await formOf(subject)?.fit?.(subject, {
    bytes: dropped,
    fileName,
    fitOptions,
    signal,
    changed: companion,
  });
  return made === undefined ? { bytes: dropped, notes: [] } : { bytes: made.files[0]!.bytes, notes: made.notes };
}
