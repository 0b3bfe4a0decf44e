/** Small pictures that changed go back into their sheet, which is then what changes in the archive around it. */
import { bufferSource, type ByteSource } from '../../core/bytes';
import { FaultError } from '../../core/faults';
import {
  pasteRectangles,
  readDds,
  readRecipePicture,
  rectanglesOf,
  writeRecipePicture,
} from '../../core/forms/picture';
import { type Archive, type Recipe } from '../../core/recipe';
import type { ArchiveModel } from '../database';
import { openVolumesOf } from '../games';
import { keepBytes, readBlob } from '../storage';
import type { Replacement } from './replacement';

/**
 * @param replace what changed in the sheet; numbers are those of its rectangles
 * @param around the archive the sheet is an entry of, and what is replaced there already: a sheet that was itself changed is
 *   the one that the small pictures go into
 * @returns the files of the sheet that became others
 */
export async function buildSheet(
  row: ArchiveModel,
  recipe: Recipe,
  replace: readonly Replacement[],
  around: { readonly archive: Archive; readonly replace: readonly Replacement[] },
): Promise<Replacement[]> {
  const own = await openVolumesOf(row, recipe);
  try {
    const places = own.files.map((file) => entryCalled(around.archive, file.name, row.parentN!));
    const files: ByteSource[] = [];
    for (const [i, n] of places.entries()) {
      const changed = around.replace.find((one) => one.n === n);
      files.push(changed === undefined ? own.files[i]! : await blobSource(changed, own.files[i]!.name));
    }
    const sheet = await readRecipePicture(recipe, files);
    const rectangles = rectanglesOf(sheet);
    const pastes = [];
    for (const one of replace) {
      const place = rectangles[one.n];
      if (place === undefined)
        throw new FaultError({
          code: 'no-such-entry',
          entry: row.path,
          what: 'the changed sheet no longer has a place for a small picture that is changed as well',
          hint: 'Undo one of the two changes.',
        });
      const source = await blobSource(one, one.fileName);
      pastes.push({ place, picture: readDds(await source.read(0, source.size), one.fileName) });
    }
    const written = await writeRecipePicture(sheet, pasteRectangles(sheet.picture, pastes, 'best'));
    const made: Replacement[] = [];
    for (const [i, bytes] of written.entries()) {
      const { name, size } = files[i]!;
      if (size === bytes.length && Buffer.compare(bytes, await files[i]!.read(0, size)) === 0) continue;
      const blob = await keepBytes(bytes);
      made.push({ n: places[i]!, blob: blob.sha256, size: blob.size, fileName: name });
    }
    return made;
  } finally {
    await own.close();
  }
}

/** The number of an entry by its path; that of the sheet is known. */
function entryCalled({ entries }: Archive, path: string, main: number): number {
  if (entries.path(main) === path) return main;
  for (let n = 0; n < entries.count; n++) if (entries.path(n) === path) return n;
  throw new FaultError({ code: 'no-such-entry', what: `${path} has gone`, hint: 'Scan the folder again.' });
}

/** Small enough to be in memory: it is one picture. */
async function blobSource({ blob }: Replacement, name: string): Promise<ByteSource> {
  return bufferSource(await readBlob(blob), name);
}
