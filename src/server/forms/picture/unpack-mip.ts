/** Pixels of a mip, unpacked without keeping others waiting. */
import { mipSide, unpackLevel, type Picture, type Pixels } from '../../../core/forms/picture';
import type { UnpackOrder } from '../../../workers/pool-thread';
import { inThread } from '../../threads';

/** Fewer pixels are unpacked sooner than they are sent to a thread and back. */
const FEW = 1 << 18;

export async function unpackMip(picture: Picture, mip: number): Promise<Pixels> {
  if (mipSide(picture.width, mip) * mipSide(picture.height, mip) <= FEW) return unpackLevel(picture, { mip });
  const order: UnpackOrder = { picture: { ...picture, format: picture.format.name }, mip };
  return inThread<UnpackOrder, Pixels>('unpack', order, new AbortController().signal);
}
