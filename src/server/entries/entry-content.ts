import { createHash } from 'node:crypto';
import { mkdir, readFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import sharp, { type Sharp } from 'sharp';
import { collect } from '../../core/bytes';
import { createFile } from '../../core/bytes/node';
import { FaultError, isFaultError } from '../../core/faults';
import { readWavFacts, sayWav } from '../../core/forms/sound';
import { kindOf, mimeOf } from '../../core/game';
import { readEntry, type Archive } from '../../core/recipe';
import { ArchiveModel, database } from '../database';
import { env } from '../env';
import { withArchive } from '../games';

/** Enough for every signature. */
const HEAD_BYTES = 512;

/** Entries up to this many bytes are previewed. */
export const MAX_PREVIEW_BYTES = 64 << 20;

/** The first bytes of an entry; no more of it is unpacked than that takes. */
export async function entryHead(archive: Archive, n: number): Promise<Uint8Array> {
  for await (const chunk of readEntry(archive, n, { verify: false })) return chunk.subarray(0, HEAD_BYTES);
  return new Uint8Array(0);
}

/** The plain bytes of an entry with its checksum verified. */
export async function entryBytes(
  archiveId: number,
  n: number,
): Promise<{ bytes: Uint8Array; mime: string; path: string }> {
  return withArchive(archiveId, async (archive) => {
    if (n >= archive.entries.count)
      throw new FaultError({
        code: 'no-such-entry',
        what: 'there is no such entry any more',
        hint: 'Scan the folder again.',
      });
    const path = archive.entries.path(n);
    if (archive.entries.size(n) > MAX_PREVIEW_BYTES) {
      throw new FaultError({
        code: 'limit-reached',
        what: 'the entry is too large to look at here',
        entry: path,
        found: `${archive.entries.size(n).toLocaleString('en')} bytes`,
        limit: `bytes of a preview, ${MAX_PREVIEW_BYTES.toLocaleString('en')}`,
        hint: 'Take it out instead.',
      });
    }
    const bytes = await collect(readEntry(archive, n));
    return { bytes, path, mime: mimeOf(path, bytes.subarray(0, HEAD_BYTES)) };
  });
}

/** The entry that wins for a path. */
export async function findWinner(gameId: number, path: string): Promise<{ archive: number; n: number }> {
  const [rows] = (await database().query(
    'select archive_id as archive, n from entries where game_id = :gameId and path = :path and wins',
    { replacements: { gameId, path } },
  )) as [{ archive: number; n: number }[], unknown];
  const [row] = rows;
  if (row !== undefined) return row;
  throw new FaultError({ code: 'no-such-entry', what: `there is no entry ${path}`, hint: 'Scan the folder again.' });
}

const THUMBNAIL = { width: 264, height: 168 } as const;

/** A small WebP of a picture, kept by what the archive and the entry are. */
export function thumbnail(archiveId: number, n: number): Promise<Uint8Array> {
  return kept(archiveId, n, 'webp', async ({ bytes, path }) =>
    asPicture(bytes, path, (picture) =>
      picture
        .resize(THUMBNAIL.width, THUMBNAIL.height, { fit: 'inside', withoutEnlargement: true })
        .webp({ quality: 82 })
        .toBuffer(),
    ),
  );
}

/** Something small made of an entry, kept under `thumbnails/` by what the archive and the entry are. */
export async function kept(
  archiveId: number,
  n: number,
  ending: string,
  make: (entry: { bytes: Uint8Array; mime: string; path: string }) => Promise<Uint8Array>,
): Promise<Uint8Array> {
  const row = await ArchiveModel.findByPk(archiveId);
  return withArchive(archiveId, async ({ source, entries }) => {
    // Of an archive inside another the time is that of the file around it.
    const facts = `${row?.path}:${source.name}:${source.size}:${entries.at(n)}:${entries.stored(n)}:${row?.modified ?? 0}`;
    const path = join(env().home, 'thumbnails', `${createHash('sha256').update(facts).digest('hex')}.${ending}`);
    const known = await readFile(path).catch(() => undefined);
    if (known !== undefined) return known;
    const made = await make(await entryBytes(archiveId, n));
    await mkdir(dirname(path), { recursive: true });
    // What is lost with the power is made again.
    const sink = await createFile(path, { durable: false });
    await sink.write(made);
    await sink.close();
    return made;
  });
}

/** Pixels of a picture that are decoded at most. */
const MAX_PIXELS = 64 << 20;

/** Hands the picture to `work`. @throws FaultError `wrong-kind` when the bytes are no picture */
export async function asPicture<T>(bytes: Uint8Array, name: string, work: (picture: Sharp) => Promise<T>): Promise<T> {
  try {
    return await work(sharp(bytes, { limitInputPixels: MAX_PIXELS, failOn: 'error' }));
  } catch (error) {
    if (isFaultError(error)) throw error;
    throw new FaultError(
      {
        code: 'wrong-kind',
        file: name,
        what: `the picture cannot be read (${(error as Error).message.split('\n')[0]})`,
        hint: 'Is it whole? Save it again as PNG.',
      },
      { cause: error },
    );
  }
}

export async function pictureFacts(
  archive: Archive,
  n: number,
): Promise<{ width: number; height: number; alpha: boolean } | null> {
  const bytes = await collect(readEntry(archive, n, { verify: false }));
  const facts = await sharp(bytes, { limitInputPixels: MAX_PIXELS })
    .metadata()
    .catch(() => undefined);
  return facts === undefined ? null : { width: facts.width, height: facts.height, alpha: facts.hasAlpha };
}

/** What the game expects back for an entry, in words. */
export async function expectationOf(
  archive: Archive,
  n: number,
  path: string,
  picture: { width: number; height: number; alpha: boolean } | null,
): Promise<string[]> {
  switch (kindOf(path)) {
    case 'picture':
      return picture === null
        ? []
        : [
            `A picture of ${picture.width} × ${picture.height}${picture.alpha ? ' with alpha' : ''}. Another size is made to fit.`,
          ];
    case 'sound': {
      const bytes = await collect(readEntry(archive, n, { verify: false }));
      const facts = isWave(bytes) ? readWavFacts(bytes, path) : undefined;
      return facts === undefined
        ? []
        : [`A WAVE sound, ${sayWav(facts)}. The original lasts ${facts.seconds.toFixed(1)} s.`];
    }
    case 'words':
      return ['Text in UTF-8.'];
    case 'records':
      return path.endsWith('.json') ? ['JSON that can be read.'] : [];
    default:
      return ['Bytes of any kind: nothing is known about what it holds.'];
  }
}

export function isWave(bytes: Uint8Array): boolean {
  return mimeOf('', bytes.subarray(0, HEAD_BYTES)) === 'audio/wav';
}
