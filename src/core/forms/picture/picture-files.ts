/** A picture with all of its files: games keep parts of some next to them. */
import { bufferSource } from '../../bytes';
import { FaultError } from '../../faults';
import { companionPaths, type Recipe } from '../../recipe';
import { readPicture, type OpenPicture } from './formats';
import type { Picture } from './picture';
import { readRecipePicture, type RecipePicture } from './recipe-picture';

export interface PictureFile {
  /** In the game. */
  readonly path: string;
  readonly bytes: Uint8Array;
}

export type PictureOfFiles = {
  readonly picture: Picture;
  /** The main one first. */
  readonly files: readonly PictureFile[];
} & (
  { readonly is: OpenPicture['is'] } | { readonly is: 'recipe'; readonly recipe: Recipe; readonly read: RecipePicture }
);

/** Where the bytes of a path next to the main one come from; undefined when there is none. */
export type ReadCompanion = (path: string) => Promise<Uint8Array | undefined>;

/**
 * @param recipe that presents the file as a picture; undefined for an open format
 * @throws FormatError `wrong-kind` when it is no picture, and what reading it says
 * @throws FaultError `volume-missing` when the picture has another half that is not there
 */
export async function readPictureFiles(
  main: PictureFile,
  recipe: Recipe | undefined,
  companion: ReadCompanion,
): Promise<PictureOfFiles> {
  if (recipe === undefined) return { ...(await readPicture(main.bytes, main.path)), files: [main] };
  const files = [main];
  const missing: string[] = [];
  for (const path of companionPaths(recipe, main.path)) {
    const bytes = await companion(path);
    if (bytes === undefined) missing.push(path);
    else files.push({ path, bytes });
  }
  try {
    const read = await readRecipePicture(
      recipe,
      files.map(({ path, bytes }) => bufferSource(bytes, path)),
    );
    return { is: 'recipe', recipe, read, picture: read.picture, files };
  } catch (error) {
    // A picture may well have one half alone: only what cannot be read for want of the other says so.
    if (missing.length === 0) throw error;
    throw new FaultError(
      {
        code: 'volume-missing',
        entry: main.path,
        what: 'the other half of the picture is not there',
        expected: missing.join(', '),
        hint: 'It may be in an archive that is locked, or in one that is not here.',
      },
      { cause: error },
    );
  }
}
