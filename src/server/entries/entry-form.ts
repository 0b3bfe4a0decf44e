/** What an entry is once understood: its facts, what the game expects back, and a small picture of it. */
import sharp from 'sharp';
import { textFormOf } from '../../core/text';
import { collect } from '../../core/bytes';
import { alphaUse, mipSide, sayExpectation, smallWebp, type Picture } from '../../core/forms/picture';
import { hexBytes, isFaultError, sayFault } from '../../core/faults';
import { readWavFacts, saySound, sayWav, secondsOf, soundFormatOf, soundsLikeNoise } from '../../core/forms/sound';
import { kindOf, declaredKind } from '../../core/game';
import { readEntry, type Archive } from '../../core/recipe';
import { ArchiveModel } from '../database';
import { filmFacts, filmPoster } from '../films';
import {
  clipOfFile,
  drawingOf,
  formOfBytes,
  freedom,
  isMeshFile,
  meshFacts,
  meshOfClip,
  meshOfFile,
  sizeIsFree,
  pictureOfEntry,
  saySoundExpectation,
  soundOfEntry,
  unpackMip,
  type FormBytes,
  type PictureOfFiles,
  type ServerForm,
} from '../forms';
import { formRecipeOf } from '../recipes';
import type { FilmFacts, FormFacts, MeshFacts, PictureFacts, SoundFacts } from '../shapes';
import { pathInGameOf } from '../games';
import { entryBytes, entryHead, isWave, kept, winnerBytes } from '../content';
import { asPicture } from '../content';

const THUMBNAIL = { width: 264, height: 168 } as const;
/** What the library reads by itself. */
const RASTER = /^image\/(png|jpeg|webp|gif)$/;

/** A small WebP of a picture, kept by what the archive and the entry are. */
export function thumbnail(archiveId: number, n: number): Promise<Uint8Array> {
  return kept(archiveId, n, 'webp', async ({ bytes, path, mime }) => {
    if (RASTER.test(mime))
      return asPicture(bytes, path, (one) =>
        one
          .resize(THUMBNAIL.width, THUMBNAIL.height, { fit: 'inside', withoutEnlargement: true })
          .webp({ quality: 82 })
          .toBuffer(),
      );
    if (mime.startsWith('video/')) return filmPoster(archiveId, n, THUMBNAIL);
    const form = await formOfBytes(bytes, path);
    if (form !== undefined) {
      const [gameId, inGame] = await Promise.all([gameOf(archiveId), pathInGameOf(archiveId, n)]);
      return drawnThumbnail(form, await formBytesOf(gameId, archiveId, n, inGame));
    }
    if (await isMeshFile(bytes, path)) return meshThumbnail(await gameOf(archiveId), { path, bytes });
    const { picture } = await pictureOfEntry(archiveId, n);
    const pixels = await unpackMip(picture, mipFor(picture));
    // Of plain numbers alpha is one more of them, and no transparency.
    if (!picture.srgb) for (let i = 3; i < pixels.rgba.length; i += 4) pixels.rgba[i] = 255;
    return smallWebp(pixels, THUMBNAIL.width, THUMBNAIL.height);
  });
}

const gameOf = async (archiveId: number): Promise<number> => (await ArchiveModel.findByPk(archiveId))!.gameId;

async function drawnThumbnail(form: ServerForm, of: FormBytes): Promise<Uint8Array> {
  const { pixels, paper } = await form.draw(of);
  const { width, height, rgba } = pixels;
  return sharp(rgba, { raw: { width, height, channels: 4 } })
    .resize(THUMBNAIL.width, THUMBNAIL.height, { fit: 'inside', withoutEnlargement: true })
    .flatten({ background: paper })
    .webp({ quality: 82 })
    .toBuffer();
}

/** A mesh as it is at rest; a clip as the mesh it moves. */
async function meshThumbnail(gameId: number, given: { path: string; bytes: Uint8Array }): Promise<Uint8Array> {
  const clip = await clipOfFile(given);
  const { mesh } = clip === undefined ? await meshOfFile(given) : await meshOfClip(gameId, clip);
  const { width, height } = THUMBNAIL;
  return smallWebp({ width, height, rgba: await drawingOf(mesh, width, height) }, width, height);
}

/** The smallest mip that still fills a thumbnail. */
function mipFor({ width, height, mips }: Picture): number {
  for (let mip = mips - 1; mip > 0; mip--)
    if (mipSide(width, mip) >= THUMBNAIL.width || mipSide(height, mip) >= THUMBNAIL.height) return mip;
  return 0;
}

export interface EntryForm {
  readonly picture: PictureFacts | null;
  readonly sound: SoundFacts | null;
  readonly mesh: MeshFacts | null;
  readonly film: FilmFacts | null;
  /** Of the forms in the registry. */
  readonly facts: FormFacts | null;
  readonly trouble: string | null;
  readonly expects: readonly string[];
}

/** What is said where nothing is known. */
export const NO_FORM: EntryForm = {
  picture: null,
  sound: null,
  mesh: null,
  film: null,
  facts: null,
  trouble: null,
  expects: [],
};

/** @param path in the game, @param mime by its first bytes */
export async function formOf({
  gameId,
  archive,
  archiveId,
  n,
  path,
  kind,
  mime,
}: {
  gameId: number;
  archive: Archive;
  archiveId: number;
  n: number;
  path: string;
  kind: string;
  mime: string;
}): Promise<EntryForm> {
  if (kind === 'picture') return RASTER.test(mime) ? rasterForm(archiveId, n, mime) : pictureForm(archiveId, n);
  if (archive.recipe.entries.sound !== undefined || (await isRecipeSound(archive, n, path)))
    return soundForm(archive, archiveId, n);
  if (kind === 'film') return filmForm(archiveId, n, mime);
  if (kind === 'mesh') return meshForm(gameId, archiveId, n, path);
  const form = await formOfBytes(await entryHead(archive, n), path);
  if (form !== undefined) return registeredForm(form, () => formBytesOf(gameId, archiveId, n, path));
  return { ...NO_FORM, expects: await otherExpectation(archive, n, path) };
}

/** Whether the fields an entry begins with describe it as a sound. */
const isRecipeSound = async (archive: Archive, n: number, path: string): Promise<boolean> =>
  (await formRecipeOf(await entryHead(archive, n), path, 'sound')) !== undefined;

/** A sound whose recipe says what it is; one that cannot be heard says why, and is still an entry like any other. */
async function soundForm(archive: Archive, archiveId: number, n: number): Promise<EntryForm> {
  const head = async () => `It begins with ${hexBytes(await entryHead(archive, n), 16)}, and is written as stored.`;
  let format;
  try {
    format = soundFormatOf(archive, n);
    const found = await soundOfEntry(archiveId, n);
    format = found.format;
    const { loop, rate } = format;
    return {
      ...NO_FORM,
      sound: {
        says: saySound(format),
        seconds: secondsOf(found.sound),
        loop: loop === undefined ? null : [loop[0] / rate, loop[1] / rate],
        trouble: soundsLikeNoise(found.sound)
          ? `What is decoded is nothing but loud noise: the codec, its blocks or the key may be others than the recipe says. ${await head()}`
          : null,
      },
      expects: saySoundExpectation(found),
    };
  } catch (error) {
    if (!isFaultError(error)) throw error;
    const says = format === undefined ? `codec ${error.fault.found ?? 'unknown'}` : saySound(format);
    const trouble = `${sayFault(error.fault)} ${await head()}`;
    return { ...NO_FORM, sound: { says, seconds: 0, loop: null, trouble } };
  }
}

/** A film that cannot be read says why. A packet of one is looked at as what it holds as well. */
async function filmForm(archiveId: number, n: number, mime: string): Promise<EntryForm> {
  try {
    const film = await filmFacts(archiveId, n);
    const own = film.packet !== null && RASTER.test(mime) ? await rasterForm(archiveId, n, mime) : NO_FORM;
    const says = film.streams.map((stream) => `${stream.says}.`);
    const expects = ['A film, a sound, or subtitles as SRT or WebVTT: only what yours brings is replaced.', ...says];
    return {
      ...own,
      film,
      expects:
        film.packet === null ? expects : [...expects, ...own.expects.map((line) => `This packet alone: ${line}`)],
    };
  } catch (error) {
    if (!isFaultError(error)) throw error;
    return { ...NO_FORM, trouble: sayFault(error.fault) };
  }
}

/** A mesh that cannot be read says why, and is still an entry like any other. */
async function meshForm(gameId: number, archiveId: number, n: number, path: string): Promise<EntryForm> {
  try {
    const { bytes } = await entryBytes(archiveId, n);
    const { facts, expects } = await meshFacts(gameId, { path, bytes });
    return { ...NO_FORM, mesh: facts, expects };
  } catch (error) {
    if (!isFaultError(error)) throw error;
    return { ...NO_FORM, trouble: sayFault(error.fault) };
  }
}

/** What cannot be read says why, and is still an entry like any other. */
async function registeredForm(form: ServerForm, of: () => Promise<FormBytes>): Promise<EntryForm> {
  try {
    return { ...NO_FORM, ...(await form.read(await of())) };
  } catch (error) {
    if (!isFaultError(error)) throw error;
    return { ...NO_FORM, trouble: sayFault(error.fault) };
  }
}

async function formBytesOf(gameId: number, archiveId: number, n: number, path: string): Promise<FormBytes> {
  const { bytes } = await entryBytes(archiveId, n);
  return { gameId, path, bytes, beside: (other) => winnerBytes(gameId, other) };
}

async function rasterForm(archiveId: number, n: number, mime: string): Promise<EntryForm> {
  const { bytes } = await entryBytes(archiveId, n);
  const facts = await sharp(bytes)
    .metadata()
    .catch(() => undefined);
  if (facts === undefined) return NO_FORM;
  const { width, height, hasAlpha: alpha } = facts;
  return {
    ...NO_FORM,
    picture: {
      ...{ width, height, alpha, mips: 1, layers: 1, faces: 1, srgb: true, beside: [] },
      packing: mime.slice('image/'.length).toUpperCase(),
      direct: true,
      free: { format: false, size: false },
    },
    expects: [`A picture of ${width} × ${height}${alpha ? ' with alpha' : ''}. Another size is made to fit.`],
  };
}

async function pictureForm(archiveId: number, n: number): Promise<EntryForm> {
  const found = await pictureOfEntry(archiveId, n).catch(() => undefined);
  if (found === undefined) return NO_FORM;
  return {
    ...NO_FORM,
    picture: await pictureFacts(found, await sizeIsFree(archiveId)),
    expects: sayExpectation(found.picture),
  };
}

export async function pictureFacts(found: PictureOfFiles, free = false): Promise<PictureFacts> {
  const { picture, files } = found;
  const { formats, size, mips: own } = freedom(found);
  const { width, height, mips, layers, faces, srgb, format } = picture;
  return {
    ...{ width, height, mips, layers, faces, srgb },
    alpha:
      alphaUse(await unpackMip(picture, mips - 1)) !== 'none' ||
      alphaUse(await unpackMip(picture, mipFor(picture))) !== 'none',
    packing: format.title,
    beside: files.slice(1).map(({ path }) => path),
    direct: false,
    free: { format: free && formats.length > 1, size: free && size && own },
  };
}

async function encodingOf(archive: Archive, n: number): Promise<string> {
  const bytes = await collect(readEntry(archive, n, { verify: false }));
  return textFormOf(bytes).encoding.toUpperCase();
}

async function otherExpectation(archive: Archive, n: number, path: string): Promise<string[]> {
  switch (declaredKind(archive.recipe) ?? kindOf(path)) {
    case 'sound': {
      const bytes = await collect(readEntry(archive, n, { verify: false }));
      const facts = isWave(bytes) ? readWavFacts(bytes, path) : undefined;
      return facts === undefined
        ? []
        : [`A WAVE sound, ${sayWav(facts)}. The original lasts ${facts.seconds.toFixed(1)} s.`];
    }
    case 'words':
      return [`Text in ${await encodingOf(archive, n)}.`];
    case 'records':
      return path.endsWith('.json') ? ['JSON that can be read.'] : [];
    default:
      return ['Bytes of any kind: nothing is known about what it holds.'];
  }
}
