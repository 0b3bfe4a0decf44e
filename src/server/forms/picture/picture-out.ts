/** A picture as a file in an open format. */
import type { PictureOut, SplitPart } from '../../../core/forms/picture';
import type { PictureAsOrder } from '../../../workers/pool-thread';
import { inThread } from '../../threads';
import type { PictureOfFiles } from './entry-picture';

const MIMES: Readonly<Record<PictureOut, string>> = {
  png: 'image/png',
  tga: 'image/x-tga',
  dds: 'image/vnd-ms.dds',
  ktx2: 'image/ktx2',
};

/** What of a picture goes out, in formats that keep one level. */
export interface PictureChoice {
  /** The smallest where there are fewer. */
  readonly mip: number;
  readonly part?: SplitPart | undefined;
}

/** @throws FormatError `wrong-kind` when its pixels are none the format keeps */
export async function pictureFileAs(
  { picture, is, files }: PictureOfFiles,
  as: PictureOut,
  signal: AbortSignal,
  { mip, part }: PictureChoice = { mip: 0 },
): Promise<{ bytes: Uint8Array; mime: string; path: string }> {
  const [main] = files;
  const path = `${main!.path.replace(/\.[^./]*$/, '')}.${as}`;
  if (is === as && mip === 0 && part === undefined) return { bytes: main!.bytes, mime: MIMES[as], path };
  const order: PictureAsOrder = { picture: { ...picture, format: picture.format.name }, as, mip, part };
  return { bytes: await inThread<PictureAsOrder, Uint8Array>('pictureAs', order, signal), mime: MIMES[as], path };
}
