/** Records of a file, read from its text or presented by a recipe. */
import { bufferSource } from '../../core/bytes';
import {
  readRecipeRecords,
  readRecords,
  textOf,
  withCell,
  withRecipeCell,
  type Pointer,
  type RecordRow,
} from '../../core/forms/records';
import { formRecipeOf } from '../recipes';

const recipeOf = (gameId: number, bytes: Uint8Array, path: string) =>
  formRecipeOf(gameId, bytes.subarray(0, 512), path, 'records');

export async function recordsOf(gameId: number, bytes: Uint8Array, path: string): Promise<RecordRow[]> {
  const recipe = await recipeOf(gameId, bytes, path);
  return recipe === undefined ? readRecords(bytes, path) : readRecipeRecords(recipe, bufferSource(bytes, path));
}

/** The file with another value. @throws FormatError `wrong-kind` when it is of another kind */
export async function withValue(
  gameId: number,
  bytes: Uint8Array,
  path: string,
  pointer: Pointer,
  column: string,
  typed: string,
): Promise<Uint8Array> {
  const recipe = await recipeOf(gameId, bytes, path);
  return recipe === undefined
    ? Buffer.from(withCell(textOf(bytes, path), path, pointer, column, typed))
    : withRecipeCell(recipe, bufferSource(bytes, path), pointer, column, typed);
}
