/** One level of a picture as it is packed: the page unpacks it in a worker of its own. */
import { FaultError } from '../../../core/faults';
import { mipSide, type Picture } from '../../../core/forms/picture';
import type { LevelHead, LevelQuery } from '../../shapes';

/** @throws FaultError `not-found` when the picture has no such level */
export function levelOf(picture: Picture, { mip, layer, face }: LevelQuery): { head: LevelHead; bytes: Uint8Array } {
  const { width, height, mips, layers, faces, format, srgb, levels } = picture;
  if (mip >= mips || layer >= layers || face >= faces)
    throw new FaultError({
      code: 'not-found',
      what: 'the picture has no such level',
      expected: `${mips} mips, ${layers} layers, ${faces} faces`,
    });
  return {
    head: { width: mipSide(width, mip), height: mipSide(height, mip), format: format.name, srgb },
    bytes: levels[(layer * faces + face) * mips + mip]!,
  };
}
