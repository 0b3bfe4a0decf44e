/** A moved clip, as the game keeps the original. */
import type { Note } from '../../notes';
import { FormatError } from '../../faults';
import { STILL, type MeshClip, type MeshJoint } from './mesh';
import type { ClipTrack, OpenMesh } from './mesh-model';

/**
 * An animation as the clip it replaces: sampled at its rate, for its joints. Joints that do not move rest.
 *
 * @throws FormatError `wrong-kind` when there is none, or it moves joints that the mesh does not have
 */
export function fitClip(
  original: MeshClip,
  joints: readonly MeshJoint[],
  given: OpenMesh,
  file: string,
  framesFree: boolean,
): { clip: MeshClip; notes: Note[] } {
  const { clips } = given;
  const chosen = clips.find(({ name }) => name.toLowerCase() === original.name.toLowerCase()) ?? clips[0];
  const wrong = (what: string, hint: string, expected?: string) =>
    new FormatError({ code: 'wrong-kind', file, what, hint, ...(expected === undefined ? {} : { expected }) });
  if (chosen === undefined) throw wrong('there is no animation in it', 'Export it with its animations.');
  const notes: Note[] = [];
  if (clips.length > 1) notes.push({ code: 'mesh-clip-chosen', count: clips.length, name: chosen.name });
  const numbers = new Map(joints.map(({ name }, i) => [name.toLowerCase(), i]));
  const stranger = chosen.tracks.find(({ joint }) => !numbers.has(joint.toLowerCase()));
  if (stranger !== undefined)
    throw wrong(
      `it moves ${stranger.joint}, which is no joint of the model`,
      'Give the joints the names they have in the game.',
      joints.map(({ name }) => name).join(', '),
    );
  const seconds = Math.max(0, ...chosen.tracks.map(({ times }) => times.at(-1) ?? 0));
  const own = Math.max(1, Math.round(seconds * original.rate) + 1);
  const frames = framesFree ? own : original.frames;
  if (frames !== original.frames) notes.push({ code: 'mesh-clip-frames', frames, original: original.frames });
  if (!framesFree && own !== frames) notes.push({ code: 'mesh-clip-length', yours: own, longer: own > frames });
  const turns = new Float32Array(frames * original.joints * 4);
  const places = new Float32Array(frames * original.joints * 3);
  for (let joint = 0; joint < original.joints; joint++) {
    const rest = joints[joint];
    const track = (path: ClipTrack['path']) =>
      chosen.tracks.find((one) => one.path === path && numbers.get(one.joint.toLowerCase()) === joint);
    const [turning, moving] = [track('rotation'), track('translation')];
    for (let frame = 0; frame < frames; frame++) {
      const at = frame * original.joints + joint;
      const time = frame / original.rate;
      turns.set(turning === undefined ? (rest?.turn ?? STILL) : unitQuad(sampled(turning, 4, time)), at * 4);
      places.set(moving === undefined ? (rest?.at ?? [0, 0, 0]) : sampled(moving, 3, time), at * 3);
    }
  }
  return { clip: { ...original, frames, turns, places }, notes };
}

function sampled({ times, values, steps }: ClipTrack, size: number, time: number): number[] {
  let next = times.findIndex((one) => one > time + 1e-6);
  if (next < 0) next = times.length;
  const before = Math.max(0, next - 1);
  const after = Math.min(times.length - 1, next);
  const gap = times[after]! - times[before]!;
  const part = steps || gap <= 0 ? 0 : Math.min(1, Math.max(0, (time - times[before]!) / gap));
  const [a, b] = [before, after].map((i) => Array.from(values.subarray(i * size, (i + 1) * size))) as [
    number[],
    number[],
  ];
  // Of two quaternions that represent the same turn the nearer one.
  const sign = size === 4 && a.reduce((sum, value, i) => sum + value * b[i]!, 0) < 0 ? -1 : 1;
  return a.map((value, i) => value * (1 - part) + b[i]! * sign * part);
}

function unitQuad(values: number[]): number[] {
  const length = Math.hypot(...values) || 1;
  return values.map((value) => value / length);
}
