import type { Packer } from '../../../core/forms/picture';
import type { PackOrder } from '../../../workers/pool-thread';
import { inThread } from '../../threads';

/** Mips are made and blocks fitted in a thread: the page and other people go on meanwhile. */
export const packInThread =
  (signal: AbortSignal): Packer =>
  async (pixels, format, { srgb, normals = false, count = 1, quality }) => {
    const order: PackOrder = { pixels, format: format.name, srgb, normals, mips: count, quality };
    const levels = await inThread<PackOrder, readonly Uint8Array[]>('packMips', order, signal);
    const { width, height } = pixels;
    return { width, height, depth: 1, layers: 1, faces: 1, mips: levels.length, format, srgb, levels };
  };
