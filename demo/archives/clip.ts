/** Writes a clip: how the joints of a model turn and move, frame by frame. */
import { ByteBuilder } from './byte-builder';

export interface JointPose {
  /** A quaternion x, y, z, w of length 1. */
  readonly turn: readonly [number, number, number, number];
  readonly position: readonly [number, number, number];
}

export interface Clip {
  /** Path of the model it moves. */
  readonly mesh: string;
  readonly framesPerSecond: number;
  readonly loops: boolean;
  /** A pose of every joint for every frame. */
  readonly frames: readonly (readonly JointPose[])[];
}

export function writeClip({ mesh, framesPerSecond, loops, frames }: Clip): Uint8Array {
  const out = new ByteBuilder()
    .text('GPCL')
    .u16(1) // version
    .u16(loops ? 1 : 0)
    .u16(frames[0]!.length)
    .u16(frames.length)
    .f32(framesPerSecond)
    .text8(mesh)
    .align(4);
  for (const frame of frames) {
    for (const { turn, position } of frame) {
      for (const value of turn) out.u16(Math.round(value * 32_767) & 0xffff);
      for (const value of position) out.f32(value);
    }
  }
  return out.bytes();
}
