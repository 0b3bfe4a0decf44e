/** Pictures that the library reads as they are: PNG, JPEG, WebP, GIF. */
import sharp, { type Sharp } from 'sharp';
import { FaultError, isFaultError } from '../../faults';

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
