import type { z } from 'zod';
import { findInside, needlesFor } from '../../core/inside';
import type { findInEntryOrder, PlaceInBytes } from '../shapes';
import { entryBytes } from '../content';

/**
 * The first place from `from` on.
 *
 * @throws FaultError `invalid-request` when what is sought represents no bytes
 */
export async function findInEntry(
  archiveId: number,
  n: number,
  { sought, from }: z.output<typeof findInEntryOrder>,
): Promise<PlaceInBytes> {
  const needles = needlesFor(sought);
  const { bytes } = await entryBytes(archiveId, n);
  const rest = async function* () {
    yield bytes.subarray(from);
  };
  for await (const { at, length } of findInside(rest(), needles, 1)) return { found: { at: at + from, length } };
  return { found: null };
}
