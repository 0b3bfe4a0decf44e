/** Pictures: those that browsers show as they are, and those that games keep packed. */
import sharp from 'sharp';
import {
  alphaUse,
  asPicture,
  fitPictureFiles,
  fitRaster,
  freedom,
  joinedPart,
  mipSide,
  sayExpectation,
  smallWebp,
  type Picture,
} from '../../../core/forms/picture';
import { PICTURE_OUT } from '../../../core/forms/picture/out-formats';
import { sayFault } from '../../../core/faults';
import { kindOf } from '../../../core/game';
import type { Glance, PictureFacts } from '../../shapes';
import type { DroppedFile, Fitted, FormRead, Frame, ServerForm, Subject } from '../form';
import { wrongKind } from '../wrong-kind';
import { isPackedPicture, pictureOf, sizeIsFree, type PictureOfFiles } from './entry-picture';
import { packInThread } from './pack-in-thread';
import { pictureFileAs } from './picture-out';
import { planPictures } from './take-out';
import { unpackMip } from './unpack-mip';

/** What the library reads by itself, and every browser shows. */
export const isRaster = (mime: string): boolean => /^image\/(png|jpeg|webp|gif)$/.test(mime);

export const pictureForm: ServerForm = {
  kind: 'picture',
  is: ({ kind }) => kind === 'picture',
  read: (subject) => (isRaster(subject.mime) ? readRaster(subject) : readPacked(subject)),
  glance: glanceOf,
  thumbnail: (subject, frame) =>
    isRaster(subject.mime) ? rasterThumbnail(subject, frame) : packedThumbnail(subject, frame),
  isThumbnailQuick: true,
  fit,
  planOut: planPictures,
  async asFile(subject, format, signal) {
    const as = PICTURE_OUT.find((one) => one === format);
    return as === undefined ? undefined : pictureFileAs(await pictureOf(subject), as, signal);
  },
  async exchange(subject, signal) {
    if (!(await isPackedPicture(subject.gameId, subject.head, subject.path))) return undefined;
    return pictureFileAs(await pictureOf(subject), 'dds', signal);
  },
  async measure(subject) {
    if (!(await isPackedPicture(subject.gameId, subject.head, subject.path))) return {};
    const read = await pictureOf(subject).catch(() => undefined);
    if (read === undefined) return {};
    const { width, height, mips, format } = read.picture;
    return { picture: { width, height, mips, packing: format.palette?.of ?? format.name } };
  },
};

/** A picture that browsers show as it is. */
export async function readRaster({ path, mime, bytes }: Subject): Promise<FormRead> {
  const { width, height, hasAlpha: alpha } = await asPicture(await bytes(), path, (picture) => picture.metadata());
  const facts: PictureFacts = {
    ...{ form: 'picture', width, height, alpha, mips: 1, layers: 1, faces: 1, srgb: true, companions: [] },
    packing: mime.slice('image/'.length).toUpperCase(),
    direct: true,
    free: { format: false, size: false },
  };
  const expects = [`A picture of ${width} × ${height}${alpha ? ' with alpha' : ''}. Another size is made to fit.`];
  return { facts, expects, detail: { picture: { width, height } } };
}

async function readPacked(subject: Subject): Promise<FormRead> {
  const found = await pictureOf(subject);
  const { entry } = subject;
  const free = entry !== undefined && (await sizeIsFree(entry.archive));
  const facts = await factsOf(found, free);
  const { width, height } = facts;
  const { insteadOf } = found;
  const fallback =
    insteadOf === undefined
      ? []
      : [
          `The recipe ${insteadOf.recipe.title} does not read it, so it is read as ${facts.packing}. ${sayFault(insteadOf.fault)}`,
        ];
  return { facts, expects: [...fallback, ...sayExpectation(found.picture)], detail: { picture: { width, height } } };
}

async function factsOf(found: PictureOfFiles, free: boolean): Promise<PictureFacts> {
  const { picture, files } = found;
  const { formats, size, mips: own } = freedom(found);
  const { width, height, mips, layers, faces, srgb, format } = picture;
  return {
    ...{ form: 'picture', width, height, mips, layers, faces, srgb },
    alpha: await hasAlpha(picture),
    packing: format.title,
    companions: files.slice(1).map(({ path }) => path),
    direct: false,
    free: { format: free && formats.length > 1, size: free && size && own },
  };
}

/** Small mips are enough to see whether its alpha is used. */
async function hasAlpha(picture: Picture): Promise<boolean> {
  for (const mip of [picture.mips - 1, mipFor(picture, SMALL)])
    if (alphaUse(await unpackMip(picture, mip)) !== 'none') return true;
  return false;
}

const SMALL: Frame = { width: 264, height: 168 };

/** The smallest mip that still fills a frame. */
function mipFor({ width, height, mips }: Picture, frame: Frame): number {
  for (let mip = mips - 1; mip > 0; mip--)
    if (mipSide(width, mip) >= frame.width || mipSide(height, mip) >= frame.height) return mip;
  return 0;
}

async function glanceOf(subject: Subject): Promise<Glance> {
  const raster = await sharp(await subject.bytes())
    .metadata()
    .catch(() => undefined);
  const packed = raster === undefined ? (await pictureOf(subject)).picture : undefined;
  const { width, height } = raster ?? packed!;
  const packing = raster?.format.toUpperCase() ?? packed!.format.title.split(' ')[0]!;
  return {
    summary: `${width === height ? `${width}²` : `${width}×${height}`} ${packing}`,
    shows: { is: 'thumbnail', webp: null },
  };
}

async function rasterThumbnail({ path, bytes }: Subject, { width, height }: Frame): Promise<Uint8Array> {
  return asPicture(await bytes(), path, (picture) =>
    picture
      .resize(width, height, { fit: 'inside', withoutEnlargement: true })
      .webp({ quality: 82, effort: 2 })
      .toBuffer(),
  );
}

async function packedThumbnail(subject: Subject, frame: Frame): Promise<Uint8Array> {
  const { picture } = await pictureOf(subject);
  const pixels = await unpackMip(picture, mipFor(picture, frame));
  // Of plain numbers alpha is one more of them, and no transparency.
  if (!picture.srgb) for (let i = 3; i < pixels.rgba.length; i += 4) pixels.rgba[i] = 255;
  return smallWebp(pixels, frame.width, frame.height);
}

async function fit(original: Subject, dropped: DroppedFile): Promise<Fitted> {
  const { bytes, fileName, fitOptions, signal, changed } = dropped;
  if (!(await isPackedPicture(original.gameId, original.head, original.path))) {
    if (kindOf(fileName, bytes) !== 'picture') throw wrongKind(original, dropped);
    const made = await fitRaster(original.path, await original.bytes(), bytes, fileName);
    return { files: [{ path: original.path, bytes: made.bytes }], notes: made.notes };
  }
  const picture = await pictureOf(original);
  const { quality = 'best', chosen = false, ownSize = false, part } = fitOptions;
  const free = original.entry !== undefined && (await sizeIsFree(original.entry.archive));
  const how = { quality, chosen: chosen && free, ownSize: ownSize && free, pack: packInThread(signal) };
  if (part === undefined) return fitPictureFiles(picture, bytes, fileName, how);
  const now = await changed();
  const joined = await joinedPart(now === undefined ? picture : await pictureOf(now), bytes, fileName, part);
  const made = await fitPictureFiles(picture, joined, `${fileName}.png`, how);
  return { ...made, notes: [{ code: 'picture-part-joined', part: part.suffix }, ...made.notes] };
}
