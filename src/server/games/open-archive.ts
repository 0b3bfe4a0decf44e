/** Opening an archive with the keys there are. */
import type { ByteSource } from '../../core/bytes';
import { FaultError } from '../../core/faults';
import { openArchive, type Archive, type OpenOptions, type Recipe } from '../../core/recipe';
import type { KeyRing } from './keys/keyring';
import { isSheet, openSheet } from './sheets';

/** Opens with the first keyring that fits. @returns the archive and the ids of the keys that opened it */
export async function openWithAny(
  recipe: Recipe,
  files: readonly ByteSource[],
  rings: readonly KeyRing[],
  options: Pick<OpenOptions, 'signal' | 'scratch' | 'names'> = {},
): Promise<{ archive: Archive; keys: Readonly<Record<string, number>> }> {
  if (isSheet(recipe)) return { archive: await openSheet(recipe, files), keys: {} };
  let refusal: unknown;
  for (const { keys, ids } of rings) {
    try {
      return { archive: await openArchive(recipe, files, { ...options, keys }), keys: ids };
    } catch (error) {
      if (!(error instanceof FaultError) || !['key-wrong', 'key-missing'].includes(error.fault.code)) throw error;
      refusal ??= error;
    }
  }
  throw refusal;
}
