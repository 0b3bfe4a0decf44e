/** Two entries next to each other. */
import { compareBytes, moreDetailed, type Detail } from '../../core/compare';
import { requireGame } from '../games';
import type { ComparedAnswer, ComparedSide } from '../shapes';
import { readDetails } from './entry-service';

interface Which {
  readonly game: number;
  readonly archive: number;
  readonly n: number;
}

/** @throws FaultError when one of them is gone, damaged, or too large to be looked at */
export async function compareEntries(left: Which, right: Which): Promise<ComparedAnswer> {
  const [a, b] = await Promise.all([sideOf(left), sideOf(right)]);
  // Of two with one name the archive says which is which.
  const sameName = a.side.path.split('/').at(-1) === b.side.path.split('/').at(-1);
  const named = ({ side, detail }: typeof a): Detail => ({
    ...detail,
    name: sameName ? `${detail.name} of ${left.game === right.game ? side.archivePath : side.gameName}` : detail.name,
  });
  const { same, start, differences, cut } = compareBytes(a.bytes, b.bytes);
  return {
    left: a.side,
    right: b.side,
    same,
    start,
    differences,
    cut,
    verdict: same ? 'They are the same, byte for byte.' : moreDetailed(named(a), named(b)),
  };
}

async function sideOf({ game, archive, n }: Which): Promise<{ bytes: Uint8Array; side: ComparedSide; detail: Detail }> {
  const { details, subject, read } = await readDetails(game, archive, n);
  const { path, name, kind, size, archivePath, mime, facts } = details;
  const { name: named, build } = await requireGame(game);
  const bytes = await subject.bytes();
  return {
    bytes,
    side: {
      game,
      gameName: [named, build].filter(Boolean).join(' '),
      ...{ archive, n, path, kind, size, archivePath, mime, facts },
    },
    detail: { name, size: bytes.length, ...read.detail },
  };
}
