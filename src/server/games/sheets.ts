/** Sheets of small pictures, opened as archives of these: each is a DDS of its own, made of the sheet when it is opened. */
import { bufferSource, type ByteSource } from '../../core/bytes';
import { foundRecipe, listingTable } from '../../core/carve';
import { cutRectangle, readRecipePicture, rectanglesOf, writeDds, type RecipePicture } from '../../core/forms/picture';
import { openArchive, type Archive, type Recipe } from '../../core/recipe';

export const isSheet = (recipe: Recipe): boolean => recipe.picture?.rectangles !== undefined;

/** @param files the main file of the sheet first. @throws FormatError for what is wrong with the sheet */
export async function openSheet(recipe: Recipe, files: readonly ByteSource[]): Promise<Archive> {
  const name = files[0]!.name;
  const small = picturesOf(await readRecipePicture(recipe, files));
  let at = 0;
  const rows = small.map(({ name: path, bytes }) => {
    const row = { path: `${path}.dds`, at, stored: bytes.length, size: bytes.length, method: 'stored' as const };
    at += bytes.length;
    return row;
  });
  const body = Buffer.concat(small.map(({ bytes }) => bytes));
  return openArchive(foundRecipe(), [bufferSource(listingTable(rows), name), bufferSource(body, name)]);
}

function picturesOf(sheet: RecipePicture): { name: string; bytes: Uint8Array }[] {
  return rectanglesOf(sheet).map((rectangle) => ({
    name: rectangle.name,
    bytes: writeDds(cutRectangle(sheet.picture, rectangle)),
  }));
}
