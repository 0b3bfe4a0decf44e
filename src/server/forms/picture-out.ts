/** An entry that is a picture, as a file in an open format. */
import type { PictureOut } from '../../core/forms/picture';
import { inThread } from '../threads';
import { pictureOfEntry } from './entry-picture';

const MIMES: Readonly<Record<PictureOut, string>> = {
  png: 'image/png',
  tga: 'image/x-tga',
  dds: 'image/vnd-ms.dds',
  ktx2: 'image/ktx2',
};

/** @throws FormatError `wrong-kind` when it is no picture, or its pixels are none the format keeps */
export async function pictureFileAs(
  archive: number,
  n: number,
  as: PictureOut,
  signal: AbortSignal,
): Promise<{ bytes: Uint8Array; mime: string; path: string }> {
  const { picture, is, files } = await pictureOfEntry(archive, n);
  const [main] = files;
  const path = `${main!.path.replace(/\.[^./]*$/, '')}.${as}`;
  if (is === as) return { bytes: main!.bytes, mime: MIMES[as], path };
  const order = { picture: { ...picture, format: picture.format.name }, as };
  return { bytes: await inThread<object, Uint8Array>('pictureAs', order, signal), mime: MIMES[as], path };
}
