/** Subjects of entries, and of bytes that are for an entry. */
import { entrySize } from '../../core/recipe';
import { declaredKind, kindOf, mimeOf, type Kind } from '../../core/game';
import { database } from '../database';
import { entryBytes, entryHead, winnerBytes } from '../content';
import { archiveRow, pathInGameOf, withArchive } from '../games';
import { kindByRecipe, knownRecipes } from '../recipes';
import type { Subject } from './form';

const HEAD_BYTES = 512;

/** What is known of an entry already, and is not asked for again. */
interface KnownOfEntry {
  readonly kind?: Kind | undefined;
  /** In the game. */
  readonly path?: string | undefined;
}

export async function entrySubject(archiveId: number, n: number, known: KnownOfEntry = {}): Promise<Subject> {
  const [archive, path] = await Promise.all([archiveRow(archiveId), known.path ?? pathInGameOf(archiveId, n)]);
  const { gameId } = archive!;
  const { declared, size, head } = await withArchive(archiveId, async (opened) => ({
    declared: declaredKind(opened.recipe),
    size: entrySize(opened, n),
    head: opened.entries.isDeleted(n) ? new Uint8Array(0) : await entryHead(opened, n),
  }));
  let read: Promise<Uint8Array> | undefined;
  return {
    ...{ gameId, path, declared, head, size, isEntry: true },
    // A packet of a film is what it holds, and belongs to the film.
    kind: known.kind ?? (declared === 'film' ? undefined : declared) ?? (await kindOfBytes(gameId, path, head)),
    mime: mimeOf(path, head),
    entry: { archive: archiveId, n },
    bytes: () => (read ??= entryBytes(archiveId, n).then(({ bytes }) => bytes)),
    companion: (other) => companionOfEntry(gameId, archiveId, other),
  };
}

/** An entry as what it holds alone: a packet of a film is a picture, or a stretch of a sound. */
export const asItself = (subject: Subject): Subject => ({
  ...subject,
  declared: subject.declared === 'film' ? undefined : subject.declared,
});

/** What bytes are that are under a path in a game. */
export async function bytesSubject(
  of: Pick<Subject, 'gameId' | 'path' | 'entry' | 'companion' | 'loop'>,
  bytes: Uint8Array,
): Promise<Subject> {
  const head = bytes.subarray(0, HEAD_BYTES);
  const declared =
    of.entry && (await withArchive(of.entry.archive, ({ recipe }) => Promise.resolve(declaredKind(recipe))));
  return {
    ...of,
    ...{ declared, head, size: bytes.length, mime: mimeOf(of.path, head), isEntry: false },
    kind: (declared === 'film' ? undefined : declared) ?? (await kindOfBytes(of.gameId, of.path, head)),
    bytes: () => Promise.resolve(bytes),
  };
}

const kindOfBytes = async (gameId: number, path: string, head: Uint8Array): Promise<Kind> =>
  (await kindByRecipe(path, head, await knownRecipes(gameId))) ?? kindOf(path, head);

/** The entry of the same archive comes first; what is missing in a patch is in what wins. */
async function companionOfEntry(gameId: number, archiveId: number, path: string): Promise<Uint8Array | undefined> {
  const [rows] = (await database().query(
    'select n from entries where archive_id = :archiveId and path = :path and not deleted limit 1',
    { replacements: { archiveId, path } },
  )) as [{ n: number }[], unknown];
  const own = rows[0];
  return own === undefined ? winnerBytes(gameId, path) : (await entryBytes(archiveId, own.n)).bytes;
}
