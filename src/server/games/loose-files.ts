/** Loose files of a game that have a form of their own: which they are, and how many. */
import { fn, col } from 'sequelize';
import { LOOSE_RECIPE } from '../../core/carve';
import { guessFromHead, kindOf, type Kind } from '../../core/game';
import { ArchiveModel } from '../database';
import type { LooseFiles } from '../shapes';

/**
 * What a loose file is, by its first bytes and then by its name.
 *
 * @returns undefined for a file that nothing tells: it may be an archive of an unknown format
 */
export function looseKind(path: string, head: Uint8Array): Kind | undefined {
  const kind = kindOf(path, head);
  if (kind !== 'bytes') return kind;
  const guess = guessFromHead(head);
  return guess.kind === 'bytes' ? undefined : guess.kind;
}

export async function looseFilesOf(gameId: number): Promise<LooseFiles> {
  const [row] = (await ArchiveModel.findAll({
    where: { gameId, recipe: LOOSE_RECIPE },
    attributes: [
      [fn('count', col('id')), 'files'],
      [fn('coalesce', fn('sum', col('size')), 0), 'bytes'],
    ],
    raw: true,
  })) as unknown as { files: string; bytes: string }[];
  return { files: Number(row!.files), bytes: Number(row!.bytes) };
}
