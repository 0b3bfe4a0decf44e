/** Entries that are pictures: in an open format, or as a recipe presents them, with the entries next to them. */
import { QueryTypes } from 'sequelize';
import {
  isOpenPicture,
  isPackedFormat,
  readPictureFiles,
  type ReadCompanion,
  type PictureFile,
  type PictureOfFiles,
} from '../../../core/forms/picture';
import { faultOf, type Fault } from '../../../core/faults';
import { companionPaths, type Recipe } from '../../../core/recipe';
import { database } from '../../database';
import { entryHead } from '../../content';
import { FOUND_RECIPE } from '../../../core/carve';
import { archiveRow, isSheet, withArchive } from '../../games';
import { formRecipeOf, knownRecipes } from '../../recipes';
import type { Subject } from '../form';

export type { PictureFile, PictureOfFiles };

/**
 * @throws FormatError `wrong-kind` when it is no picture, and what reading it says
 * @throws FaultError `volume-missing` when the picture has another half that is not there
 */
export function pictureOf(subject: Subject): Promise<FoundPicture> {
  const known = pictures.get(subject);
  if (known !== undefined) return known;
  const { gameId, path, bytes, companion } = subject;
  const read = bytes().then((all) => pictureOfFiles(gameId, { path, bytes: all }, companion));
  pictures.set(subject, read);
  return read;
}

/** A card asks for the facts of a picture and for its pixels. */
const pictures = new WeakMap<Subject, Promise<FoundPicture>>();

const HEAD_BYTES = 512;

/** A picture, and why the recipe that describes it did not read it, where the built-in reader did. */
export type FoundPicture = PictureOfFiles & { readonly insteadOf?: { readonly recipe: Recipe; readonly fault: Fault } };

export async function pictureOfFiles(
  gameId: number,
  main: PictureFile,
  companion: ReadCompanion,
): Promise<FoundPicture> {
  const head = main.bytes.subarray(0, HEAD_BYTES);
  const recipe = await formRecipeOf(gameId, head, main.path, 'picture');
  try {
    return await readPictureFiles(main, recipe, companion);
  } catch (error) {
    if (recipe === undefined || !isOpenPicture(head, main.path)) throw error;
    return { ...(await readPictureFiles(main, undefined, companion)), insteadOf: { recipe, fault: faultOf(error) } };
  }
}

/** Whether entries of an archive may take more or fewer bytes: small pictures of a sheet, and what was found, may not. */
export async function sizeIsFree(archiveId: number): Promise<boolean> {
  const row = await archiveRow(archiveId);
  if (row === null || row.recipe === FOUND_RECIPE) return false;
  return !(await knownRecipes(row.gameId)).some((one) => one.id === row.recipe && isSheet(one));
}

/** Entries called like a half of a picture, of which one may be the picture. */
const MOST_ALIKE = 20;

/** The picture that an entry without a header of its own is the other half of; undefined when it is of none. */
export async function pictureOfHalf(gameId: number, path: string): Promise<string | undefined> {
  const stem = path.replace(/\.[^./]*$/, '.');
  const alike = await database().query<{ path: string; archive: number; n: number }>(
    `select path, archive_id as archive, n from entries
     where game_id = $1 and wins and not deleted and path <> $2 and starts_with(path, $3) limit ${MOST_ALIKE}`,
    { bind: [gameId, path, stem], type: QueryTypes.SELECT },
  );
  for (const { path: main, archive, n } of alike) {
    const head = await withArchive(archive, (opened) => entryHead(opened, n));
    const recipe = await formRecipeOf(gameId, head, main, 'picture');
    if (recipe !== undefined && companionPaths(recipe, main).includes(path)) return main;
  }
  return undefined;
}

/** Whether bytes are a picture that games keep packed: by a recipe, or in an open format of packed pixels. */
export async function isPackedPicture(gameId: number, bytes: Uint8Array, path: string): Promise<boolean> {
  const head = bytes.subarray(0, 512);
  if ((await formRecipeOf(gameId, head, path, 'picture')) !== undefined) return true;
  return isPackedFormat(head, path);
}
